import path from 'node:path';

/** What can be set from outside, by environment variables with defaults; the README lists them. */
export interface Settings {
  databaseFile: string;
  port: number;
  host: string;
  /** Further values of the Host header that are let in, besides the loopback names. */
  allowedHosts: string[];
  /** What a new database is filled with. */
  fill: 'demo' | 'empty';
}

export function readSettings(env: NodeJS.ProcessEnv = process.env): Settings {
  return {
    databaseFile: path.resolve(/* turbopackIgnore: true */ env.TRABES_DB ?? '.data/trabes.db'),
    port: Number(env.TRABES_PORT ?? env.PORT ?? 4600),
    host: env.TRABES_HOST ?? '127.0.0.1',
    allowedHosts: (env.TRABES_ALLOWED_HOSTS ?? '')
      .split(',')
      .map((name) => name.trim().toLowerCase())
      .filter(Boolean),
    fill: env.TRABES_FILL === 'empty' ? 'empty' : 'demo',
  };
}
