import { useRef, useState } from 'react';
import { userEvent } from 'vitest/browser';
import { expect, it } from 'vitest';
import { DateField, type Reader } from '../../src/shared/parts/DateField';
import { answer } from './server';
import { stage } from './stage';

const Form = ({ onSent }: { onSent: (day: string) => void }) => {
  const [day, setDay] = useState('2026-11-24');
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        onSent(day);
      }}
    >
      <DateField label="First day" value={day} onChange={setDay} />
      <button type="submit">Save</button>
    </form>
  );
};

const readAs = (days: Record<string, string>) =>
  answer<{ text: string }>('GET /api/typed', ({ text }) => ({ day: days[text] ?? null, clock: null, first: null }));

it('a date is typed as people write it, and the form is sent with what was understood', async () => {
  readAs({ fri: '2026-11-27' });
  const sent: string[] = [];
  const screen = await stage(<Form onSent={(day) => sent.push(day)} />);
  const field = screen.getByRole('textbox', { name: 'First day' });
  await expect.element(field).toHaveValue('Tue 24 Nov 2026');
  await userEvent.fill(field, 'fri');
  await userEvent.keyboard('{Enter}');
  await expect.poll(() => sent).toEqual(['2026-11-27']);
  await expect.element(field).toHaveValue('Fri 27 Nov 2026');
});

it('arrows step by a day', async () => {
  const screen = await stage(<Form onSent={() => undefined} />);
  const field = screen.getByRole('textbox', { name: 'First day' });
  await field.click();
  await userEvent.keyboard('{ArrowUp}{ArrowUp}{ArrowDown}');
  await expect.element(field).toHaveValue('Wed 25 Nov 2026');
});

it('what cannot be read is told in words, is not sent, and stays typed', async () => {
  readAs({});
  const sent: string[] = [];
  const screen = await stage(<Form onSent={(day) => sent.push(day)} />);
  const field = screen.getByRole('textbox', { name: 'First day' });
  await userEvent.fill(field, 'the 40th');
  await screen.getByRole('button', { name: 'Save' }).click();
  await expect.element(field).toHaveAccessibleDescription(/cannot be read/);
  await expect.element(field).toHaveValue('the 40th');
  expect(sent).toEqual([]);
});

it('a server that is away is told beside the field', async () => {
  answer('GET /api/typed', () => {
    throw new TypeError('Failed to fetch');
  });
  const screen = await stage(<Form onSent={() => undefined} />);
  const field = screen.getByRole('textbox', { name: 'First day' });
  await userEvent.fill(field, 'fri');
  await expect.element(field).toHaveAccessibleDescription(/cannot be reached/);
  await expect.element(field).toHaveValue('fri');
});

it('what is done with a date outside a form waits until what is typed was read', async () => {
  let say = () => {};
  answer<{ text: string }>('GET /api/typed', async ({ text }) => {
    await new Promise<void>((go) => (say = go));
    return { day: text === '15 mar' ? '2027-03-15' : null, clock: null, first: null };
  });
  const added: (string | null)[] = [];
  const Adding = () => {
    const [day, setDay] = useState('2026-11-24');
    const reader = useRef<Reader<string>>(null);
    return (
      <>
        <DateField label="Add a date" value={day} onChange={setDay} reader={reader} />
        <button type="button" onClick={() => void reader.current?.().then((read) => added.push(read))}>
          Add
        </button>
      </>
    );
  };
  const screen = await stage(<Adding />);
  await userEvent.fill(screen.getByRole('textbox', { name: 'Add a date' }), '15 mar');
  await userEvent.click(screen.getByRole('button', { name: 'Add' }));
  expect(added).toEqual([]);
  say();
  await expect.poll(() => added).toEqual(['2027-03-15']);
  await userEvent.fill(screen.getByRole('textbox', { name: 'Add a date' }), 'someday');
  await userEvent.click(screen.getByRole('button', { name: 'Add' }));
  say();
  await expect.poll(() => added).toEqual(['2027-03-15', null]);
});
