// npm run torture [-- --minutes 60] [-- --seed N]: kills, random operations, hostile requests, thirty simulated days; prints what came of it.
import path from 'node:path';
import { build, installPackages, root, run } from './install.mjs';

await installPackages();
await build();
process.exit(
  await run(process.execPath, [
    path.join(root, 'node_modules/tsx/dist/cli.mjs'),
    'torture/run.ts',
    ...process.argv.slice(2),
  ]),
);
