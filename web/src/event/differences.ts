import { useMemo } from 'react';
import type { Calendar, Change, EventData, Rule } from '../shared/api/client';
import { addDays, clockText, dayOf, formatDay, shortDay, zoneCity, type Day } from '../shared/dates';
import { useTexts } from '../shared/i18n';
import { inputOf } from '../shared/data/actions';
import { useLists } from '../shared/data/useLists';
import { draftOf, type EventDraft } from './draft/draft';
import { spanText } from './fields/FactFields';
import { plainText } from './plainText';

type Texts = ReturnType<typeof useTexts>['t'];

export type Named = Exclude<keyof EventDraft, 'facts'> | `facts.${keyof EventDraft['facts']}`;

/** A field in which two states of an event differ. */
export interface Difference {
  field: Named;
  was: string;
  is: string;
}

/** By what things are called. */
export interface Names {
  t: Texts;
  language: string;
  nameOf: (id: string) => string | undefined;
}

const WEEKDAYS = ['monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday'];
const A_MONDAY: Day = '2024-01-01';

const ruleText = (rule: Rule, { t, language }: Names): string => {
  const unit = rule.frequency as 'daily' | 'weekly' | 'monthly' | 'yearly';
  const every =
    unit in { daily: 1, weekly: 1, monthly: 1, yearly: 1 }
      ? rule.interval === 1
        ? t(`repeat.${unit}`)
        : `${t(`repeat.every.${unit}`)} ${rule.interval} ${t(`repeat.unit.${unit}`, { count: rule.interval })}`
      : (rule.text ?? '…');
  const days = rule.days.map((day) =>
    formatDay(addDays(A_MONDAY, WEEKDAYS.indexOf(day ?? '')), language, { weekday: 'short' }),
  );
  const ends = rule.count
    ? `${rule.count} ×`
    : rule.until
      ? `→ ${formatDay(rule.until, language, { day: 'numeric', month: 'short', year: 'numeric' })}`
      : '';
  return [every, days.join(', '), ends].filter(Boolean).join(' · ');
};

/** What a field says, in one line: names instead of identities, days and times as people write them. */
export const fieldText = (field: string, value: unknown, names: Names): string => {
  const { t, language, nameOf } = names;
  if (value === null || value === undefined || value === '') return '';
  if (typeof value === 'boolean') return t(value ? 'sheet.yes' : 'sheet.no');
  if (typeof value === 'number') return field === 'reminder' ? spanText(value, t) : value.toString();
  if (typeof value === 'string') {
    if (field === 'firstDay' || field === 'lastDay') return shortDay(value, language);
    if (field === 'from' || field === 'to') return clockText(`${A_MONDAY}T${value}`, language);
    if (field === 'zone') return zoneCity(value);
    return field === 'description' ? plainText(value) : (nameOf(value) ?? value);
  }
  if (Array.isArray(value))
    return value
      .map((one) => fieldText(field, one, names))
      .filter(Boolean)
      .join(', ');
  if (typeof value !== 'object') return '';
  if (field === 'rule') return ruleText(value as Rule, names);
  const parts = value as Record<string, unknown>;
  if (field === 'limits')
    return `${fieldText('calendarId', parts.calendarId, names)}: ${t(`reach.detail.${parts.most as 'nothing'}`)}`;
  if (field === 'reach')
    return (['members', 'linkHolders', 'everyone'] as const)
      .map((who) => `${t(`audience.${who}`)}: ${t(`reach.detail.${parts[who] as 'nothing'}`)}`)
      .join(', ');
  for (const name of ['name', 'label', 'address', 'alt']) if (parts[name]) return fieldText(name, parts[name], names);
  return field === 'picture' ? t('sheet.yes') : '…';
};

/** The fields in which two states differ, as people read them. */
export const differences = (was: EventData, is: EventData, names: Names): Difference[] => {
  const [before, after] = [draftOf(inputOf(was)), draftOf(inputOf(is))];
  const changed = <T extends object>(was: T, is: T, prefix: string) =>
    (Object.keys(was) as (keyof T & string)[])
      .filter((key) => key !== 'facts' && JSON.stringify(was[key]) !== JSON.stringify(is[key]))
      .map((key) => ({
        field: `${prefix}${key}` as Named,
        was: fieldText(key, was[key], names),
        is: fieldText(key, is[key], names),
      }));
  return [...changed(before, after, ''), ...changed(before.facts, after.facts, 'facts.')];
};

type DateKind = 'leftOut' | 'putBack' | 'added' | 'removed' | 'calledOff' | 'calledOn' | 'changed';

/** What happens to one date of a series; of what differs there, in what. */
export interface DateDifference {
  kind: DateKind;
  date: string;
  what: string;
}

/** What differs on a date, in one line; nothing where it was only called off. */
export const changeText = (change: Change, { t, language, nameOf }: Names): string => {
  const facts = change.facts;
  const less =
    (facts?.withoutTags?.length ?? 0) + (facts?.withoutLinks?.length ?? 0) + (facts?.withoutFiles?.length ?? 0);
  return [
    change.timing &&
      `${dayOf(change.timing.start) === dayOf(change.date) ? '' : `${shortDay(dayOf(change.timing.start), language)} `}${
        change.timing.kind === 'allDay' ? '' : clockText(change.timing.start, language)
      }`.trim(),
    change.title,
    facts?.subtitle,
    change.place,
    change.description !== null && t('sheet.details'),
    facts?.setsCategory && ((facts.categoryId && nameOf(facts.categoryId)) ?? t('facts.noCategory')),
    ...(facts?.tags ?? []).map((tag) => `#${tag}`),
    ...(facts?.links ?? []).map((link) => link.label || link.address),
    ...(facts?.files ?? []).map((file) => file.name),
    less > 0 && t('dates.hasLess'),
  ]
    .filter(Boolean)
    .join(', ');
};

/** What happens to single dates of a series. */
export const dateDifferences = (before: EventData, after: EventData, names: Names): DateDifference[] => {
  const without = (from: string[], others: string[], kind: DateKind) =>
    from.filter((date) => !others.includes(date)).map((date) => ({ kind, date, what: '' }));
  const change = (e: EventData, date: string) => e.changes.find((c) => c.date === date);
  const told = (e: EventData, date: string) =>
    JSON.stringify({ ...change(e, date), at: null, calledOff: null, has: null });
  const changed = [...new Set([...before.changes, ...after.changes].map((c) => c.date))].flatMap(
    (date): DateDifference[] => {
      const [was, is] = [change(before, date)?.calledOff ?? false, change(after, date)?.calledOff ?? false];
      if (was !== is) return [{ kind: is ? 'calledOff' : 'calledOn', date, what: '' }];
      if (told(before, date) === told(after, date)) return [];
      const now = change(after, date);
      return [{ kind: 'changed', date, what: now ? changeText(now, names) : '' }];
    },
  );
  return [
    ...without(after.skips, before.skips, 'leftOut'),
    ...without(before.skips, after.skips, 'putBack'),
    ...without(after.extras, before.extras, 'added'),
    ...without(before.extras, after.extras, 'removed'),
    ...changed,
  ].sort((a, b) => a.date.localeCompare(b.date));
};

/** What the calendars and categories of a school are called, for what tells of changes. */
export const useNames = (calendars: Calendar[]): Names => {
  const { t, language } = useTexts();
  const { categories } = useLists();
  return useMemo(() => {
    const names = new Map([
      ...calendars.map((c) => [c.id, c.title] as const),
      ...categories.map((c) => [c.id ?? '', c.name] as const),
    ]);
    return { t, language, nameOf: (id) => names.get(id) };
  }, [t, language, calendars, categories]);
};
