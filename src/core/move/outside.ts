import { notParsed, parsed, type Parsed } from '../units/parsed';

/** Where a LUN of an outside array stands (move.md D). */
export const outsideStates = ['found', 'inspected', 'fenced', 'fronted', 'copying', 'moved', 'done', 'member'] as const;
export type OutsideState = (typeof outsideStates)[number];

/** What inspecting a LUN found. */
export interface Inspected {
  serial: string;
  sectorBytes: number;
  /** Who holds a reservation on it; null for nobody. */
  reservedBy: string | null;
  /** Seconds since the last write; null where none was ever seen. */
  writtenS: number | null;
  /** File system or volume signature and when it was last written, in words; null for none. */
  holds: string | null;
  /** A host that still sees it; null for none. */
  seenBy: string | null;
  /** The pool it belongs to; null for none. */
  pool: string | null;
}

/** A LUN that was written to less than so long ago is in use, seconds. */
export const IN_USE_S = 60;
const SECTORS: readonly number[] = [512, 4096];

const not = (reason: string, message: string) => notParsed(reason, message);

/** Whether the data of a LUN can be kept. Reasons: import-reserved, import-in-use, import-sector-size. */
export function keepsData({ reservedBy, writtenS, sectorBytes }: Inspected): Parsed<'fenced'> {
  if (reservedBy !== null) return not('import-reserved', `Another host holds a reservation: ${reservedBy}.`);
  if (writtenS !== null && writtenS < IN_USE_S)
    return not('import-in-use', `Written ${Math.floor(writtenS)} s ago; stop the host.`);
  if (!SECTORS.includes(sectorBytes)) return not('import-sector-size', `Sector size ${sectorBytes} is not supported.`);
  return parsed('fenced');
}

/**
 * Whether a LUN can be used blank, its content gone. Reasons: import-serial-differs, import-mapped, import-signature-not-accepted,
 * import-in-other-pool.
 */
export function usedBlank(
  { serial, seenBy, holds, pool }: Inspected,
  { typed, accepted }: { typed: string; accepted: boolean },
): Parsed<'member'> {
  if (typed.trim() !== serial) return not('import-serial-differs', `${typed.trim() || 'Nothing'} is not its serial.`);
  if (seenBy !== null) return not('import-mapped', `${seenBy} still sees it.`);
  if (holds !== null && !accepted)
    return not('import-signature-not-accepted', `It holds ${holds}; everything would be erased.`);
  if (pool !== null) return not('import-in-other-pool', `It belongs to ${pool}.`);
  return parsed('member');
}

export type OutsideEvent =
  | { event: 'inspect'; readable: boolean }
  | { event: 'keep'; found: Inspected }
  | { event: 'blank'; found: Inspected; typed: string; accepted: boolean }
  | { event: 'show'; hostsOffOldPath: boolean }
  | { event: 'copy'; poolHasRoom: boolean }
  | { event: 'copied' }
  | { event: 'give-back' }
  | { event: 'release' };

/** What an event makes of a LUN of an outside array, or why it cannot be (move.md D). */
export function outsideOn(state: OutsideState, happened: OutsideEvent): Parsed<OutsideState> {
  const { event } = happened;
  if (state === 'found' && event === 'inspect')
    return happened.readable ? parsed('inspected') : not('import-unreadable', 'It cannot be read.');
  if (state === 'inspected' && event === 'keep') return keepsData(happened.found);
  if (state === 'inspected' && event === 'blank') return usedBlank(happened.found, happened);
  if (state === 'fenced' && event === 'show')
    return happened.hostsOffOldPath
      ? parsed('fronted')
      : not('import-mapped', 'A host is still on the old path; have it stop first.');
  if (state === 'fronted' && event === 'copy')
    return happened.poolHasRoom ? parsed('copying') : not('move-not-fitting', 'The pool has no room for it.');
  if (state === 'copying' && event === 'copied') return parsed('moved');
  // Until it is released every write goes to the old LUN as well: giving back loses nothing.
  if (event === 'give-back' && (state === 'fronted' || state === 'copying' || state === 'moved'))
    return parsed('found');
  if (state === 'moved' && event === 'release') return parsed('done');
  return not('import-event', `Nothing comes of that while a LUN is ${state}.`);
}
