import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState, type KeyboardEvent, type ReactNode } from 'react';
import Button from 'react-bootstrap/Button';
import { api, asProblem, type Calendar, type Line } from '../../shared/api/client';
import {
  addMinutes,
  at,
  clockText,
  dayOf,
  dayRangeText,
  minutesAhead,
  shortDay,
  zoneCity,
  type Day,
} from '../../shared/dates';
import { keepDraft, readDraft } from '../../shared/data/draftStorage';
import { useFocusBack } from '../../shared/useFocusBack';
import { problemText, useTexts } from '../../shared/i18n';
import { markClass, Spine } from '../../shared/parts/Spine';
import { useDebounced } from '../../shared/useDebounced';
import { useActions } from '../../shared/data/actions';
import { factsOf, inputOfDraft, newDraft, withTiming, type EventDraft } from '../../event/draft/draft';
import { DraftClashes } from '../../event/DraftClashes';
import { useAsked } from '../../shared/data/rights';
import { useCalendars, useLists } from '../../shared/data/useLists';
import { useMeanings } from '../../shared/data/useMeanings';
import { Doubts } from './Doubts';
import { useTypedLines } from './useTypedLines';
import './entry.scss';

export interface Where {
  calendar: Calendar;
  day: Day;
  /** The last of the days that were drawn. */
  lastDay?: Day;
  /** The time that was drawn, for a line that names none, and the zone of the clock it was drawn on. */
  clock?: { from: string; to: string; zone?: string };
}

interface Props extends Where {
  alignEnd?: boolean;
  onClose: () => void;
  onMore: (draft: EventDraft) => void;
  /** Several lines were pasted. */
  onLines: (lines: string[]) => void;
}

const ROOM_PX = 270;

// What was typed and not yet saved outlives the field, and a reload.
const keptKey = (calendarId: string, day: Day) => `line ${calendarId} ${day}`;

// Drawn on another clock than the calendar's, it is meant in that zone.
const drawn = ({ from, to, zone }: NonNullable<Where['clock']>, calendar: Calendar): Partial<EventDraft> => ({
  allDay: false,
  from,
  to,
  ...(zone && zone !== calendar.zone && { zone }),
});

export const toDraft = (line: Line, { calendar, day, lastDay, clock }: Where): EventDraft => {
  const draft: EventDraft = {
    ...withTiming(newDraft(calendar.id, day, line.title), line.timing),
    place: line.place,
    rule: line.rule,
    follows: line.follows ?? null,
    facts: factsOf(line.facts),
  };
  // What was drawn holds unless the line says otherwise.
  const saysTime = line.timing.kind !== 'allDay' || line.parts.some((p) => p.kind === 'time');
  if (clock && !saysTime) return { ...draft, ...drawn(clock, calendar) };
  return lastDay && lastDay > draft.lastDay && !draft.rule ? { ...draft, lastDay } : draft;
};

/** Every event a line makes: where it names several times, one each. */
export const toDrafts = (line: Line, where: Where): EventDraft[] => {
  const first = toDraft(line, where);
  return [first, ...line.more.map((timing) => withTiming({ ...first, rule: null, follows: null }, timing))];
};

/** One line of text makes an event; what was understood is shown while typing. */
export const LineEntry = ({ alignEnd, onClose, onMore, onLines, ...where }: Props) => {
  const { calendar, day, lastDay, clock } = where;
  const calendars = useCalendars();
  const { t, language } = useTexts();
  const actions = useActions();
  const { meanings, schoolZone } = useMeanings();
  const kept = keptKey(calendar.id, day);
  const [problem, setProblem] = useState<string | null>(null);
  // What is wrong with a line that is not in the field any more.
  const [lost, setLost] = useState<string | null>(null);
  const field = useRef<HTMLTextAreaElement>(null);
  const read = (line: string) => api.line({ calendarId: calendar.id, day, text: line, language });
  const { text, isSent, isGoing, type, finish, leave } = useTypedLines({
    begun: readDraft<string>(kept) ?? '',
    add: async (typed) => {
      const understood = await read(typed);
      if (understood.more.length > 0)
        await actions.addMany(toDrafts(understood, where).map((d) => inputOfDraft(d, null)));
      else await actions.addEvent(inputOfDraft(toDraft(understood, where), null));
    },
    onText: (now) => {
      setProblem(null);
      keepDraft(kept, now || null);
    },
    onRefused: (error) => setProblem(problemText(t, asProblem(error))),
    onLost: (refused, error) => setLost(t('line.refused', { line: refused, why: problemText(t, asProblem(error)) })),
    onBack: (lines) => {
      keepDraft(kept, null);
      onLines(lines);
    },
    onAdded: (left) => {
      const isLeft = !field.current?.closest('.line-entry')?.contains(document.activeElement);
      if (!left || isLeft) close();
    },
  });
  const close = () => {
    if (!leave()) onClose();
  };
  const rested = useDebounced(text, 120);
  const line = useQuery({
    queryKey: ['line', calendar.id, day, rested, language, meanings],
    // Which text it was read from: positions are good in that one only.
    queryFn: async () => ({ text: rested, ...(await read(rested)) }),
    enabled: rested.trim() !== '',
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    retry: false,
  });
  // What cannot be taken as it stands is said while it is typed.
  const wrong =
    problem ?? (line.error && text === rested && text.trim() ? problemText(t, asProblem(line.error)) : null);

  const remember = useFocusBack();
  useEffect(() => {
    remember(field.current);
    field.current?.focus();
    const panel = field.current?.closest<HTMLElement>('.line-entry');
    if (!panel) return;
    // What is said beneath the line mostly finds room without anything moving.
    panel.style.scrollMarginBottom = `${ROOM_PX}px`;
    panel.scrollIntoView({ block: 'nearest', inline: 'nearest' });
    panel.style.scrollMarginBottom = '';
    // Once, when it is opened.
  }, []); // oxlint-disable-line react/exhaustive-deps

  // What is said beneath the line stays in sight as it grows.
  const said = line.data?.text === text ? line.data : undefined;
  useEffect(() => {
    const panel = field.current?.closest('.line-entry');
    if (!panel) return;
    const grown = new ResizeObserver(() => panel.scrollIntoView({ block: 'nearest', inline: 'nearest' }));
    grown.observe(panel);
    return () => grown.disconnect();
  }, []);

  const more = async () => {
    if (leave()) return;
    const blank: EventDraft = {
      ...newDraft(calendar.id, day),
      ...(lastDay && { lastDay }),
      ...(clock && drawn(clock, calendar)),
    };
    try {
      onMore(text.trim() ? toDraft(await read(text), where) : blank);
      keepDraft(kept, null);
    } catch {
      onMore({ ...blank, title: text });
    }
  };

  const key = (e: KeyboardEvent) => {
    // On a button it presses that button.
    if (e.key === 'Enter' && !e.shiftKey && !(e.target instanceof HTMLButtonElement)) {
      e.preventDefault();
      finish();
    } else if (e.key === 'Escape') {
      e.preventDefault();
      close();
    }
    e.stopPropagation();
  };

  const data = text.trim() ? line.data : undefined;
  const asked = useAsked(data ? toDraft(data, where) : newDraft(calendar.id, day), null);
  return (
    <div
      className={`line-entry ${markClass(calendar.mark)}${alignEnd ? ' align-end' : ''}`}
      onKeyDown={key}
      onBlur={(e) => {
        if (!isGoing() && !e.currentTarget.contains(e.relatedTarget)) close();
      }}
    >
      <Spine />
      <div className="line-entry-body">
        <p className="line-entry-where">
          {calendar.title} · {shortDay(day, language)}
          {lastDay && lastDay !== day && ` – ${shortDay(lastDay, language)}`}
          {clock && `, ${clockText(at(day, clock.from), language)}–${clockText(at(day, clock.to), language)}`}
        </p>
        <textarea
          ref={field}
          rows={text.length > 38 ? 2 : 1}
          value={text}
          placeholder={t('line.placeholder')}
          aria-label={t('line.label', { calendar: calendar.title, day: shortDay(day, language) })}
          onChange={(e) => type(e.target.value.replaceAll('\n', ' '))}
          onPaste={(e) => {
            const lines = e.clipboardData
              .getData('text/plain')
              .split(/\r?\n/)
              // Cells that are empty at the end of a row are cells all the same.
              .map((l) => l.replace(/^ +| +$/g, ''))
              .filter((l) => l.trim());
            if (lines.length < 2) return;
            e.preventDefault();
            onLines(lines);
          }}
        />
        {text.trim() && said && (
          <Doubts
            text={text}
            line={said}
            onText={(chosen) => {
              type(chosen);
              field.current?.focus();
            }}
          />
        )}
        {data && (
          <Reading
            zone={schoolZone && calendar.zone !== schoolZone ? calendar.zone : null}
            schoolZone={schoolZone}
            line={data}
            draft={toDraft(data, where)}
            calendars={calendars}
            onPart={(part) => {
              field.current?.focus();
              field.current?.setSelectionRange(part.start, part.start + part.length);
            }}
          />
        )}
        {data && (
          <DraftClashes
            input={inputOfDraft(toDraft(data, where), null)}
            id={null}
            calendars={calendars}
            enabled={text === rested}
          />
        )}
        {[lost, wrong].map(
          (said) =>
            said !== null && (
              <p key={said} className="notice notice-danger" role="alert">
                {said}
              </p>
            ),
        )}
        {/* Read and reached last, and seen right beneath the text: there it stands still whatever is understood. */}
        <div className="line-entry-foot">
          <Button onClick={finish} disabled={!text.trim() || isSent}>
            {data && data.more.length > 0
              ? t('line.addMany', { count: data.more.length + 1 })
              : t(asked.length > 0 ? 'line.propose' : 'line.add')}
          </Button>
          {!data?.more.length && (
            <Button variant="link" onClick={() => void more()}>
              {t('line.more')}
            </Button>
          )}
        </div>
      </div>
    </div>
  );
};

type Part = Line['parts'][number];

interface ReadingProps {
  /** The calendar's zone, when it is not the one the person reads clocks in. */
  zone: string | null;
  /** The zone they read clocks in. */
  schoolZone: string | undefined;
  line: Line;
  draft: EventDraft;
  calendars: Calendar[];
  /** Goes to what a part was read from. */
  onPart: (part: Part) => void;
}

/** What was understood, part by part; each leads to its words. */
const Reading = ({ zone, schoolZone, line, draft, calendars, onPart }: ReadingProps) => {
  const { t, language } = useTexts();
  const lists = useLists();
  const isDoubted = (...parts: (Part | undefined)[]) =>
    line.doubts.some((d) => parts.some((p) => p && d.start < p.start + p.length && d.start + d.length > p.start));
  const when = (of: EventDraft) => {
    if (of.allDay)
      return `${of.lastDay > of.firstDay ? dayRangeText(of.firstDay, of.lastDay, language) : shortDay(of.firstDay, language)}, ${t('allDay')}`;
    // What ends at its start has no length: it is due then.
    const end = of.lastDay === of.firstDay && of.to === of.from ? '' : `–${clockText(at(of.lastDay, of.to), language)}`;
    const next = of.lastDay > of.firstDay ? ` (${t('line.nextDay', { day: shortDay(of.lastDay, language) })})` : '';
    return `${shortDay(of.firstDay, language)}, ${clockText(at(of.firstDay, of.from), language)}${end}${next}`;
  };
  // On the calendar's own clock, and what that is on the clock here.
  const elsewhere = (zone: string, here: string) => {
    const there = at(draft.firstDay, draft.from);
    const time = addMinutes(there, minutesAhead(here, zone, draft.firstDay));
    const day = dayOf(time) === draft.firstDay ? '' : `${shortDay(dayOf(time), language)}, `;
    return t('line.inZone', { place: zoneCity(zone), here: zoneCity(here), time: day + clockText(time, language) });
  };
  const partsOf = (...kinds: Part['kind'][]) => line.parts.filter((p) => kinds.includes(p.kind));
  const chip = (
    key: string,
    text: ReactNode,
    part: Part | undefined,
    className?: string,
    doubted = isDoubted(part),
  ) => (
    <li key={key} className={`${className ?? ''}${doubted ? ' in-doubt' : ''}`}>
      {doubted && <span className="visually-hidden">{t('line.inDoubt')}: </span>}
      {part ? (
        <button type="button" title={t('line.toPart')} onClick={() => onPart(part)}>
          {text}
        </button>
      ) : (
        text
      )}
    </li>
  );
  return (
    <ul className="reading" aria-label={t('line.understood')}>
      {chip('title', line.title || t('line.noTitle'), partsOf('title')[0], line.title ? '' : 'missing')}
      {chip(
        'when',
        `${when(draft)}${zone && schoolZone && !draft.allDay ? ` · ${elsewhere(zone, schoolZone)}` : ''}`,
        partsOf('time', 'date', 'length')[0],
        '',
        isDoubted(...partsOf('time', 'date', 'length')),
      )}
      {line.more.map((timing, i) => (
        <li key={`more ${i}`}>{when(withTiming(draft, timing))}</li>
      ))}
      {line.place && chip('place', line.place, partsOf('place')[0])}
      {draft.facts.tags.map((tag, i) => chip(`#${tag}`, `#${tag}`, partsOf('tag')[i]))}
      {draft.facts.categoryId &&
        chip('category', lists.categories.find((c) => c.id === draft.facts.categoryId)?.name, partsOf('category')[0])}
      {draft.facts.alsoIn.map((id, i) =>
        chip(id, t('line.alsoIn', { calendar: calendars.find((c) => c.id === id)?.title }), partsOf('calendar')[i]),
      )}
      {line.rule &&
        chip(
          'rule',
          <>
            <span className="rule-said">{line.dates.sentence}</span>
            {line.dates.total !== null && ` · ${t('dates.count', { count: line.dates.total })}`}
          </>,
          partsOf('repeat', 'end')[0],
        )}
      {line.dates.moved && (
        <li className="told-moved">{t('dates.moved', { date: shortDay(dayOf(line.dates.start), language) })}</li>
      )}
    </ul>
  );
};
