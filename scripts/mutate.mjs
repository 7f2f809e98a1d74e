// npm run mutate: how much of the core its tests would notice if it were wrong. A seeded sample of mutants for each room is run against the
// tests that reach them, those of their own room first; what was found out is kept, so that a run that is broken off goes on where it stood.
//   --rooms change,pool   --sample 100   --seed 2031   --workers 2   --minutes 60   --fresh
import { createHash } from 'node:crypto';
import { fork } from 'node:child_process';
import {
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { parseArgs } from 'node:util';
import { installPackages, root } from './install.mjs';

const ROOMS = ['change', 'operation', 'estate', 'attach', 'zoning', 'target', 'raid', 'pool'];
/** A test that takes longer than this waits until the quick ones have not noticed the mutant, ms. */
const QUICK = 400;
const LONGEST = 240_000;
/** Words of refusals and labels are read by people; that they are other words is no fault a test should find. */
const LEFT_OUT = ['StringLiteral'];

const { values } = parseArgs({
  options: {
    rooms: { type: 'string', default: ROOMS.join(',') },
    sample: { type: 'string', default: '100' },
    seed: { type: 'string', default: '2031' },
    workers: { type: 'string', default: '2' },
    minutes: { type: 'string', default: '600' },
    fresh: { type: 'boolean', default: false },
  },
});
const rooms = values.rooms.split(',').map((room) => room.trim());
const end = Date.now() + Number(values.minutes) * 60_000;

await installPackages();
const { createInjector } = await import('typed-inject');
const { createInstrumenter } = await import('@stryker-mutator/instrumenter');

const hash = (text) => createHash('sha256').update(text).digest('hex').slice(0, 16);
const filesOf = (folder, wanted) =>
  readdirSync(path.join(root, folder), { withFileTypes: true }).flatMap((entry) => {
    const name = `${folder}/${entry.name}`;
    return entry.isDirectory() ? filesOf(name, wanted) : wanted(name) ? [name] : [];
  });
const read = (name) => readFileSync(path.join(root, name), 'utf8');

// What was found out before: by the mutant, its file as it stands, and, for those that survived, the tests of its room.
const keptFile = path.join(root, '.data/mutation.json');
const kept = !values.fresh && existsSync(keptFile) ? JSON.parse(readFileSync(keptFile, 'utf8')) : {};
const keep = () => {
  mkdirSync(path.dirname(keptFile), { recursive: true });
  writeFileSync(keptFile, JSON.stringify(kept, null, 1));
};

const silent = () => false;
const log = {
  isTraceEnabled: silent,
  isDebugEnabled: silent,
  isInfoEnabled: silent,
  isWarnEnabled: silent,
  isErrorEnabled: silent,
  isFatalEnabled: silent,
  trace() {},
  debug() {},
  info() {},
  warn() {},
  error: console.error,
  fatal: console.error,
};
const instrumenter = createInjector()
  .provideValue('getLogger', () => log)
  .provideValue('logger', log)
  .provideValue('options', { warnings: false })
  .injectFunction(createInstrumenter);

const sources = rooms.flatMap((room) => filesOf(`src/core/${room}`, (name) => /(?<!\.test)\.ts$/.test(name)));
const { files, mutants } = await instrumenter.instrument(
  sources.map((name) => ({ name, mutate: true, content: read(name) })),
  { plugins: ['typescript'], excludedMutations: LEFT_OUT, ignorers: [] },
);

// A place of its own, in which the rooms carry all their mutants, asleep.
const place = mkdtempSync(path.join(os.tmpdir(), 'trabes-mutate-'));
process.on('exit', () => rmSync(place, { recursive: true, force: true }));
for (const name of ['src', 'demo', 'bench', 'torture', 'docs', 'package.json', 'jest.config.mjs', 'tsconfig.json'])
  cpSync(path.join(root, name), path.join(place, name), { recursive: true });
symlinkSync(path.join(root, 'node_modules'), path.join(place, 'node_modules'));
for (const file of files) writeFileSync(path.join(place, file.name), file.content);

const roomOf = (file) => file.split('/')[2];
const testFiles = ['src/core', 'torture', 'demo'].flatMap((folder) =>
  filesOf(folder, (name) => name.endsWith('.test.ts')),
);
const allTests = hash(testFiles.map(read).join('\n'));
const rankOf = (mutant) => hash(`${values.seed} ${mutant.key}`);
const sampled = rooms.map((room) =>
  mutants
    .filter((mutant) => mutant.status === undefined && roomOf(mutant.fileName) === room)
    .map((mutant) => {
      const { start } = mutant.location;
      return {
        id: mutant.id,
        room,
        file: mutant.fileName,
        line: start.line + 1,
        what: mutant.mutatorName,
        becomes: mutant.replacement.replace(/\s+/g, ' ').slice(0, 120),
        key: `${mutant.fileName} ${hash(read(mutant.fileName))} ${start.line}:${start.column} ${mutant.mutatorName} ${hash(mutant.replacement)}`,
      };
    })
    .sort((a, b) => (rankOf(a) < rankOf(b) ? -1 : 1))
    .slice(0, Number(values.sample)),
);
// Round and round the rooms, so that whenever it ends each has had its share.
const all = Array.from({ length: Number(values.sample) }, (_, k) => sampled.flatMap((list) => list[k] ?? [])).flat();
const known = (mutant) => {
  const found = kept[mutant.key];
  return found && (found.status !== 'survived' || found.tests === allTests) ? found : undefined;
};
const due = all.filter((mutant) => !known(mutant));
console.log(`${all.length} mutants of ${mutants.length} are sampled; ${due.length} are still to be run.`);

/** A worker in the place of the mutants: answers one message with one. */
function newWorker() {
  const child = fork(path.join(root, 'scripts/mutate-worker.mjs'), [], {
    cwd: place,
    stdio: ['ignore', 'ignore', 'ignore', 'ipc'],
    env: { ...process.env, NODE_ENV: 'test', TRABES_REACHED: path.join(place, 'reached') },
  });
  return new Promise((resolve) => child.once('message', () => resolve(child)));
}

// Which test reaches which mutant, and how long it takes: one run of all tests with every mutant asleep.
const reachedBy = new Map();
if (due.length > 0) {
  console.log('All tests are run once, to see what they reach …');
  mkdirSync(path.join(place, 'reached'));
  const child = await newWorker();
  await new Promise((resolve) => {
    child.once('message', resolve);
    child.send({ steps: [{ files: testFiles }] });
  });
  child.kill();
  for (const name of readdirSync(path.join(place, 'reached'))) {
    const { file, tests } = JSON.parse(readFileSync(path.join(place, 'reached', name), 'utf8'));
    for (const test of tests)
      for (const id of test.mutants) {
        if (!reachedBy.has(id)) reachedBy.set(id, []);
        reachedBy.get(id).push({ file: path.relative(place, file), name: test.name, ms: test.ms });
      }
  }
}

/** Quick tests of the mutant's own room, the others of its room, then those of other rooms; what is reached as files load, by its room alone. */
function stepsOf(mutant) {
  const tests = reachedBy.get(mutant.id) ?? [];
  const own = ({ file }) => file.startsWith(`src/core/${mutant.room}/`);
  const step = (list) => ({
    files: [...new Set(list.map(({ file }) => file))],
    names: list.some(({ name }) => name === null) ? undefined : list.map(({ name }) => name),
  });
  return [
    tests.filter((test) => own(test) && test.ms <= QUICK),
    tests.filter((test) => own(test) && test.ms > QUICK),
    tests.filter((test) => !own(test) && test.name !== null),
  ]
    .filter((list) => list.length > 0)
    .map(step);
}

let done = 0;
function settle(mutant, status) {
  kept[mutant.key] = { status, tests: allTests };
  done += 1;
  if (done % 10 === 0) {
    keep();
    console.log(`${done} of ${due.length}`);
  }
}

async function work() {
  let child = null;
  while (due.length > 0 && Date.now() < end) {
    const mutant = due.shift();
    child ??= await newWorker();
    const status = await new Promise((resolve) => {
      const timer = setTimeout(() => finish('timed out'), LONGEST);
      const finish = (result) => {
        clearTimeout(timer);
        child.removeAllListeners();
        resolve(result);
      };
      child.once('message', (answer) => finish(answer.status));
      child.once('exit', () => finish('killed'));
      child.send({ mutant: mutant.id, steps: stepsOf(mutant) });
    });
    if (status === 'timed out' || child.exitCode !== null || child.signalCode !== null) {
      child.kill('SIGKILL');
      child = null;
    }
    settle(mutant, status);
  }
  child?.kill();
}
await Promise.all(Array.from({ length: Number(values.workers) }, work));
keep();

const lines = ['| room | sampled | noticed | score |', '|---|---|---|---|'];
for (const [k, room] of rooms.entries()) {
  const judged = sampled[k].filter(known);
  const noticed = judged.filter((mutant) => known(mutant).status !== 'survived').length;
  lines.push(
    `| ${room} | ${judged.length} | ${noticed} | ${judged.length === 0 ? '–' : `${Math.round((100 * noticed) / judged.length)} %`} |`,
  );
}
console.log(`\n${lines.join('\n')}\n`);
const survivors = all.filter((mutant) => known(mutant)?.status === 'survived');
for (const { file, line, what, becomes } of survivors) console.log(`${file}:${line} ${what} → ${becomes}`);
process.exit(0);
