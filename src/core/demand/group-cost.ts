import { partsOf } from '../copies/activity';
import { shownBytes } from '../copies/parts';
import type { RaidGroup, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { backend } from '../load/backend';
import { shapeOfGroup } from '../raid/geometry';
import { groupHealth } from '../raid/health';
import { mediaOfGroup } from '../raid/load';
import { runsUnder } from '../volume/health';
import { FULL_STRIPES } from './choices';

/** What I/O of a volume costs a group. */
export interface GroupCost {
  /** Drive seconds of one read that misses, and of one write of this size. */
  read: number;
  write: number;
  readOps: number;
  writeOps: number;
}

/** Of what is read and written on a volume, the share that falls on each group: by where its hot, its warm and its other bytes lie. */
export function groupShares(view: EstateView, volume: Volume): { group: RaidGroup; part: number }[] {
  const pool = view.table('pool').get(volume.pool)!;
  const groups = view.table('raidGroup').by('pool', volume.pool);
  const activity = volume.activity;
  const runs = runsUnder(view, volume);
  const parts = new Map<string, number>();
  const bytes = Math.max(1, shownBytes(volume));
  if (activity && volume.reducedTo === 0 && volume.origin === null) {
    const [hot, warm] = partsOf(activity) as [number, number];
    const hotShare = hot > 0 ? activity.hotShare : 0;
    // Extents up to which it is hot, and warm; a volume that grew for long has thousands of runs.
    const [hotTo, warmTo] = [(hot * bytes) / pool.extentSize, (Math.max(warm, hot) * bytes) / pool.extentSize];
    const [perHot, perWarm] = [
      hotTo > 0 ? hotShare / hotTo : 0,
      warmTo > hotTo ? (1 - hotShare) / (warmTo - hotTo) : 0,
    ];
    for (const { at, count, raidGroup } of runs) {
      if (at >= warmTo) continue;
      const hotPart = Math.max(0, Math.min(at + count, hotTo) - at);
      const warmPart = Math.max(0, Math.min(at + count, warmTo) - Math.max(at, hotTo));
      const share = hotPart * perHot + warmPart * perWarm;
      if (share > 0) parts.set(raidGroup, (parts.get(raidGroup) ?? 0) + share);
    }
  }
  if (parts.size === 0) for (const run of runs) parts.set(run.raidGroup, (parts.get(run.raidGroup) ?? 0) + run.count);
  if (parts.size === 0) for (const group of groups) parts.set(group.id, group.usable);
  const total = [...parts.values()].reduce((sum, one) => sum + one, 0);
  return [...parts].flatMap(([id, one]) => {
    const group = view.table('raidGroup').get(id);
    return group && total > 0 ? [{ group, part: one / total }] : [];
  });
}

/** Drive seconds and operations of one read that misses and of one write at a group, as it stands. */
export function groupCost(
  view: EstateView,
  group: RaidGroup,
  ioBytes: number,
  sequential: boolean,
  degraded: ReadonlySet<string>,
): GroupCost {
  const shape = shapeOfGroup(group);
  const media = mediaOfGroup(view, group);
  const failed = Math.min(
    1,
    Math.max(
      groupHealth(view, group).failed.filter(({ id }) => !group.moved.includes(id)).length,
      degraded.has(group.id) ? 1 : 0,
    ),
  );
  const mirror = shape.copies > 1;
  const plain = !mirror && shape.parity === 0;
  const asked = { readHit: 0, writeCoalesce: 0, fullStripeFraction: sequential ? FULL_STRIPES : 0, failed };
  const scheme = {
    scheme: mirror ? 'mirror' : 'parity',
    data: mirror ? shape.copies : shape.data,
    parity: shape.parity,
  } as const;
  const of = (readIops: number, writeIops: number) => {
    if (plain) return readIops + writeIops;
    const answer = backend({ ...asked, ...scheme, readIops, writeIops });
    return answer.ok ? answer.totalOps : 0;
  };
  const [readOps, writeOps] = [of(1, 0), of(0, 1)];
  const transfer = Math.max(0, Math.min(ioBytes, group.chunk) - 4096);
  return {
    readOps,
    writeOps,
    read: readOps * (1 / media.readIops + transfer / (media.readMBps * 1e6)),
    write: writeOps * (1 / media.writeIops + transfer / (media.writeMBps * 1e6)),
  };
}
