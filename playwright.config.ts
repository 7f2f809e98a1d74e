import { defineConfig } from '@playwright/test';
import { browser } from './e2e/browser';

export default defineConfig({
  testDir: 'e2e',
  testMatch: '*.spec.ts',
  // Each worker has a server of its own. On two cores a second one only makes both wait: browsers and servers want them all.
  workers: Number(process.env.E2E_WORKERS ?? 1),
  fullyParallel: false,
  // Once more on a fresh server, told as flaky where that passes.
  retries: 1,
  forbidOnly: Boolean(process.env.CI),
  timeout: 90_000,
  expect: { timeout: 15_000 },
  reporter: [['list'], ...(process.env.PLAYWRIGHT_JSON_OUTPUT_NAME ? [['json'] as ['json']] : [])],
  use: {
    viewport: { width: 1280, height: 800 },
    colorScheme: 'light',
    launchOptions: browser,
  },
});
