import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { useNavigate } from 'react-router';
import { api, asProblem, type Calendar, type LaidOut, type ReadLine } from '../../shared/api/client';
import { at, clockText, dayOf, dayRangeText, shortDay, type Day } from '../../shared/dates';
import { problemText, useTexts } from '../../shared/i18n';
import { upload } from '../../shared/data/uploads';
import { useDebounced } from '../../shared/useDebounced';
import { useActions } from '../../shared/data/actions';
import { inputOfDraft } from '../../event/draft/draft';
import { useMeanings } from '../../shared/data/useMeanings';
import { Doubts } from './Doubts';
import { toDraft, toDrafts } from './LineEntry';
import { Sheet } from '../../shared/parts/Sheet';
import './entry.scss';

interface Props {
  calendar: Calendar | null;
  day: Day;
  lines: string[];
  onClose: () => void;
}

/** Cells, as a spreadsheet gives them: as many on every line. */
const isTable = (lines: string[]): boolean => {
  const cells = lines.map((line) => line.split('\t').length);
  return lines.length > 1 && cells.every((count) => count > 1 && count === cells[0]);
};

/** A pasted list, line by line as it was understood, before anything is saved. */
export const PastedLines = ({ calendar, day, lines: pasted, onClose }: Props) => {
  const { t, language } = useTexts();
  const actions = useActions();
  const navigate = useNavigate();
  const [lines, setLines] = useState(pasted.map((text) => ({ text, wanted: true })));
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const { meanings } = useMeanings();
  const asked = useDebounced(JSON.stringify(lines.map((l) => l.text)), 250);
  const read = useQuery({
    queryKey: ['lines', calendar?.id, day, asked, language, meanings],
    queryFn: () => api.lines({ calendarId: calendar?.id ?? '', day, lines: JSON.parse(asked) as string[], language }),
    enabled: calendar !== null,
    placeholderData: keepPreviousData,
    retry: false,
  });
  if (!calendar) return null;
  // By its text: an answer may be to lines that have been changed since.
  const readings = new Map<string, ReadLine>(read.data?.map((r) => [r.text, r]));
  const good = lines.flatMap((l) => {
    const line = readings.get(l.text)?.line;
    return l.wanted && line && line.title ? [line] : [];
  });
  const set = (index: number, change: Partial<{ text: string; wanted: boolean }>) =>
    setLines(lines.map((l, i) => (i === index ? { ...l, ...change } : l)));
  const add = async () => {
    setBusy(true);
    try {
      await actions.addMany(
        good.flatMap((line) => toDrafts(line, { calendar, day })).map((draft) => inputOfDraft(draft, null)),
      );
      // What was not understood stays, to be mended.
      const left = lines.filter((l) => l.wanted && !readings.get(l.text)?.line?.title);
      if (left.length === 0) onClose();
      else setLines(left);
    } catch (error) {
      setProblem(problemText(t, asProblem(error)));
    } finally {
      setBusy(false);
    }
  };
  const toColumns = async () => {
    setBusy(true);
    try {
      const { id } = await upload<LaidOut>(
        '/api/bringing?name=pasted.tsv',
        new Blob([pasted.join('\n')]),
        () => undefined,
      );
      void navigate(`/elsewhere?file=${id}&into=${calendar.id}`);
    } catch (error) {
      setProblem(problemText(t, asProblem(error)));
      setBusy(false);
    }
  };
  return (
    <Sheet label={t('lines.title')} head={calendar.title} mark={calendar.mark} onClose={onClose}>
      <h2 className="lines-head">{t('lines.title')}</h2>
      <p className="quiet">{t('lines.hint')}</p>
      {isTable(pasted) && (
        <div className="notice notice-plain">
          <p>{t('lines.isTable')}</p>
          <Button size="sm" disabled={busy} onClick={() => void toColumns()}>
            {t('lines.asTable')}
          </Button>
        </div>
      )}
      <ol className="pasted-lines">
        {lines.map((l, i) => {
          const reading = readings.get(l.text);
          const draft = reading?.line && toDraft(reading.line, { calendar, day });
          const wrong = reading?.problem ?? (reading?.line && !reading.line.title ? t('line.noTitle') : null);
          return (
            <li key={i} className={l.wanted ? '' : 'is-unwanted'}>
              <Form.Check
                id={`line-${i}`}
                aria-label={t('lines.take', { text: l.text })}
                checked={l.wanted}
                disabled={busy}
                onChange={(e) => set(i, { wanted: e.target.checked })}
              />
              <div>
                <Form.Control
                  size="sm"
                  aria-label={t('lines.line', { number: i + 1 })}
                  value={l.text}
                  readOnly={busy}
                  isInvalid={wrong !== null}
                  onChange={(e) => set(i, { text: e.target.value })}
                />
                {wrong !== null ? (
                  <p className="line-wrong">{wrong}</p>
                ) : (
                  draft && (
                    <p className="quiet">
                      <strong>{draft.title}</strong> ·{' '}
                      {draft.lastDay > draft.firstDay && draft.allDay
                        ? dayRangeText(draft.firstDay, draft.lastDay, language)
                        : shortDay(draft.firstDay, language)}
                      {!draft.allDay && `, ${clockText(at(draft.firstDay, draft.from), language)}`}
                      {draft.place && ` · ${draft.place}`}
                      {reading.line?.rule && ` · ${reading.line.dates.sentence}`}
                      {reading.line &&
                        reading.line.more.map((timing) => ` · ${shortDay(dayOf(timing.start), language)}`).join('')}
                      {/* Nothing falls on the day the list was pasted on without saying so. */}
                      {reading.line && !reading.line.parts.some((p) => p.kind === 'date' || p.kind === 'repeat') && (
                        <em> · {t('lines.noDay', { day: shortDay(day, language) })}</em>
                      )}
                    </p>
                  )
                )}
                {reading?.line && (
                  <Doubts text={l.text} line={reading.line} onText={(chosen) => set(i, { text: chosen })} />
                )}
              </div>
            </li>
          );
        })}
      </ol>
      {(problem ?? read.error) && (
        <p className="notice notice-danger" role="alert">
          {problem ?? problemText(t, asProblem(read.error))}
        </p>
      )}
      <div className="sheet-foot">
        <Button disabled={busy || good.length === 0} onClick={() => void add()}>
          {t('lines.add', { count: good.reduce((sum, line) => sum + 1 + line.more.length, 0) })}
        </Button>
        <Button variant="outline-primary" onClick={onClose}>
          {t('cancel')}
        </Button>
      </div>
    </Sheet>
  );
};
