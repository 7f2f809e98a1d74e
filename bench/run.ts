import { chromium, type Page } from '@playwright/test';
import { execFileSync, spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
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
import { attachedEstate } from './attached-estate';
import { attachingTasks } from './attaching';
import { carvingTasks, historyTasks } from './carving';
import { generateEstate } from './estate';
import { benchDocument, type Row } from './document';
import { loadTasks, telemetry, type LoadTask } from './loading';
import { moveTasks } from './moving';
import { movingTasks } from './moving-lab';
import { protectedLab } from './protected-lab';
import { manyCopies } from './protected-view';
import { protectingTasks } from './protecting';
import { yardstick } from './yardstick';
import { LAB_START } from '../demo/hardware';

// Its memory is its own: what was measured before has left some behind.
const ALONE = '--telemetry';
if (process.argv.includes(ALONE)) {
  process.stdout.write(JSON.stringify(telemetry()));
  process.exit();
}

const rows: Row[] = [];
const report = (what: string, times: readonly number[], target?: number, beside = yardstick()) => {
  const sorted = [...times].sort((a, b) => a - b);
  const median = sorted[Math.floor(sorted.length / 2)]!;
  rows.push({
    what,
    median: `${median.toFixed(1)} ms`,
    worst: `${sorted.at(-1)!.toFixed(1)} ms`,
    yardsticks: (median / beside).toFixed(3),
    target: target === undefined ? '' : `< ${target} ms`,
    held: heldOf(median, target),
  });
  console.log(`${what}: ${rows.at(-1)!.median}`);
};
const heldOf = (figure: number, target: number | undefined): string => {
  if (target === undefined) return '';
  return figure < target ? 'yes' : 'NO';
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

/** Each task by itself, with the yardstick before it. */
const tasks: { name: string; work: () => unknown; target?: number | undefined }[] = [];
const add = (name: string, work: () => unknown, target?: number) => tasks.push({ name, work, target });
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
for (const { name, work, target } of protectingTasks()) add(name, work, target);
for (const { name, work, target } of tasks) {
  const beside = yardstick();
  const bench = new Bench({ time: 1000, warmupTime: 300, retainSamples: true });
  bench.add(name, () => void work());
  await bench.run();
  for (const { result } of bench.tasks)
    if ('latency' in result) report(name, result.latency.samples as readonly number[], target, beside);
}

past.close();
rmSync(pastFolder, { recursive: true, force: true });

const alone = execFileSync(process.execPath, [...process.execArgv, process.argv[1]!, ALONE], { encoding: 'utf8' });
const measured = JSON.parse(alone) as LoadTask[];
for (const { name, took, target } of [...measured, ...loadTasks(), ...moveTasks(), ...movingTasks()])
  report(name, [took], target);

const lab = protectedLab(3);
report('24 h of 2,000 active volumes, 1,000 copied every half hour', lab.days.slice(0, 1), 10_000);
report('the same on the third day', lab.days.slice(2), 10_000);
report(`lanes of 250 workloads with ${lab.copies} copies`, [lab.lanes], 1000);
report('one workload with its restore points', [lab.subject], 200);
report('preview of going back, 4 volumes of 388 copies', [lab.restore], 50);

const port = String(4900 + (process.pid % 90));
const address = `http://127.0.0.1:${port}`;

/** A server that does not answer by then never will, real milliseconds. */
const STARTS_WITHIN = 60_000;

interface Running {
  pid: number;
  took: number;
  stop: () => Promise<void>;
}
async function start(database: string): Promise<Running> {
  const begun = performance.now();
  const server = spawn(process.execPath, ['scripts/serve.mjs'], {
    stdio: 'ignore',
    env: { ...process.env, TRABES_DB: database, TRABES_PORT: port, NEXT_TELEMETRY_DISABLED: '1' },
  });
  for (;;) {
    try {
      if ((await fetch(`${address}/api/v1/health`)).ok) break;
    } catch {
      if (performance.now() - begun > STARTS_WITHIN) throw new Error('The server did not start: build it first.');
      await new Promise((resolve) => setTimeout(resolve, 20));
    }
  }
  const took = performance.now() - begun;
  return {
    pid: server.pid!,
    took,
    stop: () => new Promise((resolve) => server.once('exit', () => resolve()) && server.kill('SIGTERM')),
  };
}

/** Resident memory of the server and what it has started, in MB (Linux). */
function residentMemory(pid: number): number {
  const of = (id: string): number => {
    const status = readFileSync(`/proc/${id}/status`, 'utf8');
    return Number(/VmRSS:\s+(\d+)/.exec(status)?.[1] ?? 0) / 1024;
  };
  const children = readFileSync(`/proc/${pid}/task/${pid}/children`, 'utf8').trim().split(/\s+/).filter(Boolean);
  return [String(pid), ...children].reduce((sum, id) => sum + of(id), 0);
}

/** An estate in a database file of its own. */
function written(effects: Parameters<typeof estate.apply>[0]): { database: string; remove: () => void } {
  const folder = mkdtempSync(path.join(os.tmpdir(), 'trabes-bench-'));
  const database = path.join(folder, 'bench.db');
  const store = new Store(database);
  const writing = performance.now();
  store.commit({ effects, lab: { now: LAB_START, speed: 0 } });
  report(`writing ${effects.length} rows in one commit`, [performance.now() - writing]);
  store.close();
  return { database, remove: () => rmSync(folder, { recursive: true, force: true }) };
}

/** Frames while the tallest pane scrolls through its whole length. */
async function scrolled(page: Page, what: string): Promise<void> {
  const frames = await page.evaluate(async () => {
    const panes = [...document.querySelectorAll<HTMLElement>('main *')].filter(
      (pane) => pane.scrollHeight > pane.clientHeight + 400 && getComputedStyle(pane).overflowY !== 'visible',
    );
    const pane = panes.sort((a, b) => b.scrollHeight - a.scrollHeight)[0];
    if (!pane) return [];
    const times: number[] = [];
    let last = await new Promise<number>(requestAnimationFrame);
    for (let k = 0; k < 240; k++) {
      pane.scrollTop += 90;
      const now = await new Promise<number>(requestAnimationFrame);
      times.push(now - last);
      last = now;
    }
    return times;
  });
  if (frames.length === 0) return;
  const sorted = [...frames].sort((a, b) => a - b);
  report(what, [sorted[Math.floor(sorted.length * 0.95)]!], 17);
}

/** First draw and scrolling of the Protection view. */
async function protectionInBrowser(): Promise<void> {
  const browser = await chromium.launch(launchOptions);
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, reducedMotion: 'reduce' });
  const draws: number[] = [];
  for (let k = 0; k < 4; k++) {
    await page.goto('about:blank');
    const begun = performance.now();
    await page.goto(`${address}/protection`, { waitUntil: 'commit' });
    await page.waitForSelector('[aria-label^="Workloads by how"] [role=option]', { timeout: 60_000 });
    draws.push(performance.now() - begun);
  }
  report('Protection view of 300 workloads with 100,000 copies, first draw', draws, 1000);
  await page.waitForTimeout(1000);
  await scrolled(page, 'scrolling of the Protection view, p95 of a frame');
  await browser.close();
}

/** First draw, marker and scrolling of the Span, measured in the browser. */
async function spanInBrowser(what: string): Promise<void> {
  const browser = await chromium.launch(launchOptions);
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, reducedMotion: 'reduce' });
  const draws: number[] = [];
  for (let k = 0; k < 5; k++) {
    await page.goto('about:blank');
    const begun = performance.now();
    await page.goto(address, { waitUntil: 'commit' });
    await page.waitForSelector('[aria-label="Volumes of lintel-1"] [role=option]', { timeout: 60_000 });
    draws.push(performance.now() - begun);
  }
  report(`Span${what}, first draw in the browser`, draws, 1000);

  // Findings are counted a moment after the drawing; the marker is measured when that is over.
  await page.waitForTimeout(2000);
  await page.waitForLoadState('networkidle', { timeout: 120_000 });
  /** From the click to the frame in which the marked rows stand. */
  const marks = async (choose: number) =>
    page.evaluate(async (k) => {
      const rowsInSight = [
        ...document.querySelectorAll<HTMLElement>('[aria-label="Volumes of lintel-1"] [role=option]'),
      ];
      const begun = performance.now();
      rowsInSight[k]!.click();
      for (;;) {
        await new Promise(requestAnimationFrame);
        if (
          document.querySelectorAll('[aria-label^="RAID groups of"] [data-on]').length >= 1 &&
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
  report(`marker through a chain in the browser${what}`, marked, 100);

  await scrolled(page, `scrolling${what}, p95 of a frame`);
  await browser.close();
}

const small = written(effects);
const starts: number[] = [];
for (let k = 0; k < 3; k++) {
  const server = await start(small.database);
  starts.push(server.took);
  await server.stop();
}
report('start of the server on an existing database', starts, 2000);
const server = await start(small.database);
await spanInBrowser('');
await server.stop();
small.remove();

const kept = written(manyCopies(300, 100_000));
const keeping = await start(kept.database);
await protectionInBrowser();
await keeping.stop();
kept.remove();

console.log('Estate over Fibre Channel: 40 arrays of 64 ports, 5,000 hosts, 100,000 volumes.');
const large = attachedEstate({ arrays: 40, portsPerArray: 64, hosts: 5000, volumes: 100_000, seed: 'bench' });
{
  const attached = new Estate();
  attached.apply(large);
  for (const { name, work, target } of attachingTasks(attached)) {
    const times: number[] = [];
    work();
    const until = performance.now() + 3000;
    while (times.length < 3 || (performance.now() < until && times.length < 50)) {
      const begun = performance.now();
      work();
      times.push(performance.now() - begun);
    }
    report(name, times, target);
  }
}
const big = written(large);
const bigServer = await start(big.database);
report('start of the server on the large estate', [bigServer.took]);
const idle = residentMemory(bigServer.pid);
await spanInBrowser(' of the large estate');
const used = residentMemory(bigServer.pid);
rows.push({
  what: 'memory of the server, started / after the Span and its findings',
  median: `${idle.toFixed(0)} MB`,
  worst: `${used.toFixed(0)} MB`,
  yardsticks: '',
  target: '< 600 MB',
  held: used < 600 ? 'yes' : 'NO',
});
await bigServer.stop();
big.remove();
console.table(rows);
writeFileSync('docs/bench.md', benchDocument(rows));
if (rows.some((row) => row.held === 'NO')) process.exitCode = 1;
