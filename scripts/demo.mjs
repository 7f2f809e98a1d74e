// npm run demo [-- --fresh] [-- --empty]: installs, builds, fills a database where there is none, starts the server, prints its address.
import { spawn } from 'node:child_process';
import net from 'node:net';
import path from 'node:path';
import { build, installPackages, root } from './install.mjs';

const options = process.argv.slice(2);
const strange = options.find((option) => !['--fresh', '--empty'].includes(option));
if (strange) {
  console.error(
    `There is no option ${strange}. Known are --fresh (start over) and --empty (start with no demo estate).`,
  );
  process.exit(2);
}

const host = process.env.TRABES_HOST ?? '127.0.0.1';
const empty = options.includes('--empty');
const database = path.resolve(root, process.env.TRABES_DB ?? (empty ? '.data/empty.db' : '.data/trabes.db'));

await installPackages();
await build();

const isFree = (port) =>
  new Promise((resolve) => {
    const probe = net.createServer();
    probe.once('error', () => resolve(false));
    probe.listen(port, host, () => probe.close(() => resolve(true)));
  });

const given = process.env.TRABES_PORT ?? '4600';
if (!/^\d{1,5}$/.test(given) || Number(given) > 65_535) {
  console.error(
    `TRABES_PORT is ${JSON.stringify(given)}; a port is a number from 0 to 65535. Correct it, or leave it out for 4600.`,
  );
  process.exit(2);
}
const wanted = Number(given);
let port = wanted;
while (!(await isFree(port))) {
  if (process.env.TRABES_PORT || port > wanted + 20) {
    console.error(`Port ${port} is taken. Free it, or choose another with TRABES_PORT.`);
    process.exit(1);
  }
  port += 1;
}

const server = spawn(process.execPath, [path.join(root, 'scripts/serve.mjs')], {
  cwd: root,
  stdio: ['ignore', 'ignore', 'inherit'],
  env: {
    ...process.env,
    TRABES_DB: database,
    TRABES_PORT: String(port),
    TRABES_HOST: host,
    TRABES_FILL: empty ? 'empty' : 'demo',
    // The server takes the old database away itself, once it knows that nobody is at work on it.
    ...(options.includes('--fresh') ? { TRABES_FRESH: 'yes' } : {}),
  },
});
server.on('exit', (code) => process.exit(code ?? 0));
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));
// A parent that has gone leaves nobody to stop the server.
const parent = process.ppid;
setInterval(() => process.ppid !== parent && server.kill('SIGTERM'), 500).unref();

const shown = host === '0.0.0.0' || host === '::' ? 'localhost' : host;
const address = `http://${shown}:${port}`;
for (let tries = 0; tries < 600; tries++) {
  try {
    // Whatever it answers, it answers.
    await fetch(`http://${host === '0.0.0.0' ? '127.0.0.1' : host}:${port}/api/v1/health`);
    break;
  } catch {
    // Not listening yet.
  }
  await new Promise((resolve) => setTimeout(resolve, 100));
}
console.log(`Trabes is at work: ${address}`);
console.log(`Database: ${database}. Stop with Ctrl-C.`);
