import type { MediaClass, Pool, TierPolicyRow, TierShare, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { poolUsage, tiersOf } from './usage';
import { mediaFigures } from '../raid/media';
import { boundsOf, feasible, type TierPolicy, type TierRefusal } from '../tier/bounds';

/** The tier policy that a volume is under, if any. */
export function policyOf(view: EstateView, volume: string): TierPolicyRow | undefined {
  const [use] = view.table('tierUse').by('volume', volume);
  return use && view.table('tierPolicy').get(use.tierPolicy);
}

/** Volumes under a policy that are not retired. */
export const underPolicy = (view: EstateView, policy: string): Volume[] =>
  view
    .table('tierUse')
    .by('tierPolicy', policy)
    .flatMap((use) => view.table('volume').get(use.volume) ?? [])
    .filter(({ deletedAt }) => deletedAt === null);

const ANYTHING = { least: 0, most: 100 } as const;

export const shareOf = (shares: readonly TierShare[], media: MediaClass): Pick<TierShare, 'least' | 'most'> =>
  shares.find((one) => one.media === media) ?? ANYTHING;

/** Bounds of shares in the classes of a pool, per cent. */
export const inClasses = (
  shares: readonly TierShare[],
  classes: readonly MediaClass[],
): { percent: number[]; least: number[] } => ({
  percent: classes.map((media) => shareOf(shares, media).most),
  least: classes.map((media) => shareOf(shares, media).least),
});

/** Where new extents of a volume go first, and the classes they go to only when nothing else is free. */
export function startOf(view: EstateView, volume: Volume): { start: MediaClass | null; last: ReadonlySet<MediaClass> } {
  const policy = policyOf(view, volume.id);
  if (!policy) return { start: volume.tier, last: nowhere };
  return {
    start: policy.startOn ?? volume.tier,
    last: new Set(policy.shares.flatMap(({ media, most }) => (most === 0 ? [media] : []))),
  };
}
const nowhere: ReadonlySet<MediaClass> = new Set();

/** Extents of each volume of a pool that lie in its classes, by class; what is kept for copies and in reduced form is left out. */
export function extentsByClass(view: EstateView, pool: Pool): Map<string, number[]> {
  const tiers = tiersOf(poolUsage(view, pool));
  const tierOf = new Map(tiers.flatMap(({ groups }, k) => groups.map(({ group }) => [group.id, k] as const)));
  const found = new Map<string, number[]>();
  for (const volume of view.table('volume').by('pool', pool.id)) {
    if (volume.deletedAt !== null) continue;
    const counts = tiers.map(() => 0);
    for (const run of view.table('extent').by('volume', volume.id)) {
      const tier = tierOf.get(run.raidGroup);
      if (tier !== undefined) counts[tier]! += run.count;
    }
    found.set(volume.id, counts);
  }
  return found;
}

/** Of a class that a pool has not, a policy wants something to lie there. */
export interface ClassMissing {
  code: 'tier-class-missing';
  policy: string;
  media: MediaClass;
  message: string;
}

/** Bounds of a pool's volumes that are under a policy, in extents and by class; what cannot be met is told of the first. */
export interface PoolBounds {
  bounds: Map<string, { most: number[]; least: number[] }>;
  refusal: TierRefusal | ClassMissing | null;
}

/**
 * What each volume under a policy may and must have of each class of its pool, and whether all of them can be placed together: bounds hold for
 * each volume by itself, what others need is taken as it is.
 */
export function poolBounds(
  view: EstateView,
  pool: Pool,
  { policies }: { policies?: (volume: string) => TierPolicyRow | undefined } = {},
): PoolBounds {
  const tiers = tiersOf(poolUsage(view, pool));
  const classes = tiers.map(({ media }) => media);
  const held = extentsByClass(view, pool);
  const asked: Record<string, TierPolicy> = {};
  const bounds: PoolBounds['bounds'] = new Map();
  let refusal: PoolBounds['refusal'] = null;
  const ownPolicy = policies ?? ((volume: string) => policyOf(view, volume));
  let rest = 0;
  for (const [id, counts] of held) {
    const extents = counts.reduce((sum, count) => sum + count, 0);
    const policy = ownPolicy(id);
    if (!policy) {
      rest += extents;
      continue;
    }
    const missing = policy.shares.find(({ media, least }) => least > 0 && !classes.includes(media));
    if (missing) {
      const { label } = mediaFigures[missing.media];
      refusal ??= {
        code: 'tier-class-missing',
        policy: policy.name,
        media: missing.media,
        message: `${policy.name} wants at least ${missing.least} % on ${label}, of which ${pool.name} has none.`,
      };
      continue;
    }
    const own = { extents, ...inClasses(policy.shares, classes) };
    const name = view.table('volume').get(id)!.name;
    const able = boundsOf(policy.name, own);
    if (!able.ok) {
      refusal ??= able.refusal;
      continue;
    }
    asked[name] = own;
    bounds.set(id, able);
  }
  if (rest > 0) asked['what is under no policy'] = { extents: rest, percent: classes.map(() => 100) };
  if (refusal === null) {
    const rooms = volumeRoom(view, pool, held);
    const able = feasible({ tiers: rooms.map((capacity, k) => ({ capacity, service: k })), policies: asked });
    if (!able.ok) refusal = able.refusal;
  }
  return { bounds, refusal };
}

/** Extents that volumes may have of each class of a pool: what copies and reduced data take there is not theirs. */
export function volumeRoom(view: EstateView, pool: Pool, held: ReadonlyMap<string, readonly number[]>): number[] {
  return tiersOf(poolUsage(view, pool)).map(({ groups, used }, k) => {
    const whole = groups.filter(({ group }) => !group.draining).reduce((sum, { capacity }) => sum + capacity, 0);
    let volumes = 0;
    for (const counts of held.values()) volumes += counts[k]!;
    return Math.max(0, whole - (used - volumes));
  });
}

/** What a policy says, in words: `at most 60 % on SAS flash, nothing on 10K disk, new data starts on NVMe flash`. */
export function policyWords({ shares, startOn }: Pick<TierPolicyRow, 'shares' | 'startOn'>): string {
  const words = shares.flatMap(({ media, least, most }) => {
    const { label } = mediaFigures[media];
    if (most === 0) return [`nothing on ${label}`];
    if (least === 100) return [`all on ${label}`];
    if (least > 0 && most < 100) return [`${least} to ${most} % on ${label}`];
    if (least > 0) return [`at least ${least} % on ${label}`];
    return most < 100 ? [`at most ${most} % on ${label}`] : [];
  });
  if (startOn) words.push(`new data starts on ${mediaFigures[startOn].label}`);
  return words.join(', ') || 'anything anywhere, by heat alone';
}
