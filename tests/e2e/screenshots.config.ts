import { defineConfig } from '@playwright/test';
import base from './playwright.config';

/** Takes the pictures of docs/screenshots anew, from the demo data, always of the same Wednesday: npm run screenshots. */
export default defineConfig(base, { testDir: 'screenshots', workers: 1, reporter: 'list' });
