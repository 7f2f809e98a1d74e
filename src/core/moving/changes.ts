import { shownBytes } from '../copies/parts';
import type { Move, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { limitedTo, limitedVolumes } from '../performance/limits';
import { changedOf, isWritten, sentBy } from '../replicate/carry';
import { bisected } from '../units/bisect';
import type { Bytes } from '../units/bytes';
import { SECOND, type Milliseconds } from '../units/duration';
import type { BytesPerSecond } from '../units/rate';
import { BARRIER, DELTA_SHARE, LONGEST_DELTA } from './choices';

/** What limits that hold at every hour leave of what a volume asks, 0 to 1. */
function leftByLimits(view: EstateView, volume: Volume): number {
  const { activity } = volume;
  if (activity === null) return 1;
  const asked = activity.reads + activity.writes;
  let least = 1;
  for (const limit of view.table('loadLimit').by('array', volume.array)) {
    if (limit.fromHour !== null || limit.shared || !limitedVolumes(view, limit).has(volume.id)) continue;
    const iops = limitedTo(limit, { size: volume.size, ioBytes: activity.ioBytes });
    if (iops !== null && asked > 0) least = Math.min(least, iops / asked);
  }
  return least;
}

/** A volume as hosts change it: what its limits hold back is not written. */
function slowed(view: EstateView, volume: Volume): Volume {
  if (volume.activity === null) return volume;
  const share = leftByLimits(view, volume);
  return share < 1 ? { ...volume, activity: { ...volume.activity, writes: volume.activity.writes * share } } : volume;
}

/** Bytes of a moving volume that the other side does not hold after [from, to), of what it held; none while every write goes to both. */
export function changedSince(
  view: EstateView,
  { mode }: Pick<Move, 'mode'>,
  volume: Volume,
  had: Bytes,
  from: Milliseconds,
  to: Milliseconds,
): Bytes {
  if (mode === 'mirror') return 0;
  return changedOf(slowed(view, volume), had, isWritten(view, volume) ? from : to, to);
}

/** How long hosts wait at a cut that has so much left to copy, milliseconds. */
export function pauseFor(left: Bytes, rate: BytesPerSecond): Milliseconds {
  if (left <= 0) return BARRIER;
  return rate > 0 ? BARRIER + Math.ceil((left / rate) * SECOND) : Infinity;
}

/** From delta to delta while a volume waits for its cut: as rarely as what changes in between still fits the pause. */
export function deltaEvery(
  view: EstateView,
  row: Pick<Move, 'mode' | 'pauseMax'>,
  volume: Volume,
  now: Milliseconds,
  rate: BytesPerSecond,
): Milliseconds {
  const budget = (DELTA_SHARE * (row.pauseMax - BARRIER) * rate) / SECOND;
  const had = shownBytes(volume);
  const over = (span: number) => changedSince(view, row, volume, had, now, now + span) - budget;
  if (over(LONGEST_DELTA) <= 0) return LONGEST_DELTA;
  return Math.max(SECOND, Math.floor(bisected(over, 0, LONGEST_DELTA)));
}

/** When the last delta of a volume that keeps in step was cut. */
export function lastDelta({ pit, every }: Pick<Move, 'pit' | 'every'>, now: Milliseconds): Milliseconds {
  if (pit === null) return now;
  return every > 0 ? pit + Math.floor(Math.max(0, now - pit) / every) * every : pit;
}

/** Bytes that the other side of a move lacks now: what its round has still to carry, and what hosts changed since it began. */
export function lacking(view: EstateView, row: Move, now: Milliseconds): Bytes {
  const volume = view.table('volume').get(row.volume)!;
  const twin = row.twin === null ? undefined : view.table('volume').get(row.twin);
  if (row.round) {
    const { wire, pit } = row.round;
    return (
      wire -
      sentBy(row.round, now) +
      changedSince(view, row, volume, shownBytes({ ...volume, ...row.round.volume }), pit, now)
    );
  }
  if (!twin || row.pit === null) return shownBytes(volume);
  const had = shownBytes(twin);
  const from = lastDelta(row, now);
  // What came new since it last took room was carried with the deltas, but for the last one.
  const grown = Math.max(0, shownBytes(volume) - had);
  const share = now > row.pit ? (now - from) / (now - row.pit) : 0;
  const all = changedSince(view, row, volume, had, from, now);
  return row.mode === 'mirror' ? 0 : all - grown + grown * share;
}
