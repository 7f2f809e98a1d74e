import { PAGE, wholePages } from '../content/page';
import { changed, created, deleted, type Effect } from '../estate/effects';
import type { ExtentRun, Kind, Snapshot, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { poolOf } from '../estate/relations';
import { copiesHolder } from '../estate/occupancy';
import { placeExtents } from '../pool/allocate';
import { availableExtents } from '../pool/usage';
import { startOf } from '../pool/tier-policy';
import type { Bytes } from '../units/bytes';
import { lineageSpace, type LineageNode } from './lineage';
import { PARTS, sharedBytes, sharesOf, shownBytes } from './parts';

type NewId = (kind: Kind) => string;

/** Copies of a volume that somebody can read, the oldest first. */
export const copiesOf = (view: EstateView, volume: string): Snapshot[] =>
  view
    .table('snapshot')
    .by('volume', volume)
    .filter((copy) => copy.kept)
    .sort((a, b) => a.at - b.at || (a.id < b.id ? -1 : 1));

/** Parents before what comes from them; those of one volume are as many as an array keeps. */
function parentsFirst(copies: readonly Snapshot[]): Snapshot[] {
  const children = new Map<string | null, Snapshot[]>();
  for (const copy of copies) {
    const known = children.get(copy.parent);
    if (known) known.push(copy);
    else children.set(copy.parent, [copy]);
  }
  const order: Snapshot[] = [...(children.get(null) ?? [])];
  for (const copy of order) order.push(...(children.get(copy.id) ?? []));
  return order;
}

const partOf = (copy: Snapshot, share: number, part: number): LineageNode => ({
  id: copy.id,
  parent: copy.parent,
  stands: copy.stands[part]!,
  bytes: shownBytes(copy) * share,
  kept: copy.kept,
});

/** The volume whose extents hold what copies keep: the volume itself, or that from which a clone was made. */
export const rootOf = (view: EstateView, volume: Volume): Volume =>
  (volume.origin === null ? undefined : view.table('volume').get(volume.origin)) ?? volume;

/** A volume and the clones made from its copies; they share one lineage. */
export const familyOf = (view: EstateView, root: Volume): Volume[] => [
  root,
  ...view.table('volume').by('origin', root.id),
];

/** All copies of a volume and of its clones, with those that are only remembered. */
export const familyCopies = (view: EstateView, root: Volume): Snapshot[] =>
  familyOf(view, root).flatMap((volume) => view.table('snapshot').by('volume', volume.id));

/** Sums over the parts that hosts rewrite differently: what copies, and the volumes given with them, take together, and what each takes alone. */
function spaceOf(
  copies: readonly Snapshot[],
  volumes: readonly Volume[],
  parts: readonly number[],
): { bytes: number; alone: Map<string, number> } {
  const order = parentsFirst(copies);
  const shares = sharesOf(parts);
  const alone = new Map<string, number>();
  let bytes = 0;
  for (const part of PARTS) {
    const share = shares[part]!;
    if (share === 0) continue;
    const space = lineageSpace([
      ...order.map((copy) => partOf(copy, share, part)),
      ...volumes.map((volume): LineageNode => ({
        id: volume.id,
        parent: volume.base,
        stands: volume.stands[part]!,
        bytes: shownBytes(volume) * share,
        kept: true,
      })),
    ]);
    bytes += space.bytes;
    for (const [id, unique] of space.unique) alone.set(id, (alone.get(id) ?? 0) + unique);
  }
  return { bytes, alone };
}

/** What copies take together, were their volume not there. */
export const bytesTogether = (copies: readonly Snapshot[], parts: readonly number[]): number =>
  spaceOf(copies, [], parts).bytes;

/** By copy: the bytes that it alone keeps, and that its going would give back, in whole pages. */
export function aloneBytes(view: EstateView, volume: Volume): Map<string, Bytes> {
  const root = rootOf(view, volume);
  const { alone } = spaceOf(familyCopies(view, root), familyOf(view, root), root.parts);
  return new Map(
    [...alone].flatMap(([id, bytes]): [string, Bytes][] =>
      view.table('snapshot').get(id)?.volume === volume.id ? [[id, Math.floor(Math.max(0, bytes) / PAGE) * PAGE]] : [],
    ),
  );
}

/** Below this it is the rounding of sums of many bytes, not a page. */
const ROUNDING: Bytes = 16;

/** Whether what a volume shares with its copies follows from the one it stands on: no branch, no clone. */
export const isStraight = (view: EstateView, root: Volume): boolean =>
  view.table('volume').countBy('origin', root.id) === 0 &&
  (root.base === null || view.table('snapshot').get(root.base)?.kept === true);

/** Bytes that copies and clones of a volume keep apart from it, in whole pages: what it does not show itself. */
export function areaBytes(view: EstateView, volume: Volume): Bytes {
  if (volume.origin !== null) return 0;
  const straight = isStraight(view, volume);
  if (straight && volume.copiesBytes === 0) return 0;
  if (straight) {
    const base = volume.base === null ? undefined : view.table('snapshot').get(volume.base);
    const shared = base ? sharedBytes(base, volume, volume.parts) : 0;
    return wholePages(Math.max(0, volume.copiesBytes - shared - ROUNDING));
  }
  const all = spaceOf(familyCopies(view, volume), familyOf(view, volume), volume.parts).bytes;
  return wholePages(Math.max(0, all - shownBytes(volume) - ROUNDING));
}

/** Bytes of the pool's extents that hold them. */
export const heldByCopies = (view: EstateView, volume: Volume): Bytes =>
  view.occupancy.allocated(copiesHolder(volume.id)) * poolOf(view, volume).extentSize;

/** Extents that the copies of a volume need. */
export const areaExtents = (view: EstateView, volume: Volume): number =>
  Math.ceil(areaBytes(view, volume) / poolOf(view, volume).extentSize);

/** Takes or gives back extents, so that the copies of a volume (of a clone: those of its origin) have as many as they need. `short` tells how many could not be had. */
export function fitCopies(view: EstateView, id: string, newId: NewId): { effects: Effect[]; short: number } {
  const row = view.table('volume').get(id);
  return row ? fitArea(view, rootOf(view, row), newId) : { effects: [], short: 0 };
}

/** The same of a root as it is about to be. */
export function fitArea(view: EstateView, volume: Volume, newId: NewId): { effects: Effect[]; short: number } {
  const pool = poolOf(view, volume);
  const held = view.occupancy.allocated(copiesHolder(volume.id));
  const wanted = areaExtents(view, volume);
  if (wanted === held) return { effects: [], short: 0 };
  if (wanted < held) return { effects: lastGiven(view, volume, held - wanted), short: 0 };
  const more = wanted - held;
  // What is kept back is for emptying groups, not for copies.
  const left = availableExtents(view, pool);
  if (left < more) return { effects: [], short: more - left };
  let at = held;
  const { start, last } = startOf(view, volume);
  const effects = placeExtents(view, pool, more, start, new Set(), last).map((place) => {
    const effect = created('extent', {
      id: newId('extent'),
      volume: null,
      store: null,
      copies: volume.id,
      ...place,
      at,
    });
    at += place.count;
    return effect;
  });
  return { effects, short: wanted - at };
}

function lastGiven(view: EstateView, volume: Volume, count: number): Effect[] {
  const effects: Effect[] = [];
  let left = count;
  for (const run of [...view.table('extent').by('copies', volume.id)].sort((a, b) => b.at - a.at)) {
    if (left === 0) break;
    const by = Math.min(left, run.count);
    effects.push(shortened(run, by));
    left -= by;
  }
  return effects;
}

const shortened = (run: ExtentRun, by: number): Effect =>
  by === run.count ? deleted('extent', run) : changed('extent', run, { count: run.count - by });
