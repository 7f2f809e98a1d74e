import { bytesIn, without } from '../estate/runs';
import { within } from '../estate/runs';
import { mappedRuns } from '../content/weave';
import { fitCopies } from '../copies/area';
import { ALL_STANDS } from '../copies/parts';
import { changed, type Effect } from '../estate/effects';
import type { Kind, Snapshot, Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { poolOf } from '../estate/relations';
import { fitStore } from '../pool/store';
import type { FileImage } from '../kinds/file-image';
import type { Milliseconds } from '../units/duration';
import { freeNumbers, giveNumbers, givesBack, numbersOf } from '../volume/grow';
import { heldNumbers } from '../volume/held';

type NewId = (kind: Kind) => string;

/** What hosts that know a volume's device find there once it shows another file system, or none. */
export const foundByHosts = (view: EstateView, volume: string, image: FileImage | null): Effect[] =>
  view
    .table('hostDevice')
    .by('volume', volume)
    .map((device) =>
      changed('hostDevice', device, {
        fileSystem: image?.fileSystem ?? null,
        fileSystemSize: image?.size ?? 0,
        used: image?.used ?? 0,
        free: image?.free ?? [],
        initialised: image !== null || device.initialised,
        ...(image === null ? { mountPoint: null, writeRate: 0 } : {}),
      }),
    );

/**
 * A volume goes back to a copy of it: it shows what the copy shows, of the size it has now; what lies beyond the copy's end reads as zeros.
 * Later copies stay, as a branch. `short` are the extents that could not be had.
 */
export function goneBack(
  view: EstateView,
  volume: Volume,
  copy: Snapshot,
  now: Milliseconds,
  newId: NewId,
): { effects: Effect[]; short: number } {
  const pool = poolOf(view, volume);
  const overlay = new Overlay(view);
  const effects: Effect[] = [];
  const put = (made: readonly Effect[]) => {
    overlay.apply(made);
    effects.push(...made);
  };
  const written = Math.min(copy.written, volume.size);
  const next: Volume = {
    ...volume,
    written,
    holes: within(copy.holes, 0, written),
    reducedTo: volume.reducedTo === volume.written ? written : Math.min(volume.reducedTo, written),
    base: copy.id,
    stands: [...ALL_STANDS],
    files: copy.files,
    image: copy.image,
    writtenAt: now,
  };
  // Reduced pages lie in the store only where the volume took part all along.
  if (volume.reducedTo === 0) next.reducedTo = 0;
  put([changed('volume', volume, next)]);
  let short = 0;
  if (volume.provisioning === 'thin' && volume.origin === null) {
    const needed = numbersOf(within(mappedRuns(next), next.reducedTo, next.size), pool.extentSize);
    const held = heldNumbers(overlay, volume.id);
    if (givesBack(overlay, volume)) put(freeNumbers(overlay, volume.id, without(held, needed), newId));
    const missing = without(needed, held);
    const { effects: given, given: count } = giveNumbers(overlay, next, pool, missing, newId);
    put(given);
    short += bytesIn(missing) - count;
  }
  const store = fitStore(overlay, pool, newId);
  put(store.effects);
  const copies = fitCopies(overlay, volume.id, newId);
  put(copies.effects);
  short += store.short + copies.short;
  put(foundByHosts(overlay, volume.id, copy.image));
  return { effects, short };
}
