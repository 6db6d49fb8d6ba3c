import { describe, expect, it } from 'vitest';
import type { Lists, Occurrence } from '../src/shared/api/client';
import { placeOf, placeRows } from '../src/board/views/PlaceLanes';

const lists = {
  places: [{ id: '1', name: 'Loft 2', capacity: 18, address: '', latitude: null, longitude: null }],
} as unknown as Lists;
const at = (eventId: string, place: string, from = '09:00', to = '10:00', more: Partial<Occurrence> = {}): Occurrence =>
  ({ eventId, place, start: `2026-11-23T${from}:00`, end: `2026-11-23T${to}:00`, ...more }) as Occurrence;

describe('rows by place', () => {
  it('are the school’s places, then others that are used, then what has none', () => {
    const all = [at('a', 'LOFT  2'), at('b', 'Old quay'), at('c', 'old quay'), at('d', ' ')];
    const rows = placeRows(lists, all);
    expect(rows.map((r) => r.place)).toEqual(['Loft 2', 'old quay', '']);
    expect(all.map((o) => placeOf(lists, o, rows))).toEqual(['Loft 2', 'old quay', 'old quay', '']);
    expect(placeRows(lists, []).map((r) => r.place)).toEqual(['Loft 2']);
  });
});
