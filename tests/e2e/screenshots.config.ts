import { defineConfig } from '@playwright/test';
import base from './playwright.config';

/** Takes the pictures of docs/screenshots anew, from the demo data: npm run screenshots. */
export default defineConfig(base, { testDir: 'screenshots', workers: 1, reporter: 'list' });
