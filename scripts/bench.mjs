// npm run bench: measures what the application promises, on a generated estate, and prints a table.
import path from 'node:path';
import { chromium } from './chromium.mjs';
import { build, installPackages, root, run } from './install.mjs';

await installPackages();
const browser = await chromium();
if (!browser) process.exit(1);
await build();
process.exit(
  await run(process.execPath, [path.join(root, 'node_modules/tsx/dist/cli.mjs'), 'bench/run.ts'], {
    env: { CHROMIUM_PATH: browser },
  }),
);
