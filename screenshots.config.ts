import { defineConfig } from '@playwright/test';
import base from './playwright.config';

/** `npm run screenshots`: pictures of the main views, made from the demo data. */
export default defineConfig(base, { testDir: 'e2e', testMatch: 'screenshots.ts' });
