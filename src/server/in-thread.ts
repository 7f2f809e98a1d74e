import { Worker } from 'node:worker_threads';
import { Problem } from './problem';
import type { ThreadTasks } from './thread-tasks';

/** Longest that a thread works on something, real milliseconds. */
const LONGEST = 60_000;

/**
 * Works something out in a thread of its own, so that others are answered meanwhile and what would break the reader breaks that thread alone.
 * Whoever takes the request back ends it.
 * @throws the problem that is given where it takes more than can be spent on it.
 */
export function inThread<T extends keyof ThreadTasks>(
  task: T,
  given: ThreadTasks[T]['in'],
  tooMuch: () => Problem,
  signal?: AbortSignal,
): Promise<ThreadTasks[T]['out']> {
  return new Promise((resolve, reject) => {
    const worker = new Worker(new URL('./task.worker.ts', import.meta.url), {
      workerData: { task, given },
      resourceLimits: { maxOldGenerationSizeMb: 1024, stackSizeMb: 8 },
    });
    const end = (settle: () => void) => {
      clearTimeout(timer);
      signal?.removeEventListener('abort', onAbort);
      settle();
      void worker.terminate();
    };
    const onAbort = () => end(() => reject(new Problem(499, 'cancelled', 'The request was taken back.', 'Ask again.')));
    const timer = setTimeout(() => end(() => reject(tooMuch())), LONGEST);
    signal?.addEventListener('abort', onAbort);
    worker.once('message', (result: ThreadTasks[T]['out']) => end(() => resolve(result)));
    worker.once('error', () => end(() => reject(tooMuch())));
  });
}
