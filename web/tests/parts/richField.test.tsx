import { useState } from 'react';
import { userEvent } from 'vitest/browser';
import { expect, it } from 'vitest';
import RichField from '../../src/event/fields/RichField';
import { stage } from './stage';

const KEPT = '<ul><li>one</li></ul><p>Bring a <strong>rope</strong><br>and tar</p>';

const Field = ({ onHtml }: { onHtml: (html: string) => void }) => {
  const [html, setHtml] = useState(KEPT);
  return (
    <RichField
      label="Details"
      placeholder=""
      html={html}
      isInvalid={false}
      onHtml={(next) => {
        setHtml(next);
        onHtml(next);
      }}
    />
  );
};

it('a text nobody changed in the end is the very same text, and one emptied is none', async () => {
  const said: string[] = [];
  const screen = await stage(<Field onHtml={(html) => said.push(html)} />, 'event');
  const field = screen.getByRole('textbox', { name: 'Details' });
  await field.click();
  await userEvent.keyboard('{Control>}{End}{/Control}x');
  await expect.poll(() => said.at(-1)).toContain('tarx');
  await userEvent.keyboard('{Backspace}');
  await expect.poll(() => said.at(-1)).toBe(KEPT);
  await userEvent.keyboard('{Control>}a{/Control}{Backspace}');
  // A list that is emptied stays one until it is left.
  await userEvent.keyboard('{Backspace}');
  await expect.poll(() => said.at(-1)).toBe('');
});

it('is written with marks by keys', async () => {
  const said: string[] = [];
  const screen = await stage(<Field onHtml={(html) => said.push(html)} />, 'event');
  const field = screen.getByRole('textbox', { name: 'Details' });
  await field.click();
  await userEvent.keyboard('{Control>}a{/Control}{Control>}b{/Control}');
  await expect.element(screen.getByRole('button', { name: 'Bold' })).toHaveAttribute('aria-pressed', 'true');
  await expect.poll(() => said.at(-1)).toMatch(/<strong>Bring a rope<br>and tar<\/strong>/);
});
