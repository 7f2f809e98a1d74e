import { chromium } from '@playwright/test';
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { Bench } from 'tinybench';
import { countAllPaths } from '@/core/attach/paths';
import { previewChange } from '@/core/change/preview';
import type { OperationDocument } from '@/core/change/registry';
import { Estate } from '@/core/estate/estate';
import { chainOf } from '@/core/span/chain';
import { spanModel } from '@/core/span/model';
import { search } from '@/core/span/search';
import { Store } from '@/store/store';
import { browser as launchOptions } from '../e2e/browser';
import { carvingTasks, historyTasks } from './carving';
import { generateEstate } from './estate';
import { LAB_START } from '../demo/hardware';

interface Row {
  what: string;
  median: string;
  worst: string;
  target: string;
  held: string;
}
const rows: Row[] = [];
const report = (what: string, times: readonly number[], target?: number) => {
  const sorted = [...times].sort((a, b) => a - b);
  const median = sorted[Math.floor(sorted.length / 2)]!;
  rows.push({
    what,
    median: `${median.toFixed(1)} ms`,
    worst: `${sorted.at(-1)!.toFixed(1)} ms`,
    target: target === undefined ? '' : `< ${target} ms`,
    held: target === undefined ? '' : median < target ? 'yes' : 'NO',
  });
};

const scale = { arrays: 10, volumes: 10_000, hosts: 500, seed: 'bench' };
console.log(
  `Estate: ${scale.arrays} arrays, ${scale.volumes} volumes, ${scale.hosts} hosts. ${os.cpus().length} cores, Node ${process.version}.`,
);
const effects = generateEstate(scale);
const estate = new Estate();
estate.apply(effects);

const operations: OperationDocument[] = Array.from({ length: 25 }, (_, k) => [
  {
    do: 'volume.create',
    array: `lintel-${(k % 10) + 1}`,
    pool: 'vault',
    name: `new-${k}`,
    size: '100 GiB',
    provisioning: k % 2 === 0 ? 'thin' : 'thick',
  },
  { do: 'mapping.create', host: `host-${k + 1}`, array: `lintel-${(k % 10) + 1}`, volumes: [`new-${k}`] },
]).flat();
const basis = { seed: 'bench', now: LAB_START, month: '2031-04' };
const { refusals } = previewChange(estate, operations, basis);
if (refusals.length > 0) throw new Error(refusals[0]!.message);
const pool = [...estate.table('pool').values()][0]!;
const host = [...estate.table('host').values()][0]!;

const bench = new Bench({ time: 1000, warmupTime: 300, retainSamples: true });
const targets = new Map<string, number | undefined>();
const add = (name: string, work: () => unknown, target?: number) => {
  targets.set(name, target);
  bench.add(name, () => void work());
};
add('preview of 50 operations', () => previewChange(estate, operations, basis), 20);
add('count of all paths', () => countAllPaths(estate), 200);
add('chain through a pool of 1,000 volumes', () => chainOf(estate, { kind: 'pool', id: pool.id }));
add('chain through a host', () => chainOf(estate, { kind: 'host', id: host.id }));
add('figures of the whole Span', () => spanModel(estate));
add('search by part of a NAA name', () => search(estate, 'naa.6a51c'));
for (const { name, work, target } of carvingTasks(estate)) add(name, work, target);
const pastFolder = mkdtempSync(path.join(os.tmpdir(), 'trabes-past-'));
const past = new Store(path.join(pastFolder, 'past.db'));
for (const { name, work, target } of historyTasks(past)) add(name, work, target);
await bench.run();
for (const task of bench.tasks)
  if ('latency' in task.result)
    report(task.name, task.result.latency.samples as readonly number[], targets.get(task.name));

past.close();
rmSync(pastFolder, { recursive: true, force: true });

const folder = mkdtempSync(path.join(os.tmpdir(), 'trabes-bench-'));
const database = path.join(folder, 'bench.db');
const store = new Store(database);
const writing = performance.now();
store.commit({ effects, lab: { now: LAB_START, speed: 0 } });
report(`writing ${effects.length} rows in one commit`, [performance.now() - writing]);
store.close();

const port = String(4900 + (process.pid % 90));
const address = `http://127.0.0.1:${port}`;
async function start(): Promise<{ stop: () => Promise<void>; took: number }> {
  const begun = performance.now();
  const server = spawn(
    process.execPath,
    ['node_modules/next/dist/bin/next', 'start', '--hostname', '127.0.0.1', '--port', port],
    { stdio: 'ignore', env: { ...process.env, TRABES_DB: database, TRABES_PORT: port, NEXT_TELEMETRY_DISABLED: '1' } },
  );
  for (;;) {
    try {
      if ((await fetch(`${address}/api/v1/health`)).ok) break;
    } catch {
      await new Promise((resolve) => setTimeout(resolve, 20));
    }
  }
  const took = performance.now() - begun;
  return { took, stop: () => new Promise((resolve) => server.once('exit', () => resolve()) && server.kill('SIGTERM')) };
}
const starts: number[] = [];
for (let k = 0; k < 3; k++) {
  const server = await start();
  starts.push(server.took);
  await server.stop();
}
report('start of the server on an existing database', starts, 2000);

const server = await start();
const browser = await chromium.launch(launchOptions);
const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, reducedMotion: 'reduce' });
const draws: number[] = [];
for (let k = 0; k < 5; k++) {
  await page.goto('about:blank');
  const begun = performance.now();
  await page.goto(address, { waitUntil: 'commit' });
  await page.waitForSelector('[aria-label="Volumes of lintel-1"] [role=option]');
  draws.push(performance.now() - begun);
}
report('Span, first draw in the browser', draws, 1000);

/** From the click to the frame in which the marked rows stand. */
const marks = async (choose: number) =>
  page.evaluate(async (k) => {
    const rowsInSight = [...document.querySelectorAll<HTMLElement>('[aria-label="Volumes of lintel-1"] [role=option]')];
    const begun = performance.now();
    rowsInSight[k]!.click();
    for (;;) {
      await new Promise(requestAnimationFrame);
      if (
        document.querySelectorAll('[aria-label^="RAID groups of"] [data-on]').length >= 3 &&
        document.querySelector('.wires .line')
      )
        break;
      if (performance.now() - begun > 5000) throw new Error('no marker');
    }
    const took = performance.now() - begun;
    window.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape' }));
    await new Promise((resolve) => setTimeout(resolve, 300));
    return took;
  }, choose);
const marked: number[] = [];
for (let k = 0; k < 8; k++) marked.push(await marks(k));
report('marker through a chain in the browser', marked, 100);
await browser.close();
await server.stop();
rmSync(folder, { recursive: true, force: true });
console.table(rows);
if (rows.some((row) => row.held === 'NO')) process.exitCode = 1;
