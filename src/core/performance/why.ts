import { SLOT } from './choices';
import type { CourseState } from './course';
import { oneSlot, percentileOf, without } from './one-slot';
import type { LoadModel } from './shape';

/** Why a volume waited at one moment. Times in seconds, shares from 0 to 1. */
export interface Why {
  at: number;
  latencyS: number;
  p95S: number;
  asked: number;
  served: number;
  /** The resource or the limit that kept it from more. */
  boundBy: string | null;
  limitedBy: string | null;
  /** Where its I/O went, the busiest first. */
  resources: { id: string; name: string; kind: string; rho: number; own: number; limit: number }[];
  /** What it would wait less without each neighbour, the worst first. */
  neighbours: { id: string; name: string; iops: number; addedS: number; share: number }[];
}

/** Takes a moment of a model apart: leaves each neighbour out in turn (load.md F, on the whole way of an I/O instead of one queue). */
export function whyAt(model: LoadModel, slot: number, volume: string, state?: CourseState): Why | null {
  const index = model.volumes.findIndex(({ id }) => id === volume);
  if (index < 0) return null;
  const victim = model.volumes[index]!;
  const { volumes, used } = oneSlot(model, slot, state);
  const figures = volumes[index]!;
  const mine = new Set(victim.uses.map(({ resource }) => resource));
  const total = victim.reads + victim.writes || 1;
  const neighbours = model.volumes.flatMap((other, k) => {
    if (k === index || !other.uses.some(({ resource }) => mine.has(resource))) return [];
    const then = oneSlot(without(model, k), slot, state).volumes[index]!;
    return [
      { id: other.id, name: other.name, iops: volumes[k]!.served, addedS: Math.max(0, figures.latency - then.latency) },
    ];
  });
  const sum = neighbours.reduce((all, one) => all + one.addedS, 0);
  const limit = figures.limited
    ? model.limits.find(({ members }) => members.some((one) => one.volume === index && one.iops !== null))
    : undefined;
  return {
    at: slot * SLOT,
    latencyS: figures.served > 0 ? figures.latency : 0,
    p95S: percentileOf(figures, 95),
    asked: figures.asked,
    served: figures.served,
    boundBy: figures.boundBy >= 0 ? model.resources[figures.boundBy]!.name : null,
    limitedBy: limit?.name ?? null,
    resources: victim.uses
      .map(({ resource, read, write }) => {
        const { id, name, kind, capacity, limit: most } = model.resources[resource]!;
        const own = (figures.served * (victim.reads * read + victim.writes * write)) / total / capacity;
        return { id, name, kind, rho: used[resource]! / capacity, own, limit: most };
      })
      .sort((a, b) => b.rho / b.limit - a.rho / a.limit),
    neighbours: neighbours
      .map((one) => ({ ...one, share: sum > 0 ? one.addedS / sum : 0 }))
      .filter(({ addedS }) => addedS > 1e-9)
      .sort((a, b) => b.addedS - a.addedS || (a.id < b.id ? -1 : 1)),
  };
}

/** Pearson's correlation of two series of equal length; 0 where one does not move. */
export function correlation(a: ArrayLike<number>, b: ArrayLike<number>): number {
  const n = Math.min(a.length, b.length);
  if (n === 0) return 0;
  let [ma, mb] = [0, 0];
  for (let k = 0; k < n; k++) {
    ma += a[k]! / n;
    mb += b[k]! / n;
  }
  let [ab, aa, bb] = [0, 0, 0];
  for (let k = 0; k < n; k++) {
    ab += (a[k]! - ma) * (b[k]! - mb);
    aa += (a[k]! - ma) ** 2;
    bb += (b[k]! - mb) ** 2;
  }
  // What moves by rounding alone does not move.
  const still = (spread: number, mean: number) => spread <= n * (1e-9 * mean) ** 2;
  return still(aa, ma) || still(bb, mb) ? 0 : ab / Math.sqrt(aa * bb);
}
