import type { Flat } from './flat';
import type { Claims } from './held';
import type { LoadModel } from './shape';

/** Relative slack with which a sum counts as having reached a capacity. */
export const SLACK = 1e-9;

/**
 * What the hardware does of what limits let through (load.md E, by index): floors first, then one level rises for all, for those of more weight
 * faster; when a resource is full the volumes that use it stop there. Without floors and weights it is `serve`. Fills `served` and `boundBy`
 * (-1 where nothing binds); whether anything was short.
 */
export function shareOut(
  { start, resource, units }: Flat,
  model: LoadModel,
  { volumes, resources }: { volumes: readonly number[]; resources: readonly number[] },
  asked: Float64Array,
  background: Float64Array,
  claims: ReadonlyMap<number, Claims>,
  served: Float64Array,
  boundBy: Int32Array,
): boolean {
  const used = scratch(model.resources.length);
  const spend = (into: Float64Array, v: number, rate: number) => {
    for (let u = start[v]!; u < start[v + 1]!; u++) into[resource[u]!]! += rate * units[u]!;
  };
  for (const r of resources) used[r] = background[r]!;
  for (const v of volumes) {
    served[v] = asked[v]!;
    boundBy[v] = -1;
    spend(used, v, asked[v]!);
  }
  if (!resources.some((r) => used[r]! > model.resources[r]!.capacity * (1 + SLACK))) return false;

  for (const r of resources) used[r] = background[r]!;
  let most = 1;
  const promised = claims.size > 0;
  const weightOf = (v: number) => (promised ? (claims.get(v)?.weight ?? 1) : 1);
  const rising = new Int32Array(volumes.length);
  const rest = new Float64Array(volumes.length);
  let left = 0;
  for (const v of volumes) {
    served[v] = promised ? Math.min(asked[v]!, claims.get(v)?.floor ?? 0) : 0;
    if (served[v] > 0) spend(used, v, served[v]);
    if (asked[v]! <= served[v]) continue;
    rest[left] = asked[v]! - served[v];
    rising[left++] = v;
    if (promised) most = Math.max(most, weightOf(v));
  }
  let level = 0;
  const rate = new Float64Array(model.resources.length);
  while (left > 0) {
    // At level x a volume has min(1, x·weight/most) of what it still wants: those of the greatest weight are through first.
    for (const r of resources) rate[r] = 0;
    let until = Infinity;
    for (let k = 0; k < left; k++) {
      const weight = weightOf(rising[k]!);
      spend(rate, rising[k]!, (rest[k]! * weight) / most);
      if (most / weight < until) until = most / weight;
    }
    let full = -1;
    for (const r of resources) {
      if (rate[r]! <= 0) continue;
      const at = level + Math.max(0, (model.resources[r]!.capacity - used[r]!) / rate[r]!);
      if (at < until * (1 - SLACK)) [until, full] = [at, r];
    }
    const step = until - level;
    for (const r of resources) used[r]! += rate[r]! * step;
    level = until;
    let kept = 0;
    for (let k = 0; k < left; k++) {
      const v = rising[k]!;
      const weight = weightOf(v);
      served[v]! += (rest[k]! * weight * step) / most;
      if (level * weight >= most * (1 - SLACK)) {
        served[v] = Math.min(served[v]!, asked[v]!);
        continue;
      }
      if (full >= 0 && takes(v, full)) {
        boundBy[v] = full;
        continue;
      }
      rest[kept] = rest[k]!;
      rising[kept++] = v;
    }
    left = kept;
  }
  return true;

  /** Whether a volume's I/O takes anything of a resource. */
  function takes(v: number, of: number): boolean {
    for (let u = start[v]!; u < start[v + 1]!; u++) if (resource[u] === of && units[u]! > 0) return true;
    return false;
  }
}

let kept = new Float64Array(0);
/** An array for one answer, used again. */
const scratch = (length: number): Float64Array => (kept.length >= length ? kept : (kept = new Float64Array(length)));
