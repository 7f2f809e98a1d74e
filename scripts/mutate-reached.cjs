// Beside every test file while nothing is changed yet: writes down which mutants each of its tests reaches, and how long it takes.
/* global expect, beforeEach, afterEach, afterAll */
const { writeFileSync } = require('node:fs');
const path = require('node:path');

const counted = (globalThis.__stryker__ ??= {});
const tests = new Map();
let started = 0;
const nameNow = () => expect.getState().currentTestName;

beforeEach(() => {
  started = Date.now();
  counted.currentTestId = nameNow();
});
afterEach(() => {
  tests.set(nameNow(), Date.now() - started);
  counted.currentTestId = undefined;
});
afterAll(() => {
  const { static: atLoad = {}, perTest = {} } = counted.mutantCoverage ?? {};
  const file = expect.getState().testPath;
  const rows = [
    { name: null, ms: 1e6, mutants: Object.keys(atLoad) },
    ...[...tests].map(([name, ms]) => ({ name, ms, mutants: Object.keys(perTest[name] ?? {}) })),
  ];
  writeFileSync(
    path.join(
      process.env.TRABES_REACHED,
      `${path.basename(file)}-${process.pid}-${Math.random().toString(36).slice(2)}.json`,
    ),
    JSON.stringify({ file, tests: rows }),
  );
});
