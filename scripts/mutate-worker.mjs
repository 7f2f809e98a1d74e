// Runs the tests of a room for one mutant after the other, in one process: what was transformed once is not transformed again.
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

process.on('message', async ({ mutant, patterns }) => {
  process.env.__STRYKER_ACTIVE_MUTANT__ = mutant;
  try {
    for (const pattern of patterns) {
      const { results } = await runCLI({ _: [], ...config, testPathPatterns: [pattern] }, [process.cwd()]);
      if (!results.success) return process.send({ mutant, status: 'killed' });
    }
    process.send({ mutant, status: 'survived' });
  } catch (error) {
    // A mutant with which the tests cannot even be loaded is noticed as well.
    process.send({ mutant, status: 'killed', why: String(error) });
  }
});
process.send({ ready: true });
