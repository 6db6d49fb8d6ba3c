import { useRef, useState, type CSSProperties, type KeyboardEvent, type PointerEvent } from 'react';
import type { DayInfo } from '../shared/api/client';
import { addDays, addMonths, formatDay, longDay, monthDays, weekday, type Day } from '../shared/dates';
import { useTexts } from '../shared/i18n';
import { WEEKDAYS, weekdayName } from '../shared/rules';
import { monthsOf, spanOf, type DaySpan } from './yearDraft';

interface Props {
  year: DaySpan;
  days: DayInfo[];
  today: Day;
  chosen: DaySpan | null;
  onChoose: (span: DaySpan) => void;
}

/** Six weeks and a day hold every month, whatever weekday it begins on. */
const COLUMNS = 37;

/** The whole year at a glance: a row a month, weekdays under each other; days are chosen by drawing over them. */
export const YearSheet = ({ year, days, today, chosen, onChoose }: Props) => {
  const { t, language } = useTexts();
  const info = new Map(days.map((day) => [day.date, day]));
  const [anchor, setAnchor] = useState<Day | null>(null);
  const [cursor, setCursor] = useState<Day>(today >= year.first && today <= year.last ? today : year.first);
  const sheet = useRef<HTMLDivElement>(null);
  const stop = cursor >= year.first && cursor <= year.last ? cursor : year.first;

  const dayUnder = (e: PointerEvent): Day | undefined => {
    const target = document.elementFromPoint(e.clientX, e.clientY);
    return target instanceof HTMLElement ? target.closest<HTMLElement>('[data-day]')?.dataset.day : undefined;
  };
  const begin = (e: PointerEvent) => {
    const day = dayUnder(e);
    if (!day || e.button !== 0) return;
    const from = e.shiftKey && chosen ? chosen.first : day;
    setAnchor(from);
    setCursor(day);
    onChoose(spanOf(from, day, year));
  };
  const draw = (e: PointerEvent) => {
    if (!anchor || e.buttons === 0) return;
    const day = dayUnder(e);
    if (day) onChoose(spanOf(anchor, day, year));
  };
  const key = (e: KeyboardEvent) => {
    const goTo: Partial<Record<string, Day>> = {
      ArrowLeft: addDays(stop, -1),
      ArrowRight: addDays(stop, 1),
      ArrowUp: addDays(stop, -7),
      ArrowDown: addDays(stop, 7),
      PageUp: addMonths(stop, -1),
      PageDown: addMonths(stop, 1),
    };
    const next = goTo[e.key];
    if (e.key === 'Enter' || e.key === ' ') {
      e.preventDefault();
      setAnchor(stop);
      onChoose(spanOf(stop, stop, year));
    } else if (next && next >= year.first && next <= year.last) {
      e.preventDefault();
      setCursor(next);
      if (e.shiftKey) onChoose(spanOf(anchor ?? stop, next, year));
      if (e.shiftKey && !anchor) setAnchor(stop);
      if (!e.shiftKey) setAnchor(null);
      sheet.current?.querySelector<HTMLElement>(`[data-day="${next}"]`)?.focus();
    }
  };

  return (
    <div
      className="year-sheet"
      ref={sheet}
      role="group"
      aria-label={t('year.sheet')}
      onPointerDown={begin}
      onPointerMove={draw}
      onPointerUp={() => setAnchor(null)}
      onKeyDown={key}
    >
      <div className="year-month year-heads" aria-hidden="true">
        <span />
        {Array.from({ length: COLUMNS }, (_, i) => (
          <span key={i} className={i % 7 > 4 ? 'is-weekend' : ''}>
            {weekdayName(WEEKDAYS[i % 7] ?? 'monday', language, 'short').slice(0, 2)}
          </span>
        ))}
      </div>
      {monthsOf(year.first, year.last).map((month) => (
        <div
          key={month}
          className="year-month"
          role="group"
          aria-label={formatDay(month, language, { month: 'long', year: 'numeric' })}
        >
          <span className="year-month-name">
            {formatDay(month, language, { month: 'short' }).replace('.', '')}
            {month.endsWith('-01-01') && <small> {month.slice(0, 4)}</small>}
          </span>
          {monthDays(month).map((day) => {
            const own = info.get(day);
            const outside = day < year.first || day > year.last;
            const isChosen = chosen !== null && chosen.first <= day && day <= chosen.last;
            const part = own?.partClosures[0];
            const said = [
              own?.closure ?? part?.name,
              own?.cycleDay && t('lanes.cycleDay', { day: own.cycleDay }),
              own?.isPinned && t('year.pinned'),
              own?.teachingWeek && t('month.week', { week: own.teachingWeek }),
              own?.weekLetter && t('plan.letter', { letter: own.weekLetter }),
              own?.term,
            ].filter(Boolean);
            const classes = [
              'year-day',
              own?.term && 'in-term',
              own?.closure && 'is-closed',
              part && 'is-part-closed',
              weekday(day) > 5 && 'is-weekend',
              day === today && 'is-today',
              isChosen && 'is-chosen',
            ];
            return (
              <button
                key={day}
                type="button"
                data-day={day}
                className={classes.filter(Boolean).join(' ')}
                style={
                  { '--column': weekday(month) + Number(day.slice(8)), '--weekday': weekday(day) } as CSSProperties
                }
                disabled={outside}
                tabIndex={day === stop ? 0 : -1}
                aria-pressed={isChosen}
                aria-label={`${longDay(day, language)}${said.length > 0 ? `: ${said.join(', ')}` : ''}`}
                title={own?.closure ?? part?.name}
              >
                <span className="year-number">{Number(day.slice(8))}</span>
                <span className={own?.isPinned ? 'year-cycle is-pinned' : 'year-cycle'}>{own?.cycleDay}</span>
                {weekday(day) === 1 && own?.teachingWeek && (
                  <span className="year-week">
                    {own.teachingWeek}
                    {own.weekLetter?.slice(0, 1)}
                  </span>
                )}
              </button>
            );
          })}
        </div>
      ))}
      <Key days={days} />
    </div>
  );
};

/** What the marks on the sheet mean; only those it has. */
const Key = ({ days }: { days: DayInfo[] }) => {
  const { t } = useTexts();
  const marks = [
    ['in-term', days.some((d) => d.term)],
    ['outside', days.some((d) => !d.term)],
    ['is-closed', days.some((d) => d.closure)],
    ['is-part-closed', days.some((d) => d.partClosures.length > 0)],
  ] as const;
  return (
    <ul className="year-key" aria-label={t('year.key.label')}>
      {marks
        .filter(([, has]) => has)
        .map(([mark]) => (
          <li key={mark}>
            <span className={`year-day ${mark}`} aria-hidden="true" /> {t(`year.key.${mark}`)}
          </li>
        ))}
      {days.some((d) => d.cycleDay) && (
        <li>
          <span className="year-cycle" aria-hidden="true">
            3
          </span>{' '}
          {t('year.key.cycle')}
        </li>
      )}
      {days.some((d) => d.teachingWeek) && (
        <li>
          <span className="year-week" aria-hidden="true">
            {days.some((d) => d.weekLetter) ? '4B' : '4'}
          </span>{' '}
          {days.some((d) => d.weekLetter) ? t('year.key.weekLetter') : t('year.key.week')}
        </li>
      )}
    </ul>
  );
};
