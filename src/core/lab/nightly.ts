import { wornContent } from '../copies/wear';
import { changed, created, type Effect } from '../estate/effects';
import type { ContentProfile, Kind, Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { cannotReduce, reductionJob } from '../pool/reduce';
import { fitStore } from '../pool/store';
import { heatMoves } from '../tiering/heat';
import { heatJob, movesOf } from '../tiering/job';
import { DAY, HOUR, type Milliseconds } from '../units/duration';
import { formatBytes } from '../units/bytes';
import { lockedCopies, purged } from '../volume/delete';
import { unmapRuns } from '../volume/grow';
import { reclaimableRuns } from '../volume/reclaim';
import { dateText } from '../units/date';
import { proveDue } from '../protect/prove-due';
import { isWritten } from '../replicate/carry';

/** The next midnight of the lab's clock. */
export const nextNight = (now: Milliseconds): Milliseconds => (Math.floor(now / DAY) + 1) * DAY;

/** What stands on a volume by now, after a day in which its hosts rewrote some of it. */
function contentBy(view: EstateView, volume: Volume, now: Milliseconds): ContentProfile {
  const content = (isWritten(view, volume) ? wornContent(volume, now - DAY, now) : null) ?? volume.content;
  const { driftDays, common, worn } = content;
  if (driftDays === 0 || common === 0 || Math.round(now / DAY) % driftDays !== 0) return content;
  const wears = worn ? { worn: { ...worn, common: Math.max(0, worn.common - 1) } } : {};
  return { ...content, common: common - 1, ...wears };
}

/**
 * What falls due once a day: kept volumes go when their time is up, freed blocks are reclaimed, reduction jobs begin, placing by heat waits for
 * its window, hosts have rewritten some of what was zeros or equal elsewhere, copies are proven whose plan names a host for
 * it, and read errors of more than a week ago are forgotten.
 */
export function nightly(
  view: EstateView,
  now: Milliseconds,
  newId: (kind: Kind) => string,
): { effects: Effect[]; said: string[] } {
  const overlay = new Overlay(view);
  const effects: Effect[] = [];
  const said: string[] = [];
  const put = (made: Effect[]) => {
    overlay.apply(made);
    effects.push(...made);
  };
  const arrayName = (id: string) => view.table('array').get(id)?.name ?? '';
  const day = Math.round(now / DAY);
  const drifting = new Map<string, Effect[]>();
  for (const before of [...view.table('volume').values()]) {
    const over = before.deletedAt !== null && before.keepUntil !== null && before.keepUntil <= now;
    if (over && lockedCopies(overlay, before, now).length === 0) {
      put(purged(overlay, before, newId));
      said.push(`${arrayName(before.array)} ${before.name}, which was retired, is given up`);
      continue;
    }
    const content = contentBy(overlay, before, now);
    if (content !== before.content) {
      const rewritten = drifting.get(before.pool) ?? [];
      rewritten.push(changed('volume', before, { content }));
      drifting.set(before.pool, rewritten);
    }
    const volume = overlay.table('volume').get(before.id)!;
    if (volume.reclaimDays === 0 || volume.deletedAt !== null) continue;
    if (volume.reclaimedAt !== null && now - volume.reclaimedAt < volume.reclaimDays * DAY) continue;
    const { effects: unmapped, freed } = unmapRuns(overlay, volume, reclaimableRuns(overlay, volume), newId);
    put(unmapped);
    put([changed('volume', overlay.table('volume').get(volume.id)!, { reclaimedAt: now })]);
    if (freed > 0) said.push(`${arrayName(volume.array)} ${volume.name}: ${formatBytes(freed)} reclaimed`);
  }
  for (const [id, rewritten] of drifting) {
    const pool = overlay.table('pool').get(id)!;
    const after = new Overlay(overlay);
    const stand = rewritten.flatMap(({ id: volume, after: row }) => {
      const present = overlay.table('volume').get(volume);
      return present && row ? [changed('volume', present, { content: (row as typeof present).content })] : [];
    });
    after.apply(stand);
    const fitted = fitStore(after, pool, newId);
    // A pool without room takes no more of what its hosts would write.
    if (fitted.short === 0) put([...stand, ...fitted.effects]);
  }
  for (const pool of overlay.table('pool').values()) {
    if (pool.dedupe !== 'scheduled' || cannotReduce(overlay, pool)) continue;
    put([created('job', reductionJob(overlay, pool, now, newId))]);
    said.push(`${arrayName(pool.array)} ${pool.name} begins to look for equal pages`);
  }
  for (const pool of overlay.table('pool').values()) {
    if (pool.heatFrom === null || movesOf(overlay, pool)) continue;
    const moves = heatMoves(overlay, pool);
    if (moves > 0) put([created('job', heatJob(overlay, pool, moves, newId('job'), now + pool.heatFrom * HOUR))]);
  }
  const proofs = proveDue(overlay, { now, month: dateText(now).slice(0, 7), newId });
  put(proofs.effects);
  said.push(...proofs.said);
  if (day % 7 === 0)
    for (const drive of overlay.table('drive').values())
      if (drive.recentErrors > 0) put([changed('drive', drive, { recentErrors: 0 })]);
  return { effects, said };
}
