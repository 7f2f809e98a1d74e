import { cuts } from '../copies/replica';
import type { Job, RaidGroup } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { shapeOfGroup } from '../raid/geometry';
import { mediaOfGroup } from '../raid/load';
import type { Sent } from '../replicate/carry';
import { sidesOf } from '../replicate/sides';
import { SECOND, type Milliseconds } from '../units/duration';
import type { BackgroundWork, LoadResource, TimedWork } from './shape';

/** Work in the background leaves hosts at least the rest of a resource. */
const MOST_BEHIND = 0.9;

/** Bytes that one byte of such work reads and writes on its group. */
const moves: Partial<Record<Job['kind'], number>> = { 'raid-scrub': 1 };

/** The resources of a model, and where each stands in it. */
export interface Placed {
  places: ReadonlyMap<string, number>;
  resources: readonly LoadResource[];
}

/** What rebuilds, copies and scrubs take of the groups they run on, and work on a pool of all its groups. */
export function backgroundOf(view: EstateView, placed: Placed): BackgroundWork[] {
  const found: BackgroundWork[] = [];
  for (const job of view.table('job').values()) {
    if (job.paused || job.rate <= 0) continue;
    if (job.raidGroup === null) {
      if (job.pool !== null) found.push(...withinPool(view, placed, job.pool, job.rate, job.kind));
      continue;
    }
    const group = view.table('raidGroup').get(job.raidGroup)!;
    const media = mediaOfGroup(view, group);
    const shape = shapeOfGroup(group);
    const rebuilds = job.kind === 'raid-rebuild' || job.kind === 'raid-copy-back';
    // A rebuilt byte is worked out from all data strips of its stripe.
    const read = rebuilds ? (shape.copies > 1 ? 1 : shape.data) : 1;
    const written = moves[job.kind] === undefined ? 1 : 0;
    const perS = job.rate * (read / (media.readMBps * 1e6) + written / (media.writeMBps * 1e6));
    found.push(...taken(placed, job.raidGroup, perS, job.kind));
  }
  return found;
}

/** What goes over now, and when its last byte is over at its present rate; null where nothing goes. */
function spanOf(one: Sent): { from: Milliseconds; until: Milliseconds } | null {
  if (one.rate <= 0 || one.wire <= one.sent) return null;
  const from = Math.max(one.asOf, one.from);
  return { from, until: from + ((one.wire - one.sent) / one.rate) * SECOND };
}

/**
 * What the cycles of replications and the rounds of moves take that are on their way now: of the groups they are read from and written to, and of the
 * link between.
 */
export const carriedOf = (view: EstateView, placed: Placed): TimedWork[] => [
  ...view
    .table('replication')
    .by('atWork', '')
    .flatMap((row): TimedWork[] => {
      const { carrying } = row;
      const span = carrying && cuts(row) ? spanOf(carrying) : null;
      if (!carrying || !span) return [];
      const { source, target } = sidesOf(view, row);
      const share = carrying.changed / carrying.wire / source.length;
      return [
        ...taken(placed, row.link, carrying.rate, 'replication'),
        ...source.flatMap(({ pool }) => readFrom(view, placed, pool, carrying.rate * share, 'replication')),
        ...target.flatMap(({ pool }) => writtenTo(view, placed, pool, carrying.rate * share, 'replication')),
      ].map((work) => ({ ...work, ...span }));
    }),
  ...view
    .table('move')
    .by('open', '')
    .flatMap(({ round, flows, fromPool, toPool, link }): TimedWork[] => {
      const span = round && flows ? spanOf(round) : null;
      if (!round || !span) return [];
      return [
        ...readFrom(view, placed, fromPool, round.rate, 'move'),
        ...writtenTo(view, placed, toPool, round.rate, 'move'),
        ...(link === null ? [] : taken(placed, link, round.rate, 'move')),
      ].map((work) => ({ ...work, ...span }));
    }),
];

/** Extents that are read, worked on, and written within one pool. */
const withinPool = (view: EstateView, placed: Placed, pool: string, rate: number, name: string): BackgroundWork[] => [
  ...readFrom(view, placed, pool, rate, name),
  ...writtenTo(view, placed, pool, rate, name),
];

/** Work on one resource; none where the resource is not there. */
function taken({ places, resources }: Placed, id: string, perS: number, name: string): BackgroundWork[] {
  const resource = places.get(id);
  if (resource === undefined) return [];
  const { kind, capacity } = resources[resource]!;
  // What yields to hosts anyway may have all of a link.
  return [{ resource, perS: Math.min(perS, capacity * (kind === 'line' ? 1 : MOST_BEHIND)), name }];
}

/** Bytes a second that are read from a pool: from its groups, by what each holds. */
const readFrom = (view: EstateView, placed: Placed, pool: string, rate: number, name: string): BackgroundWork[] =>
  onGroups(view, placed, pool, name, (group, part) => (rate * part) / (mediaOfGroup(view, group).readMBps * 1e6));

/** The same written: a byte comes with its parity, or in as many copies as the group keeps. */
const writtenTo = (view: EstateView, placed: Placed, pool: string, rate: number, name: string): BackgroundWork[] =>
  onGroups(view, placed, pool, name, (group, part) => {
    const { data, copies, parity } = shapeOfGroup(group);
    const more = copies > 1 ? copies : (data + parity) / data;
    return (rate * part * more) / (mediaOfGroup(view, group).writeMBps * 1e6);
  });

function onGroups(
  view: EstateView,
  placed: Placed,
  pool: string,
  name: string,
  perS: (group: RaidGroup, part: number) => number,
): BackgroundWork[] {
  const groups = view.table('raidGroup').by('pool', pool);
  const usable = groups.reduce((sum, one) => sum + one.usable, 0);
  if (usable === 0) return [];
  return groups.flatMap((group) => taken(placed, group.id, perS(group, group.usable / usable), name));
}
