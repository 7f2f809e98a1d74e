import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';

/** A server in a process of its own, and how long it took until it answered. */
export interface Served {
  address: string;
  took: number;
  kill(): Promise<void>;
  stop(): Promise<number | null>;
}

/** Starts the built application on a database; null where it was killed, or ended, before it answered. */
export async function serve(database: string, port: number, killAfter?: number): Promise<Served | null> {
  const begun = Date.now();
  const child: ChildProcess = spawn(process.execPath, ['scripts/serve.mjs'], {
    stdio: ['ignore', 'ignore', 'inherit'],
    env: {
      ...process.env,
      TRABES_DB: database,
      TRABES_PORT: String(port),
      TRABES_HOST: '127.0.0.1',
      TRABES_FILL: 'demo',
    },
  });
  let ended = false;
  child.once('exit', () => (ended = true));
  const end = async (signal: NodeJS.Signals) => {
    if (!ended) {
      child.kill(signal);
      await once(child, 'exit');
    }
    return child.exitCode;
  };
  const address = `http://127.0.0.1:${port}`;
  while (!ended) {
    if (killAfter !== undefined && Date.now() - begun >= killAfter) {
      await end('SIGKILL');
      return null;
    }
    try {
      await fetch(`${address}/api/v1/health`, { signal: AbortSignal.timeout(2000) });
      return {
        address,
        took: Date.now() - begun,
        kill: async () => void (await end('SIGKILL')),
        stop: () => end('SIGTERM'),
      };
    } catch {
      await new Promise((resolve) => setTimeout(resolve, 25));
    }
  }
  return null;
}
