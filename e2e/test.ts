import { test as base } from '@playwright/test';
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';

/** Ports that one worker may use: its own server's, and those of servers that its tests start themselves. */
const PORTS_A_WORKER = 10;

interface Server {
  address: string;
}

/**
 * Tests of the browser. Every worker has a server and a demo database of its own, so that files run beside each other; a worker that begins anew
 * after a failure begins with a fresh one, so that no test stumbles over what another left. A file that leaves much behind (a lost site, hosts that
 * could not write) has a `lab` of its own.
 */
export const test = base.extend<object, { server: Server; lab: string }>({
  lab: ['shared', { option: true, scope: 'worker' }],
  server: [
    // Another lab is another worker, and another server.
    async ({ lab: _lab }, use, { parallelIndex }) => {
      // None of these is a port that browsers and fetch refuse to talk to.
      const port = String(7100 + (process.ppid % 20) * 2 * PORTS_A_WORKER + parallelIndex * PORTS_A_WORKER);
      const folder = mkdtempSync(path.join(os.tmpdir(), 'trabes-e2e-'));
      process.env.E2E_PORT = port;
      process.env.E2E_DB = path.join(folder, 'trabes.db');
      const server = spawn(process.execPath, ['scripts/serve.mjs'], {
        stdio: ['ignore', 'ignore', 'inherit'],
        env: {
          ...process.env,
          TRABES_DB: process.env.E2E_DB,
          TRABES_PORT: port,
          TRABES_FILL: 'demo',
          NEXT_TELEMETRY_DISABLED: '1',
        },
      });
      const ended = once(server, 'exit');
      const address = `http://127.0.0.1:${port}`;
      await answers(`${address}/api/v1/health`, () => server.exitCode !== null);
      await use({ address });
      server.kill('SIGTERM');
      await ended;
      rmSync(folder, { recursive: true, force: true });
    },
    { scope: 'worker', auto: true, timeout: 90_000 },
  ],
  baseURL: async ({ server }, use) => use(server.address),
});

/** Waits until the server answers; throws where it has ended before. */
async function answers(url: string, isOver: () => boolean): Promise<void> {
  for (;;) {
    if (isOver()) throw new Error('The server of this worker did not start.');
    try {
      if ((await fetch(url)).ok) return;
    } catch {
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
  }
}

export { expect, type APIRequestContext, type APIResponse, type Page } from '@playwright/test';
