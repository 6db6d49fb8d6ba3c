import react from '@vitejs/plugin-react';
import { playwright } from '@vitest/browser-playwright';
import { defineConfig } from 'vitest/config';

// What is computed runs in Node; parts of the interface run in a real page of the browser the machine has.
export default defineConfig({
  test: {
    projects: [
      { test: { name: 'computed', environment: 'node', include: ['tests/*.test.ts'] } },
      {
        plugins: [react()],
        css: { preprocessorOptions: { scss: { quietDeps: true, silenceDeprecations: ['import'] } } },
        test: {
          name: 'parts',
          // How long a step takes is not what is tested.
          testTimeout: 120_000,
          expect: { poll: { timeout: 30_000 } },
          include: ['tests/parts/*.test.tsx'],
          setupFiles: ['tests/parts/setup.ts'],
          browser: {
            enabled: true,
            headless: true,
            screenshotFailures: false,
            provider: playwright({
              launchOptions: {
                executablePath: process.env.VALTRO_CHROMIUM ?? '/usr/bin/chromium',
                args: ['--no-sandbox', '--disable-gpu'],
              },
              contextOptions: { locale: 'en-CA', colorScheme: 'light' },
            }),
            instances: [{ browser: 'chromium', viewport: { width: 1280, height: 800 } }],
          },
        },
      },
    ],
  },
});
