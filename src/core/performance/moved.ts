import type { Effect } from '../estate/effects';
import type { EstateView } from '../estate/estate';
import { MOST_BESIDE_DRAFT } from './choices';
import { limitedTo, limitedVolumes } from './limits';
import { loadModel } from './model';
import { volumesAsking, weekOf } from './room';
import type { LoadModel } from './shape';
import { touchesLoad } from './touched';
import { whileStill } from '../estate/while-still';

export interface LoadMoved {
  array: string;
  was: string | null;
  is: string | null;
}

/** The resource of each array that is nearest to its limit at the busiest hour of the week, before and after: `rg-2 42 %`. */
export function loadMoved(before: EstateView, after: EstateView, effects: readonly Effect[]): LoadMoved[] {
  // A limit alone moves no mean of an hour that it does not reach; it is said by its own step.
  const others = effects.filter(({ kind }) => kind !== 'loadLimit' && kind !== 'limitUse');
  const limits = others.length < effects.length && limitsBite(after);
  if (!limits && !touchesLoad(others)) return [];
  const most = Math.max(volumesAsking(before), volumesAsking(after));
  if (most === 0 || most > MOST_BESIDE_DRAFT) return [];
  const [was, is] = [busiestNow(before), busiest(after)];
  return [...new Set([...was.keys(), ...is.keys()])].sort().flatMap((array) => {
    const [b, a] = [was.get(array) ?? null, is.get(array) ?? null];
    return b === a ? [] : [{ array, was: b, is: a }];
  });
}

/** Whether some limit is below what a volume asks on the mean of its week. */
const limitsBite = (view: EstateView): boolean =>
  [...view.table('loadLimit').values()].some((limit) =>
    [...limitedVolumes(view, limit)].some((id) => {
      const { activity, size } = view.table('volume').get(id)!;
      const to = activity && limitedTo(limit, { size, ioBytes: activity.ioBytes });
      return to !== null && activity !== null && to < activity.reads + activity.writes;
    }),
  );

/** What volumes that are limited ask for at the most. */
function held(model: LoadModel): LoadModel {
  const most = new Map<number, number>();
  for (const limit of model.limits)
    if (!limit.shared)
      for (const { volume, iops } of limit.members)
        if (iops !== null) most.set(volume, Math.min(most.get(volume) ?? Infinity, iops));
  return {
    ...model,
    volumes: model.volumes.map((volume, k) => {
      const share = Math.min(1, (most.get(k) ?? Infinity) / Math.max(volume.reads + volume.writes, 1e-9));
      return share < 1 ? { ...volume, reads: volume.reads * share, writes: volume.writes * share } : volume;
    }),
  };
}

function busiest(view: EstateView): Map<string, string> {
  const model = held(loadModel(view));
  const weeks = weekOf(model);
  const worst = new Map<string, { name: string; peak: number; share: number }>();
  model.resources.forEach(({ name, array, limit }, r) => {
    if (array === null) return;
    const peak = Math.max(...weeks[r]!);
    const known = worst.get(array);
    if (peak > 0 && (!known || peak / limit > known.share)) worst.set(array, { name, peak, share: peak / limit });
  });
  return new Map(
    [...worst].map(([array, { name, peak }]) => [array, `${name.replace(/^\S+ /, '')} ${Math.round(peak * 100)} %`]),
  );
}

/** A draft is previewed with every key that is pressed, over an estate that stands. */
const busiestNow = whileStill(busiest);
