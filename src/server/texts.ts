import type { EstateDocument } from '@/core/estate/document';
import { readChangeFile, type ReadChange } from '@/formats/change-file';
import { inThread } from './in-thread';
import { Problem } from './problem';
import type { ThreadTasks } from './thread-tasks';

/** Texts up to this are read at once: it takes a few milliseconds. */
const SMALL = 6_000;

const unread = () =>
  new Problem(
    422,
    'text-unreadable',
    'The document takes more than can be spent on it.',
    'Send it in parts, or as JSON.',
  );

export const readChangeText = async (text: string, signal?: AbortSignal): Promise<ReadChange> =>
  text.length <= SMALL ? readChangeFile(text) : inThread('readChange', text, unread, signal);

export const readEstateYaml = (text: string, signal?: AbortSignal): Promise<ThreadTasks['readEstate']['out']> =>
  inThread('readEstate', text, unread, signal);

export const writeEstateText = (document: EstateDocument, signal?: AbortSignal): Promise<string> =>
  inThread('writeEstate', document, unread, signal);
