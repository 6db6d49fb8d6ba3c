import { useCallback, useMemo } from 'react';
import { useSearchParams } from 'react-router';
import { firstOfWeek, type Day } from '../shared/dates';
import { useBoardSettings } from './useArrangement';

export const FORMS = ['lanes', 'month', 'hours', 'list'] as const;
/** What the rows of the lanes are. */
export type LaneRows = 'calendars' | 'places';

export type BoardForm = (typeof FORMS)[number];

/** What the board shows: stands in the address, so that a link shows the same. */
export interface BoardWindow {
  form: BoardForm;
  from: Day;
  days: number;
  by: LaneRows;
}

/** A change of the window; null for the form's own. */
export type WindowChange = { [K in keyof BoardWindow]?: BoardWindow[K] | null };

/** The most days each form shows at once. */
export const MAX_DAYS = { lanes: 14, month: 35, hours: 7, list: 400 } as const;
/** The month form shows about this much at once. */
export const MONTH_DAYS = 35;

const isDay = (text: string | null): text is Day =>
  text !== null && /^(19|20|21)\d\d-\d\d-\d\d$/.test(text) && !Number.isNaN(Date.parse(text));

export const useBoardWindow = (today: Day): [BoardWindow, (change: WindowChange) => void] => {
  const [params, setParams] = useSearchParams();
  const kept = useBoardSettings()?.form;
  const narrow = matchMedia('(max-width: 700px)').matches;
  const current = useMemo((): BoardWindow => {
    const form = FORMS.find((f) => f === (params.get('form') ?? kept)) ?? 'lanes';
    const days = Number(params.get('days'));
    const from = params.get('from');
    return {
      form,
      by: params.get('by') === 'places' ? 'places' : 'calendars',
      from: isDay(from) ? from : narrow ? today : firstOfWeek(today),
      days:
        days >= 1
          ? Math.min(days, MAX_DAYS[form])
          : narrow
            ? form === 'hours'
              ? 1
              : form === 'list'
                ? 7
                : 3
            : form === 'list'
              ? 14
              : 7,
    };
  }, [params, today, narrow, kept]);

  const change = useCallback(
    (next: WindowChange) => {
      setParams(
        (old) => {
          const made = new URLSearchParams(old);
          for (const [name, value] of Object.entries(next)) {
            if (value === null) made.delete(name);
            else made.set(name, String(value));
          }
          return made;
        },
        { replace: next.form === undefined },
      );
    },
    [setParams],
  );
  return [current, change];
};
