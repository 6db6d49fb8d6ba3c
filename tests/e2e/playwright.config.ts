import { defineConfig } from '@playwright/test';

/** Everything runs against what ./start starts: the real server, database and stand-in website. */
export const port = Number(process.env.VALTRO_E2E_PORT ?? 4390);
export const site = `http://localhost:${port + 1}`;

const data = process.env.VALTRO_E2E_DATA ?? '../../.build/e2e-data';

/** The moment it is for server and browser when the tests start, as 2027-01-31T12:00:00Z; empty for the true time. */
export const clock = process.env.VALTRO_E2E_CLOCK ?? '';

// Nothing but this machine can be reached, so nothing may depend on it.
export const chromium = {
  executablePath: process.env.VALTRO_CHROMIUM ?? '/usr/bin/chromium-headless-shell',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    // Pages of one site are shown by one process, so that a script is compiled for the first of them alone.
    '--process-per-site',
    '--host-resolver-rules=MAP * ~NOTFOUND , EXCLUDE 127.0.0.1 , EXCLUDE localhost',
  ],
};

export const server = {
  command: `../../start --port ${port} --data '${data}'`,
  url: `http://127.0.0.1:${port}/health/ready`,
  timeout: 900_000,
  // Two browsers of one person do in a minute what nobody does by hand.
  env: { VALTRO_REQUESTS_A_MINUTE: '20000', VALTRO_DIGEST_SECONDS: '4', VALTRO_CLOCK: clock },
  reuseExistingServer: false,
  gracefulShutdown: { signal: 'SIGTERM' as const, timeout: 30_000 },
};

/** The browser of a person who looks at it. */
export const person = {
  baseURL: `http://127.0.0.1:${port}`,
  actionTimeout: 60_000,
  viewport: { width: 1280, height: 800 },
  locale: 'en-CA',
  colorScheme: 'light' as const,
};

export default defineConfig({
  testDir: 'tests',
  fullyParallel: true,
  workers: 2,
  // Machines are shared and noisy: a test may be tried once more, and is told as flaky then.
  retries: 1,
  // How long a step takes is not what is tested: the limits only end what hangs.
  timeout: 240_000,
  expect: { timeout: 45_000 },
  forbidOnly: true,
  reporter: [['list'], ['json', { outputFile: process.env.VALTRO_E2E_REPORT ?? 'test-results/report.json' }]],
  use: {
    ...person,
    launchOptions: chromium,
    // Recording what a browser does costs more than doing it: asked for by whoever looks at it.
    trace: process.env.VALTRO_E2E_TRACE ? 'retain-on-failure' : 'off',
  },
  webServer: server,
});
