// Brings the project's packages in, with nothing but Node's own modules. Used by the demo, the tests and the bench.
import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));

const hashOf = (texts) => texts.reduce((hash, text) => hash.update(text), createHash('sha256')).digest('hex');
const read = (file) => (existsSync(file) ? readFileSync(file, 'utf8') : '');

/** Runs a program to its end; its output goes where ours goes. */
export function run(command, args, options = {}) {
  return new Promise((resolve) => {
    const child = spawn(command, args, {
      cwd: root,
      stdio: 'inherit',
      ...options,
      env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1', ...options.env },
    });
    child.on('error', () => resolve(127));
    child.on('exit', (code, signal) => resolve(code ?? (signal ? 1 : 0)));
  });
}

/** Node's own headers, where this Node brings them: building the database module then needs no download. */
function headerSettings() {
  const prefix = path.dirname(path.dirname(process.execPath));
  const found = [prefix, '/usr', '/usr/local'].find((folder) => existsSync(path.join(folder, 'include/node/node.h')));
  return found ? { npm_config_nodedir: found } : {};
}

/** npm itself, run by this Node. */
export function npm(args, options) {
  const program = process.env.npm_execpath;
  return program ? run(process.execPath, [program, ...args], options) : run('npm', args, options);
}

/** Installs what the lock file names, unless it stands already. */
export async function installPackages() {
  const stamp = path.join(root, 'node_modules/.trabes-installed');
  const wanted = hashOf([read(path.join(root, 'package-lock.json')), process.versions.modules]);
  if (read(stamp) === wanted) return;
  console.log('Installing packages. The database module is compiled on this machine; that takes a minute or two.');
  const code = await npm(['ci', '--include=dev', '--no-fund', '--no-audit', '--loglevel=error'], {
    env: { NODE_ENV: '', ...headerSettings() },
  });
  if (code !== 0) {
    console.error(
      'The packages could not be installed. Check the connection to the package registry; a C++ compiler, make and python3 are needed too.',
    );
    process.exit(1);
  }
  writeFileSync(stamp, wanted);
}

function* sources(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const file = path.join(folder, entry.name);
    if (entry.isDirectory()) yield* sources(file);
    else if (!/\.test\.tsx?$/.test(entry.name)) yield file;
  }
}

/** Builds the application, unless the sources are those of the last build. */
export async function build() {
  const stamp = path.join(root, '.next/trabes-built');
  const files = ['src', 'demo'].flatMap((folder) => [...sources(path.join(root, folder))]).sort();
  const configs = ['package-lock.json', 'next.config.ts', 'tsconfig.json', 'postcss.config.mjs'].map((name) =>
    path.join(root, name),
  );
  const wanted = hashOf([...files, ...configs].flatMap((file) => [file.slice(root.length), readFileSync(file)]));
  const stands = ['BUILD_ID', 'demo.db'].every((name) => existsSync(path.join(root, '.next', name)));
  if (read(stamp) === wanted && stands) return;
  console.log('Building.');
  const code = await run(process.execPath, [path.join(root, 'node_modules/next/dist/bin/next'), 'build'], {
    stdio: ['ignore', process.env.CI ? 'inherit' : 'ignore', 'inherit'],
  });
  if (code !== 0) {
    console.error('The build failed.');
    process.exit(1);
  }
  if (
    (await run(process.execPath, ['--import', 'tsx', path.join(root, 'scripts/put-up-demo.ts')], { cwd: root })) !== 0
  ) {
    console.error('The demo could not be put up.');
    process.exit(1);
  }
  mkdirSync(path.dirname(stamp), { recursive: true });
  writeFileSync(stamp, wanted);
}

export const isFile = (file) => existsSync(file) && statSync(file).isFile();
