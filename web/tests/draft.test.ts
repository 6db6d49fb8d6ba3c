import { describe, expect, it } from 'vitest';
import { draftOf, inputOfDraft, moveFirstDay, moveStart, newDraft, timingOf } from '../src/event/draft/draft';

const lesson = {
  ...newDraft('c', '2026-11-23', 'Planking'),
  allDay: false,
  from: '22:30',
  to: '00:15',
  lastDay: '2026-11-24',
};

describe('the sheet', () => {
  it('starts without a calendar unless one was chosen', () => {
    expect(newDraft('', '2026-11-23').calendarId).toBe('');
  });

  it('keeps the length when the start or the first day moves', () => {
    expect(moveStart(lesson, '09:00')).toMatchObject({ from: '09:00', to: '10:45', lastDay: '2026-11-23' });
    expect(moveStart({ ...lesson, from: '08:00', to: '09:00', lastDay: '2026-11-23' }, '23:30')).toMatchObject({
      to: '00:30',
      lastDay: '2026-11-24',
    });
    expect(moveFirstDay(lesson, '2026-12-01')).toMatchObject({ firstDay: '2026-12-01', lastDay: '2026-12-02' });
  });

  it('leaves an end before the start as it was typed, for the person to see', () => {
    const turned = { ...lesson, lastDay: '2026-11-23' };
    expect(moveStart(turned, '23:00')).toMatchObject({ from: '23:00', to: '00:15', lastDay: '2026-11-23' });
  });

  it('says whole days without a clock and keeps the clock for a change of mind', () => {
    const allDay = { ...lesson, allDay: true };
    expect(timingOf(allDay)).toEqual({
      kind: 'allDay',
      start: '2026-11-23T00:00:00',
      end: '2026-11-24T00:00:00',
      zone: null,
    });
    expect(timingOf({ ...allDay, allDay: false }).start).toBe('2026-11-23T22:30:00');
  });

  it('gives back what it was given', () => {
    const input = inputOfDraft({ ...lesson, zone: 'America/Halifax' }, 3);
    expect(inputOfDraft(draftOf(input), 3)).toEqual(input);
  });
});
