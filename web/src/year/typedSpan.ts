import { addDays, daysBetween, parseDay, type Day } from '../shared/dates';
import type { DaySpan } from './yearDraft';

export interface NamedSpan extends DaySpan {
  name: string;
}

const BETWEEN = /\s+(?:–|—|-|to|until|till|through|au|à|jusqu['’]au)\s+|(?<=\d)\s*[–—-]\s*(?=\d{1,2}\s+\p{L})/iu;
const WEEKDAY =
  /^(?:mon|tues?|wed|thu(?:rs)?|fri|sat|sun|(?:mon|tues|wednes|thurs|fri|satur|sun)day|lun(?:di)?|mar(?:di)?|mer(?:credi)?|jeu(?:di)?|ven(?:dredi)?|sam(?:edi)?|dim(?:anche)?)\.?,?\s+(?=\d)/i;
const FIRST_WORDS = /\s+(?:on|from|du|le|de|:)$/i;

/** What was typed of a span of days of a year: "Storm closure 27 Nov", "Ice break 15–17 feb", "Winter term 4 jan to 12 mar". */
export const parseSpan = (text: string, year: DaySpan, today: Day): NamedSpan | null => {
  // Without a year's number the day in this school year is meant.
  const middle = addDays(year.first, Math.floor(daysBetween(year.first, year.last) / 2));
  const day = (part: string) => parseDay(part.trim().replace(WEEKDAY, ''), middle, today, () => null);
  const words = text.trim().split(/\s+/);
  for (let i = 0; i < words.length; i++) {
    const [from = '', to, more] = words.slice(i).join(' ').split(BETWEEN);
    if (more !== undefined) continue;
    const last = day(to ?? from);
    // "15–17 feb": the first day has the month of the second.
    const first = to !== undefined && last && /^\d{1,2}$/.test(from.trim()) ? sameMonth(from, last) : day(from);
    if (!first || !last) continue;
    return { name: words.slice(0, i).join(' ').replace(FIRST_WORDS, '').replace(/:$/, ''), first, last };
  }
  return null;
};

const sameMonth = (number: string, day: Day): Day => `${day.slice(0, 8)}${number.trim().padStart(2, '0')}`;
