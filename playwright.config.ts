import { defineConfig } from '@playwright/test';
import os from 'node:os';
import path from 'node:path';
import { browser } from './e2e/browser';

// The configuration is read again in every worker: port and database are settled once, in the environment.
process.env.E2E_PORT ??= String(4700 + (process.pid % 200));
process.env.E2E_DB ??= path.join(os.tmpdir(), `trabes-e2e-${process.pid}.db`);
const port = process.env.E2E_PORT;

export default defineConfig({
  testDir: 'e2e',
  testMatch: '*.spec.ts',
  workers: 1,
  fullyParallel: false,
  forbidOnly: Boolean(process.env.CI),
  timeout: 60_000,
  expect: { timeout: 10_000 },
  reporter: [['list'], ...(process.env.PLAYWRIGHT_JSON_OUTPUT_NAME ? [['json'] as ['json']] : [])],
  use: {
    baseURL: `http://127.0.0.1:${port}`,
    viewport: { width: 1280, height: 800 },
    colorScheme: 'light',
    launchOptions: browser,
  },
  webServer: {
    command: 'node scripts/serve.mjs',
    url: `http://127.0.0.1:${port}/api/v1/health`,
    env: { TRABES_DB: process.env.E2E_DB, TRABES_PORT: port, TRABES_FILL: 'demo', NEXT_TELEMETRY_DISABLED: '1' },
    gracefulShutdown: { signal: 'SIGTERM', timeout: 5000 },
    timeout: 60_000,
  },
});
