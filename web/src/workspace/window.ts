import { useCallback, useMemo } from 'react';
import { useSearchParams } from 'react-router';
import { monday, type Day } from '../shared/dates';

export const FORMS = ['lanes', 'month'] as const;
export type BoardForm = (typeof FORMS)[number];

/** What the board shows: stands in the address, so that a link shows the same. */
export interface BoardWindow {
  form: BoardForm;
  from: Day;
  days: number;
}

export const MAX_DAYS = 14;
/** The month form shows about this much at once. */
export const MONTH_DAYS = 35;

const isDay = (text: string | null): text is Day =>
  text !== null && /^(19|20|21)\d\d-\d\d-\d\d$/.test(text) && !Number.isNaN(Date.parse(text));

export const useBoardWindow = (today: Day): [BoardWindow, (change: Partial<BoardWindow>) => void] => {
  const [params, setParams] = useSearchParams();
  const narrow = matchMedia('(max-width: 700px)').matches;
  const current = useMemo((): BoardWindow => {
    const form = FORMS.find((f) => f === params.get('form')) ?? 'lanes';
    const days = Number(params.get('days'));
    const from = params.get('from');
    return {
      form,
      from: isDay(from) ? from : narrow ? today : monday(today),
      days: days >= 1 && days <= MAX_DAYS ? days : narrow ? 3 : 7,
    };
  }, [params, today, narrow]);

  const change = useCallback(
    (next: Partial<BoardWindow>) => {
      setParams(
        (old) => {
          const made = new URLSearchParams(old);
          for (const [name, value] of Object.entries(next)) made.set(name, String(value));
          return made;
        },
        { replace: next.form === undefined },
      );
    },
    [setParams],
  );
  return [current, change];
};
