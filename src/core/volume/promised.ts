import { bytesIn } from '../estate/runs';
import { mappedRuns } from '../content/weave';
import type { Pool, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { availableExtents } from '../pool/usage';
import { formatBytes, type Bytes } from '../units/bytes';
import { numbersOf } from './grow';

/** Extents of a size that thin volumes touch. A row never changes: each is worked out once, however many moves are previewed. */
const touched = new WeakMap<Volume, Map<Bytes, number>>();

function extentsTouched(volume: Volume, extentSize: Bytes): number {
  const known = touched.get(volume) ?? new Map<Bytes, number>();
  let extents = known.get(extentSize);
  if (extents === undefined) {
    extents = bytesIn(numbersOf(mappedRuns(volume), extentSize));
    touched.set(volume, known.set(extentSize, extents));
  }
  return extents;
}

/** Bytes that a volume takes at a pool. */
export const needAt = (volume: Volume, { extentSize }: Pool): Bytes =>
  extentSize *
  (volume.provisioning === 'thick' ? Math.ceil(volume.size / extentSize) : extentsTouched(volume, extentSize));

/** Bytes of a pool that moves will still take which are under way or ready. */
export function promisedTo(view: EstateView, pool: Pool): Bytes {
  let sum = 0;
  for (const row of view.table('move').by('open', '')) {
    if (row.toPool !== pool.id || (row.state !== 'ready' && row.state !== 'copying')) continue;
    const held = row.twin === null ? 0 : view.occupancy.allocated(row.twin) * pool.extentSize;
    sum += Math.max(0, needAt(view.table('volume').get(row.volume)!, pool) - held);
  }
  return sum;
}

/** Extents that are free for whoever asks anew: beside the reserve, and what moves will take. */
export const extentsBesideMoves = (view: EstateView, pool: Pool): number =>
  Math.max(0, availableExtents(view, pool) - Math.ceil(promisedTo(view, pool) / pool.extentSize));

/** Words for why less is left than is free: nothing where no move goes there. */
export function besideMoves(view: EstateView, pool: Pool): string {
  const promised = promisedTo(view, pool);
  return promised === 0 ? '' : ` beside ${formatBytes(promised, 'used')} for moves that go there`;
}
