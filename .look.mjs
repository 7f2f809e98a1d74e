import { chromium } from '@playwright/test';
import { spawn } from 'node:child_process';
import { openSync, mkdtempSync } from 'node:fs';
import os from 'node:os'; import path from 'node:path';
const PORT = process.env.LOOK_PORT ?? '4391';
const dir = mkdtempSync(path.join(os.tmpdir(), 'look-'));
const log = openSync('/tmp/look.log', 'w');
const server = spawn(process.execPath, ['scripts/serve.mjs'], { env: { ...process.env, TRABES_DB: path.join(dir, 'a.db'), TRABES_PORT: PORT, TRABES_FILL: 'demo', NODE_ENV: 'production' }, stdio: ['ignore', log, log] });
const base = `http://127.0.0.1:${PORT}`;
for (let i = 0; i < 120; i++) { try { if ((await fetch(base + '/api/v1/health')).ok) break; } catch {} await new Promise((r) => setTimeout(r, 500)); }
const browser = await chromium.launch({ executablePath: process.env.CHROMIUM_PATH ?? '/usr/bin/chromium', args: ['--no-sandbox'] });
const dark = process.env.DARK === '1';
const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme: dark ? 'dark' : 'light' });
const token = async () => (await (await fetch(base + '/api/v1/token')).text());
try {
  const script = await import(path.resolve(process.argv[2]));
  await script.default({ page, base, shot: async (n) => page.screenshot({ path: `/tmp/${n}.png` }), server });
} catch (e) { console.error(e); }
await browser.close(); server.kill('SIGKILL'); process.exit(0);
