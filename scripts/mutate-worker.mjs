// Runs tests for one mutant after the other, in one process: what was transformed once is not transformed again.
import { fileURLToPath } from 'node:url';
import { runCLI } from 'jest';

const config = {
  $0: '',
  runInBand: true,
  silent: true,
  bail: 1,
  reporters: [],
  watchman: false,
  passWithNoTests: true,
};
const escaped = (text) => text.replace(/[.*+?^${}()|[\]\\/]/g, '\\$&');
const REACHED = fileURLToPath(new URL('./mutate-reached.cjs', import.meta.url));

process.on('message', async ({ mutant, steps }) => {
  if (mutant === undefined) delete process.env.__STRYKER_ACTIVE_MUTANT__;
  else process.env.__STRYKER_ACTIVE_MUTANT__ = mutant;
  try {
    for (const { files, names } of steps) {
      const { results } = await runCLI(
        {
          _: [],
          ...config,
          testPathPatterns: files.map((file) => `/${escaped(file)}$`),
          ...(names && { testNamePattern: `^(${names.map(escaped).join('|')})$` }),
          ...(mutant === undefined && { setupFilesAfterEnv: [REACHED], bail: 0 }),
        },
        [process.cwd()],
      );
      if (!results.success) return process.send({ mutant, status: 'killed' });
    }
    process.send({ mutant, status: 'survived' });
  } catch (error) {
    // A mutant with which the tests cannot even be loaded is noticed as well.
    process.send({ mutant, status: 'killed', why: String(error) });
  }
});
process.send({ ready: true });
