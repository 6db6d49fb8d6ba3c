import { useQuery } from '@tanstack/react-query';
import { expect, it } from 'vitest';
import { api, type Session } from '../../src/shared/api/client';
import { useSettings } from '../../src/shared/data/useSettings';
import { answer } from './server';
import { stage } from './stage';

it('a setting chosen right after another is kept with it, whatever an older answer says meanwhile', async () => {
  let stored: Record<string, unknown> = { theme: 'light', language: 'en' };
  const free: (() => void)[] = [];
  const session = () => ({ settings: stored }) as unknown as Session;
  answer('GET /api/session', session);
  const sent = answer<Record<string, unknown>>('PUT /api/me/settings', async (settings) => {
    await new Promise<void>((go) => free.push(go));
    stored = settings;
    return new Response(null, { status: 204 });
  });
  const Menu = ({ session: mine }: { session: Session }) => {
    const { settings, keep } = useSettings(mine);
    return (
      <>
        <p>{`${settings.theme} ${settings.hours}`}</p>
        <button onClick={() => void keep({ theme: 'dark' })}>Night</button>
        <button onClick={() => void keep({ hours: 24 })}>24 hours</button>
      </>
    );
  };
  const Screen = () => {
    const { data } = useQuery({ queryKey: ['session'], queryFn: api.session });
    return data ? <Menu session={data} /> : null;
  };
  const screen = await stage(<Screen />);
  await screen.getByRole('button', { name: 'Night' }).click();
  await expect.element(screen.getByText('dark')).toBeVisible();
  // The window is looked at again before it is kept: the answer is of before.
  await screen.queries.invalidateQueries({ queryKey: ['session'] });
  await expect.element(screen.getByText('light')).toBeVisible();
  await screen.getByRole('button', { name: '24 hours' }).click();
  await expect.poll(() => free.length).toBe(1);
  free[0]?.();
  await expect.poll(() => free.length).toBe(2);
  free[1]?.();
  await expect.element(screen.getByText('dark 24')).toBeVisible();
  expect(sent.at(-1)).toMatchObject({ theme: 'dark', hours: 24, language: 'en' });
  expect(stored).toMatchObject({ theme: 'dark', hours: 24 });
});
