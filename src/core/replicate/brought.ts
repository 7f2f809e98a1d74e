import type { z } from 'zod';
import { bytesIn, within, without } from '../estate/runs';
import { mappedRuns } from '../content/weave';
import { standsAfter } from '../copies/activity';
import { fitCopies } from '../copies/area';
import { shownBytes, showingFewer } from '../copies/parts';
import { changed, type Effect } from '../estate/effects';
import type { Kind, Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { poolOf } from '../estate/relations';
import type { carriedVolume } from '../kinds/replication';
import { fitStore } from '../pool/store';
import { availableExtents } from '../pool/usage';
import { foundByHosts } from '../protect/back';
import type { Bytes } from '../units/bytes';
import type { Milliseconds } from '../units/duration';
import { freeNumbers, giveNumbers, givesBack, numbersOf } from '../volume/grow';
import { heldNumbers } from '../volume/held';

/**
 * Effects that bring a copy from what its source showed at `from` (null for never) to what it shows `at`: content, files, extents. `short` are
 * bytes for which its pool has no room; then nothing of it may be applied.
 */
export function brought(
  view: EstateView,
  copy: Volume,
  shows: z.output<typeof carriedVolume>,
  { activity, from, at }: { activity: Volume['activity']; from: Milliseconds | null; at: Milliseconds },
  newId: (kind: Kind) => string,
): { effects: Effect[]; short: Bytes } {
  const overlay = new Overlay(view);
  const effects: Effect[] = [];
  const put = (made: readonly Effect[]) => {
    overlay.apply(made);
    effects.push(...made);
  };
  const before = overlay.table('volume').get(copy.id)!;
  const { written, holes, image, files } = shows;
  const until = Math.min(written, before.size);
  const after = { written: until, reducedTo: Math.min(before.reducedTo, until), holes, image, files, writtenAt: at };
  const stands =
    before.base === null || activity === null || from === null
      ? before.stands
      : standsAfter(activity, { ...before, bytes: shownBytes(before) }, from, at);
  put([changed('volume', before, { ...after, stands, ...showingFewer({ ...before, stands }, after) })]);
  const present = overlay.table('volume').get(copy.id)!;
  const pool = poolOf(overlay, before);
  // What lies in the reduced store takes room there, not in extents of its own.
  const needed = numbersOf(within(mappedRuns(present), present.reducedTo, present.size), pool.extentSize);
  const held = heldNumbers(overlay, before.id);
  if (givesBack(overlay, before)) put(freeNumbers(overlay, before.id, without(held, needed), newId));
  const missing = without(needed, held);
  // What is kept back is for emptying groups, not for copies.
  const lacking = Math.max(0, bytesIn(missing) - availableExtents(overlay, pool));
  if (lacking === 0) put(giveNumbers(overlay, present, pool, missing, newId).effects);
  const fitted = fitCopies(overlay, before.id, newId);
  put(fitted.effects);
  const stored = present.reducedTo > 0 ? fitStore(overlay, pool, newId) : { effects: [], short: 0 };
  put(stored.effects);
  put(foundByHosts(overlay, before.id, image));
  return { effects, short: (lacking + fitted.short + stored.short) * pool.extentSize };
}
