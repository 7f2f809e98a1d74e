// npm test: installs what is missing, then lint, types, layer rules, unit and browser tests. Ends with one line that sums both kinds of tests.
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { chromium } from './chromium.mjs';
import { build, installPackages, root, run } from './install.mjs';

const sum = { passed: 0, failed: 0 };
const scratch = mkdtempSync(path.join(os.tmpdir(), 'trabes-test-'));
const bin = (name) => path.join(root, 'node_modules', name);
const node = (...args) => run(process.execPath, args);

/** A check that counts as failed, or says nothing. */
async function check(name, ...args) {
  const begun = Date.now();
  const code = await node(...args);
  console.log(`${code === 0 ? 'ok' : 'FAILED'}: ${name}, ${((Date.now() - begun) / 1000).toFixed(1)} s`);
  if (code !== 0) sum.failed += 1;
}

const report = (file) => (existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')) : null);

await installPackages();
const browser = await chromium();

// Two at a time: the linter alone takes longer than all others.
await Promise.all([
  check('lint', bin('eslint/bin/eslint.js'), '.'),
  (async () => {
    await check('format', bin('prettier/bin/prettier.cjs'), '--check', '--log-level', 'warn', '.');
    await check('route types', bin('next/dist/bin/next'), 'typegen');
    await check('types', bin('typescript/bin/tsc'), '--noEmit');
    await check(
      'layer rules',
      bin('dependency-cruiser/bin/dependency-cruise.mjs'),
      '--config',
      '.dependency-cruiser.cjs',
      'src',
    );
  })(),
]);

const unitFile = path.join(scratch, 'unit.json');
await node(bin('jest/bin/jest.js'), '--json', `--outputFile=${unitFile}`);
const unit = report(unitFile);
if (unit) {
  sum.passed += unit.numPassedTests;
  sum.failed += unit.numFailedTests + unit.numRuntimeErrorTestSuites;
} else sum.failed += 1;

await build();
if (browser) {
  const browserFile = path.join(scratch, 'browser.json');
  await run(process.execPath, [bin('@playwright/test/cli.js'), 'test'], {
    env: { CHROMIUM_PATH: browser, PLAYWRIGHT_JSON_OUTPUT_NAME: browserFile },
  });
  const e2e = report(browserFile);
  if (e2e) {
    sum.passed += e2e.stats.expected + e2e.stats.flaky;
    if (e2e.stats.flaky > 0) console.log(`${e2e.stats.flaky} of the browser tests passed at the second try only`);
    sum.failed += e2e.stats.unexpected + (e2e.errors.length > 0 ? 1 : 0);
  } else sum.failed += 1;
} else sum.failed += 1;

rmSync(scratch, { recursive: true, force: true });
console.log(`${sum.passed} passed, ${sum.failed} failed`);
process.exit(sum.failed === 0 ? 0 : 1);
