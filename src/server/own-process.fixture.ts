import { spawn, type ChildProcessByStdio } from 'node:child_process';
import path from 'node:path';
import type { Readable } from 'node:stream';
import { buildSync } from 'esbuild';

const bundles = new Map<string, string>();

/** A fixture as one file: a process that reads a thousand takes seconds to begin. */
function bundleOf(entry: string): string {
  let outfile = bundles.get(entry);
  if (!outfile) {
    outfile = path.resolve('node_modules/.cache/tests', `${path.basename(entry, '.ts')}-${process.pid}.mjs`);
    buildSync({
      entryPoints: [entry],
      outfile,
      bundle: true,
      platform: 'node',
      format: 'esm',
      packages: 'external',
      alias: { '@': path.resolve('src') },
      logLevel: 'error',
    });
    bundles.set(entry, outfile);
  }
  return outfile;
}

/** Runs a fixture in a process of its own, which tells on standard output how far it is. */
export const ownProcess = (entry: string, ...args: string[]): ChildProcessByStdio<null, Readable, null> =>
  spawn(process.execPath, [bundleOf(entry), ...args], { stdio: ['ignore', 'pipe', 'inherit'] });
