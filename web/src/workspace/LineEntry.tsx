import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState, type KeyboardEvent } from 'react';
import { Button } from 'react-bootstrap';
import { api, asProblem, type Calendar, type Line } from '../shared/api/client';
import { clockText, dayOf, shortDay, type Day } from '../shared/dates';
import { problemText, useTexts } from '../shared/i18n';
import { markClass, Spine } from '../shared/Spine';
import { useDebounced } from '../shared/useDebounced';
import { useActions } from './actions';
import { inputOfDraft, newDraft, withTiming, type EventDraft } from './draft';

interface Props {
  calendar: Calendar;
  day: Day;
  alignEnd?: boolean;
  onClose: () => void;
  onMore: (draft: EventDraft) => void;
}

// What was typed and not yet saved outlives the field, and a reload.
const keptKey = (calendarId: string, day: Day) => `valtro.line ${calendarId} ${day}`;

const toDraft = (line: Line, calendarId: string, day: Day): EventDraft => ({
  ...withTiming(newDraft(calendarId, day, line.title), line.timing),
  place: line.place,
  rule: line.rule,
});

/** One line of text makes an event; what was understood is shown while typing. */
export const LineEntry = ({ calendar, day, alignEnd, onClose, onMore }: Props) => {
  const { t, language } = useTexts();
  const actions = useActions();
  const kept = keptKey(calendar.id, day);
  const [text, setText] = useState(() => sessionStorage.getItem(kept) ?? '');
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const field = useRef<HTMLTextAreaElement>(null);
  const rested = useDebounced(text, 120);
  const read = (line: string) => api.line({ calendarId: calendar.id, day, text: line, language });
  const line = useQuery({
    queryKey: ['line', calendar.id, day, rested, language],
    queryFn: () => read(rested),
    enabled: rested.trim() !== '',
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });

  useEffect(() => {
    field.current?.focus();
    field.current?.closest('.line-entry')?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  }, []);

  const type = (value: string) => {
    setText(value);
    setProblem(null);
    if (value) sessionStorage.setItem(kept, value);
    else sessionStorage.removeItem(kept);
  };

  const add = async () => {
    if (!text.trim() || busy) return;
    setBusy(true);
    try {
      await actions.addEvent(inputOfDraft(toDraft(await read(text), calendar.id, day), null));
      sessionStorage.removeItem(kept);
      onClose();
    } catch (error) {
      setProblem(problemText(t, asProblem(error)));
      setBusy(false);
    }
  };

  const more = async () => {
    try {
      onMore(text.trim() ? toDraft(await read(text), calendar.id, day) : newDraft(calendar.id, day));
      sessionStorage.removeItem(kept);
    } catch {
      onMore(newDraft(calendar.id, day, text));
    }
  };

  const key = (e: KeyboardEvent) => {
    if (e.key === 'Enter' && !e.shiftKey) {
      e.preventDefault();
      void add();
    } else if (e.key === 'Escape') {
      e.preventDefault();
      onClose();
    }
    e.stopPropagation();
  };

  const data = text.trim() ? line.data : undefined;
  return (
    <div
      className={`line-entry ${markClass(calendar.mark)}${alignEnd ? ' align-end' : ''}`}
      onKeyDown={key}
      onBlur={(e) => {
        if (!busy && !e.currentTarget.contains(e.relatedTarget)) onClose();
      }}
    >
      <Spine />
      <div className="line-entry-body">
        <p className="line-entry-where">
          {calendar.title} · {shortDay(day, language)}
        </p>
        <textarea
          ref={field}
          rows={text.length > 38 ? 2 : 1}
          value={text}
          maxLength={500}
          placeholder={t('line.placeholder')}
          aria-label={t('line.label', { calendar: calendar.title, day: shortDay(day, language) })}
          onChange={(e) => type(e.target.value.replaceAll('\n', ' '))}
        />
        {data && <Reading line={data} />}
        {problem && (
          <p className="notice notice-danger" role="alert">
            {problem}
          </p>
        )}
        <div className="line-entry-foot">
          <Button onClick={() => void add()} disabled={!text.trim() || busy}>
            {t('line.add')}
          </Button>
          <Button variant="link" onClick={() => void more()}>
            {t('line.more')}
          </Button>
        </div>
      </div>
    </div>
  );
};

const Reading = ({ line }: { line: Line }) => {
  const { t, language } = useTexts();
  const start = dayOf(line.timing.start);
  const time =
    line.timing.kind === 'allDay'
      ? t('allDay')
      : `${clockText(line.timing.start, language)}–${clockText(line.timing.end, language)}`;
  return (
    <ul className="reading" aria-label={t('line.understood')}>
      <li className={line.title ? '' : 'missing'}>{line.title || t('line.noTitle')}</li>
      <li>
        {shortDay(start, language)}, {time}
      </li>
      {line.place && <li>{line.place}</li>}
      {line.rule && (
        <li>
          <span className="rule-said">{line.dates.sentence}</span>
          {line.dates.total !== null && ` · ${t('dates.count', { count: line.dates.total })}`}
        </li>
      )}
      {line.dates.moved && (
        <li className="told-moved">{t('dates.moved', { date: shortDay(dayOf(line.dates.start), language) })}</li>
      )}
    </ul>
  );
};
