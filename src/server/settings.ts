import { existsSync } from 'node:fs';
import path from 'node:path';
import { CannotOpen } from '@/store/cannot-open';

/** What can be set from outside, by environment variables with defaults; the README lists them. */
export interface Settings {
  databaseFile: string;
  port: number;
  host: string;
  /** Further values of the Host header that are let in, besides the loopback names. */
  allowedHosts: string[];
  /** What a new database is filled with. */
  fill: 'demo' | 'empty';
  /** A database with the demo as it begins, made by the build; null where there is none, and its weeks must pass first. */
  prepared: string | null;
  /** Starts over: what the database holds goes. */
  fresh: boolean;
  /** Gives sealed secrets up whose key is lost, and makes a new key. */
  newKey: boolean;
  /** What a request must bear; null where nobody but this machine reaches the server. */
  token: string | null;
}

const LOOPBACK = ['127.0.0.1', 'localhost', '::1', '[::1]'];
export const isLoopback = (host: string): boolean => LOOPBACK.includes(host) || /^127\.\d+\.\d+\.\d+$/.test(host);

const LEAST_TOKEN = 16;

/** Sources may have changed since the last build where they are served as they are. */
function preparedBy(env: NodeJS.ProcessEnv): string | null {
  const file = path.resolve(/* turbopackIgnore: true */ '.next/demo.db');
  return env.NODE_ENV === 'production' && existsSync(/* turbopackIgnore: true */ file) ? file : null;
}

/** @throws CannotOpen where a variable makes no sense, or the server would be open to everybody. */
export function readSettings(env: NodeJS.ProcessEnv = process.env): Settings {
  const port = env.TRABES_PORT ?? env.PORT ?? '4600';
  if (!/^\d{1,5}$/.test(port) || Number(port) > 65_535)
    throw new CannotOpen(
      `TRABES_PORT is ${JSON.stringify(port)}; a port is a number from 0 to 65535.`,
      'Correct it, or leave it out for 4600.',
    );
  const host = env.TRABES_HOST ?? '127.0.0.1';
  const token = env.TRABES_TOKEN?.trim() || null;
  if (token === null && !isLoopback(host))
    throw new CannotOpen(
      `TRABES_HOST is ${host}, so others than this machine would get in, and no token keeps them out.`,
      'Set TRABES_TOKEN to a long random text, or leave TRABES_HOST out.',
    );
  if (token !== null && token.length < LEAST_TOKEN)
    throw new CannotOpen(
      `TRABES_TOKEN has ${token.length} characters; ${LEAST_TOKEN} are needed.`,
      'Set it to a long random text.',
    );
  return {
    databaseFile: path.resolve(/* turbopackIgnore: true */ env.TRABES_DB ?? '.data/trabes.db'),
    port: Number(port),
    host,
    allowedHosts: (env.TRABES_ALLOWED_HOSTS ?? '')
      .split(',')
      .map((name) => name.trim().toLowerCase())
      .filter(Boolean),
    fill: env.TRABES_FILL === 'empty' ? 'empty' : 'demo',
    prepared: preparedBy(env),
    fresh: env.TRABES_FRESH === 'yes',
    newKey: env.TRABES_NEW_KEY === 'yes',
    token,
  };
}

/** Where a browser finds the server. */
export function addressOf({ host, port }: Pick<Settings, 'host' | 'port'>): string {
  if (host === '0.0.0.0' || host === '::') return `http://localhost:${port}`;
  return `http://${host.includes(':') ? `[${host}]` : host}:${port}`;
}
