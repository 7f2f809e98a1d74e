import { Worker } from 'node:worker_threads';
import type { EstateDocument } from '@/core/estate/document';
import { readChangeFile, type ReadChange } from '@/formats/change-file';
import { Problem } from './problem';
import type { TextTasks } from './text-tasks';

/** Texts up to this are read at once: it takes a few milliseconds. */
const SMALL = 6_000;
/** Longest that a text is worked on, real milliseconds. */
const LONGEST = 60_000;

/**
 * Reads or writes YAML in a thread of its own, so that others are answered meanwhile and a text that would break the reader breaks that thread
 * alone.
 */
function inThread<T extends keyof TextTasks>(
  task: T,
  given: TextTasks[T]['in'],
  signal?: AbortSignal,
): Promise<TextTasks[T]['out']> {
  return new Promise((resolve, reject) => {
    const worker = new Worker(new URL('./text.worker.ts', import.meta.url), {
      workerData: { task, given },
      resourceLimits: { maxOldGenerationSizeMb: 1024, stackSizeMb: 8 },
    });
    const end = (settle: () => void) => {
      clearTimeout(timer);
      signal?.removeEventListener('abort', onAbort);
      settle();
      void worker.terminate();
    };
    const unread = () =>
      new Problem(
        422,
        'text-unreadable',
        'The document takes more than can be spent on it.',
        'Send it in parts, or as JSON.',
      );
    const onAbort = () => end(() => reject(new Problem(499, 'cancelled', 'The request was taken back.', 'Ask again.')));
    const timer = setTimeout(() => end(() => reject(unread())), LONGEST);
    signal?.addEventListener('abort', onAbort);
    worker.once('message', (result: TextTasks[T]['out']) => end(() => resolve(result)));
    worker.once('error', () => end(() => reject(unread())));
  });
}

export const readChangeText = async (text: string, signal?: AbortSignal): Promise<ReadChange> =>
  text.length <= SMALL ? readChangeFile(text) : inThread('readChange', text, signal);

export const readEstateYaml = (text: string, signal?: AbortSignal): Promise<TextTasks['readEstate']['out']> =>
  inThread('readEstate', text, signal);

export const writeEstateText = (document: EstateDocument, signal?: AbortSignal): Promise<string> =>
  inThread('writeEstate', document, signal);
