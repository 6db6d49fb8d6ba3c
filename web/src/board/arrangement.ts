import type { BoardSettings, Calendar } from '../shared/api/client';

/** How a person has the rows of the lanes: their headings and order, what is folded and what is hidden. */
export interface Arrangement {
  /** Headings with their calendars; null as the calendars themselves say. */
  groups: { name: string; calendarIds: string[] }[] | null;
  folded: string[];
  hidden: string[];
}

export interface Group {
  name: string;
  calendars: Calendar[];
}

export const arrangementOf = (settings: BoardSettings | undefined): Arrangement => ({
  groups: settings?.groups ?? null,
  folded: settings?.folded ?? [],
  hidden: settings?.hidden ?? [],
});

/** The rows as they are drawn: what a person has ordered first, then what came since under its own heading. */
export const arrange = (calendars: Calendar[], { groups, hidden }: Arrangement): Group[] => {
  const left = new Map(calendars.map((c) => [c.id, c]));
  const made: Group[] = (groups ?? []).map(({ name, calendarIds }) => ({
    name,
    calendars: calendarIds.flatMap((id) => {
      const calendar = left.get(id);
      left.delete(id);
      return calendar ? [calendar] : [];
    }),
  }));
  for (const calendar of calendars) {
    if (!left.has(calendar.id)) continue;
    const own = made.find((g) => g.name === calendar.group);
    if (own) own.calendars.push(calendar);
    else made.push({ name: calendar.group, calendars: [calendar] });
  }
  return made
    .map((group) => ({ ...group, calendars: group.calendars.filter((c) => !hidden.includes(c.id)) }))
    .filter((group) => group.calendars.length > 0);
};

const toGroups = (groups: Group[]): NonNullable<Arrangement['groups']> =>
  groups.map((g) => ({ name: g.name, calendarIds: g.calendars.map((c) => c.id) }));

/** A row put before another one, under that one's heading; the hidden ones keep their places. */
export const moveRow = (calendars: Calendar[], now: Arrangement, id: string, before: string): Arrangement => {
  if (id === before) return now;
  const groups = toGroups(arrange(calendars, { ...now, hidden: [] })).map((g) => ({
    ...g,
    calendarIds: g.calendarIds.filter((other) => other !== id),
  }));
  for (const group of groups) {
    const at = group.calendarIds.indexOf(before);
    if (at >= 0) group.calendarIds.splice(at, 0, id);
  }
  return { ...now, groups };
};

/** A row one step up or down, over a heading where it is the first or last under its own. */
export const stepRow = (calendars: Calendar[], now: Arrangement, id: string, by: 1 | -1): Arrangement => {
  const shown = arrange(calendars, now);
  const groups = toGroups(arrange(calendars, { ...now, hidden: [] }));
  const from = groups.findIndex((g) => g.calendarIds.includes(id));
  const visible = shown.find((g) => g.calendars.some((c) => c.id === id))?.calendars.map((c) => c.id) ?? [];
  const neighbour = visible[visible.indexOf(id) + by];
  const group = groups[from];
  if (!group) return now;
  group.calendarIds = group.calendarIds.filter((other) => other !== id);
  if (neighbour) {
    group.calendarIds.splice(group.calendarIds.indexOf(neighbour) + (by > 0 ? 1 : 0), 0, id);
  } else {
    const next = groups[from + by];
    if (!next) return now;
    if (by > 0) next.calendarIds.unshift(id);
    else next.calendarIds.push(id);
  }
  return { ...now, groups };
};

export const toggled = (ids: string[], id: string): string[] =>
  ids.includes(id) ? ids.filter((other) => other !== id) : [...ids, id];

// Ids end in their random part: that is enough to tell the calendars of a school apart.
const short = (id: string): string => id.slice(-12);
const fullIds = (text: string, calendars: Calendar[]): string[] =>
  text
    .split('.')
    .filter(Boolean)
    .flatMap((end) => calendars.find((c) => c.id.endsWith(end))?.id ?? []);

/** The arrangement as it stands in an address. */
export const toParams = ({ groups, folded, hidden }: Arrangement): Record<'rows' | 'fold' | 'hide', string> => ({
  rows: (groups ?? []).map((g) => `${encodeURIComponent(g.name)}~${g.calendarIds.map(short).join('.')}`).join('_'),
  fold: folded.map(short).join('.'),
  hide: hidden.map(short).join('.'),
});

/** The arrangement an address asks for; null when it asks for none. */
export const fromParams = (params: URLSearchParams, calendars: Calendar[]): Arrangement | null => {
  const [rows, fold, hide] = ['rows', 'fold', 'hide'].map((name) => params.get(name));
  if (!rows && !fold && !hide) return null;
  return {
    groups: rows
      ? rows.split('_').map((group) => {
          const [name = '', ids = ''] = group.split('~');
          return { name: decodeURIComponent(name), calendarIds: fullIds(ids, calendars) };
        })
      : null,
    folded: fullIds(fold ?? '', calendars),
    hidden: fullIds(hide ?? '', calendars),
  };
};
