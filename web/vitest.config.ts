import react from '@vitejs/plugin-react';
import { playwright } from '@vitest/browser-playwright';
import { defineConfig } from 'vitest/config';
import own from './package.json' with { type: 'json' };

// What is computed runs in Node; parts of the interface run in a real page of the browser the machine has.
export default defineConfig({
  test: {
    projects: [
      { test: { name: 'computed', environment: 'node', include: ['tests/*.test.ts'] } },
      {
        plugins: [react()],
        // All of them are made ready before the first test: one found later would load the page anew in the midst of a test.
        optimizeDeps: {
          include: [
            ...Object.keys(own.dependencies).filter(
              (name) => !/^(bootstrap|preact|@fontsource|@tiptap\/pm)/.test(name) && name !== 'react-bootstrap',
            ),
            ...['Button', 'ButtonGroup', 'Dropdown', 'Form', 'ProgressBar'].map((part) => `react-bootstrap/${part}`),
            'react-dom/client',
            'react/jsx-dev-runtime',
            'vitest-browser-react',
          ],
        },
        resolve: { dedupe: ['react', 'react-dom'] },
        css: { preprocessorOptions: { scss: { quietDeps: true, silenceDeprecations: ['import'] } } },
        test: {
          name: 'parts',
          // How long a step takes is not what is tested.
          testTimeout: 60_000,
          expect: { poll: { timeout: 30_000 } },
          include: ['tests/parts/*.test.tsx'],
          setupFiles: ['tests/parts/setup.ts'],
          browser: {
            enabled: true,
            headless: true,
            screenshotFailures: false,
            provider: playwright({
              launchOptions: {
                executablePath: process.env.VALTRO_CHROMIUM ?? '/usr/bin/chromium-headless-shell',
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
