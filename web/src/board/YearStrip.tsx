import { useQuery } from '@tanstack/react-query';
import { useLayoutEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { api } from '../shared/api/client';
import {
  addDays,
  addMonths,
  dayRangeText,
  daysBetween,
  firstOfMonth,
  formatDay,
  firstOfWeek,
  type Day,
} from '../shared/dates';
import { useTexts } from '../shared/i18n';

interface Props {
  from: Day;
  days: number;
  /** How many days the window may be stretched to; null when the form has its own length. */
  maxDays: number | null;
  today: Day;
  onChange: (window: { from: Day; days?: number }) => void;
}

const TOP = 18;
const HEIGHT = 78;
const BASE = 66;

type Drag = { part: 'move' | 'start' | 'end'; x: number; from: Day; days: number };

/** The whole school year, week by week, with the window that the board shows. */
export const YearStrip = ({ from, days, maxDays, today, onChange }: Props) => {
  const { t, language } = useTexts();
  const year = useQuery({
    queryKey: ['year', from.slice(0, 4), Number(from.slice(5, 7)) >= 8],
    queryFn: () => api.year(from),
    placeholderData: (old) => old,
  });
  const box = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  const drag = useRef<Drag | null>(null);

  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return;
    const observer = new ResizeObserver(() => setWidth(element.clientWidth));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  const data = year.data;
  if (!data || width === 0)
    return (
      <div className="year-strip">
        <div ref={box} className="strip-box" />
      </div>
    );

  const total = daysBetween(data.first, data.last) + 1;
  const x = (day: Day) => (daysBetween(data.first, day) / total) * width;
  const dayAt = (px: number) => addDays(data.first, Math.max(0, Math.min(total - 1, Math.floor((px / width) * total))));
  const narrow = width < 700;
  const most = Math.max(1, ...data.weeks.map((w) => w.occurrences));
  const months: Day[] = [];
  for (let m = firstOfMonth(data.first); m <= data.last; m = addMonths(m, 1)) months.push(m);
  const windowX = Math.max(0, x(from));
  const windowWidth = Math.max(16, Math.min(width, x(addDays(from, days))) - windowX);
  const snap = (day: Day) => (days >= 5 || maxDays === null ? firstOfWeek(day) : day);

  const moved = (e: PointerEvent) => {
    const d = drag.current;
    if (!d) return;
    const by = Math.round(((e.clientX - d.x) / width) * total);
    if (d.part === 'move') onChange({ from: snap(addDays(d.from, by)) });
    else if (d.part === 'end' && maxDays) onChange({ from: d.from, days: Math.max(1, Math.min(maxDays, d.days + by)) });
    else if (maxDays) {
      const length = Math.max(1, Math.min(maxDays, d.days - by));
      onChange({ from: addDays(d.from, d.days - length), days: length });
    }
  };
  const begin = (part: Drag['part'], e: PointerEvent<SVGElement>) => {
    e.stopPropagation();
    e.currentTarget.setPointerCapture(e.pointerId);
    drag.current = { part, x: e.clientX, from, days };
  };
  const release = () => {
    drag.current = null;
  };
  const jump = (e: PointerEvent<SVGSVGElement>) => {
    onChange({ from: snap(dayAt(e.clientX - e.currentTarget.getBoundingClientRect().left)) });
  };
  const key = (e: KeyboardEvent) => {
    const step = days >= 5 || maxDays === null ? 7 : days;
    const stretch = (by: number) => maxDays && onChange({ from, days: Math.max(1, Math.min(maxDays, days + by)) });
    const actions: Record<string, () => unknown> = {
      ArrowLeft: () => (e.shiftKey ? stretch(-1) : onChange({ from: addDays(from, -step) })),
      ArrowRight: () => (e.shiftKey ? stretch(1) : onChange({ from: addDays(from, step) })),
      PageUp: () => onChange({ from: addDays(from, -28) }),
      PageDown: () => onChange({ from: addDays(from, 28) }),
      Home: () => onChange({ from: snap(today) }),
    };
    const action = actions[e.key];
    if (!action) return;
    e.preventDefault();
    action();
  };

  return (
    <div className="year-strip">
      <div ref={box} className="strip-box">
        <svg width={width} height={HEIGHT} onPointerDown={jump} onPointerMove={moved} onPointerUp={release}>
          <defs>
            <pattern id="closed" width="8" height="8" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
              <rect width="3" height="8" className="strip-hatch" />
            </pattern>
          </defs>
          {data.terms.map((term) => (
            <g key={term.name + term.first}>
              <rect
                x={x(term.first)}
                y={TOP}
                width={x(addDays(term.last, 1)) - x(term.first)}
                height={BASE - TOP}
                className="strip-term"
              />
              {!narrow && (
                <text x={x(term.first) + 6} y={TOP + 13} className="strip-term-name">
                  {term.name}
                </text>
              )}
            </g>
          ))}
          {data.weeks.map((week) => {
            const height = week.occurrences === 0 ? 0 : 3 + (week.occurrences / most) * 26;
            const left = Math.max(0, x(week.monday));
            const right = Math.min(width, x(addDays(week.monday, 7)));
            return (
              <rect
                key={week.monday}
                x={left + 1}
                y={BASE - height}
                width={Math.max(1, right - left - 2)}
                height={height}
                className="strip-bar"
              >
                <title>
                  {t('strip.week', {
                    date: formatDay(week.monday, language, { day: 'numeric', month: 'long' }),
                    count: week.occurrences,
                  })}
                </title>
              </rect>
            );
          })}
          {data.closures.map((closure) => (
            <rect
              key={closure.name + closure.first}
              x={x(closure.first)}
              y={TOP}
              width={Math.max(3, x(addDays(closure.last, 1)) - x(closure.first))}
              height={BASE - TOP}
              fill="url(#closed)"
            >
              <title>{closure.name}</title>
            </rect>
          ))}
          {months.map((month) => (
            <g key={month}>
              <line x1={x(month) + 0.5} x2={x(month) + 0.5} y1={2} y2={BASE} className="strip-month-line" />
              <text x={x(month) + 4} y={13} className="strip-month">
                {formatDay(month, language, { month: narrow ? 'narrow' : 'short' }).replace('.', '')}
              </text>
            </g>
          ))}
          <line x1={0} x2={width} y1={BASE + 0.5} y2={BASE + 0.5} className="strip-base" />
          {today >= data.first && today <= data.last && (
            <path d={`M${x(today) + 1} ${BASE + 2} l5 8 h-10 z`} className="strip-today">
              <title>{t('today')}</title>
            </path>
          )}
          <g
            role="slider"
            tabIndex={0}
            aria-label={t('strip.window')}
            aria-valuemin={0}
            aria-valuemax={total - 1}
            aria-valuenow={Math.max(0, Math.min(total - 1, daysBetween(data.first, from)))}
            aria-valuetext={dayRangeText(from, addDays(from, days - 1), language)}
            onKeyDown={key}
            className="strip-window"
          >
            <rect
              x={windowX}
              y={TOP - 3}
              width={windowWidth}
              height={BASE - TOP + 6}
              rx={3}
              onPointerDown={(e) => begin('move', e)}
            />
            {maxDays && (
              <>
                <rect
                  x={windowX - 3}
                  y={33}
                  width={6}
                  height={18}
                  rx={2}
                  className="strip-handle"
                  onPointerDown={(e) => begin('start', e)}
                />
                <rect
                  x={windowX + windowWidth - 3}
                  y={33}
                  width={6}
                  height={18}
                  rx={2}
                  className="strip-handle"
                  onPointerDown={(e) => begin('end', e)}
                />
              </>
            )}
          </g>
        </svg>
      </div>
    </div>
  );
};
