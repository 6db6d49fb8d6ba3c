import { describe, expect, it } from 'vitest';
import type { WhoSees } from '../src/shared/api/client';
import { sorted } from '../src/whosees/WhoSeesPage';

const row = (title: string, everyone: WhoSees['reach']['everyone'], events: number): WhoSees => ({
  calendarId: title,
  title,
  group: '',
  mark: 1,
  reach: { members: 'everything', linkHolders: everyone, everyone },
  events,
  narrowed: 0,
  drafts: 0,
  files: 0,
  roles: [],
  publications: [],
});

describe('who sees what', () => {
  it('begins with what is most open, by name where it is as open', () => {
    const rows = [
      row('Staff', 'nothing', 9),
      row('Choir', 'everything', 2),
      row('Boats', 'everything', 5),
      row('Tides', 'timesOnly', 1),
    ];
    const titles = (...by: Parameters<typeof sorted> extends [unknown, ...infer Rest] ? Rest : never) =>
      sorted(rows, ...by).map((r) => r.title);
    expect(titles('everyone', false)).toEqual(['Boats', 'Choir', 'Tides', 'Staff']);
    expect(titles('everyone', true)).toEqual(['Staff', 'Tides', 'Boats', 'Choir']);
    expect(titles('events', false)).toEqual(['Staff', 'Boats', 'Choir', 'Tides']);
    expect(titles('title', false)).toEqual(['Boats', 'Choir', 'Staff', 'Tides']);
    expect(rows[0]?.title).toBe('Staff');
  });
});
