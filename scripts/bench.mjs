// npm run bench: measures what the application promises, on a generated estate, and prints a table. It is bundled as the server is: a loader
// that translates file by file leaves helpers in hot code, which then takes half as long again.
import path from 'node:path';
import { chromium } from './chromium.mjs';
import { build, installPackages, root, run } from './install.mjs';

await installPackages();
const browser = await chromium();
if (!browser) process.exit(1);
await build();
const { build: bundle } = await import('esbuild');
const outfile = path.join(root, 'node_modules/.cache/bench/run.mjs');
await bundle({
  entryPoints: [path.join(root, 'bench/run.ts')],
  outfile,
  bundle: true,
  platform: 'node',
  format: 'esm',
  packages: 'external',
  alias: { '@': path.join(root, 'src') },
  define: { 'process.env.NODE_ENV': '"production"' },
  sourcemap: 'inline',
  logLevel: 'error',
});
process.exit(await run(process.execPath, ['--enable-source-maps', outfile], { env: { CHROMIUM_PATH: browser } }));
