import { cuts } from '../copies/replica';
import { headroom } from '../load/headroom';
import { hoursOfWeek } from '../copies/activity';
import { changedIn, writingOf } from '../copies/writing';
import type { EstateView } from '../estate/estate';
import { MONDAY } from '../replicate/planner';
import { sidesOf } from '../replicate/sides';
import { HOUR, SECOND } from '../units/duration';
import { MOST_BESIDE_DRAFT } from './choices';
import { loadModel } from './model';
import type { FailureState } from './failure-states';
import type { LoadModel } from './shape';
import { whileStill } from '../estate/while-still';

/** What a resource has left at its busiest hour of the week. Shares from 0 to 1. */
export interface ResourceRoom {
  id: string;
  name: string;
  kind: string;
  array: string | null;
  rho: number;
  /** The same in the worst single-failure state, and which that is. */
  worst: number;
  worstState: string;
  /** 1 − worst/limit; below 0 where it is past its limit. */
  room: number;
  /** Hour of the week at which it is busiest. */
  hour: number;
}

/** Utilisation of every resource at each hour of the week, by the means of the hours. */
export function weekOf(model: LoadModel): Float64Array[] {
  const found = model.resources.map(() => new Float64Array(168));
  for (const { resource, perS } of model.background) found[resource]!.forEach((_, k, all) => (all[k]! += perS));
  for (const volume of model.volumes) {
    const hours = hoursOfWeek(volume.week);
    for (const { resource, read, write } of volume.uses) {
      const each = volume.reads * read + volume.writes * write;
      for (let k = 0; k < 168; k++) found[resource]![k]! += each * hours[k]!;
    }
  }
  model.resources.forEach(({ capacity }, r) => found[r]!.forEach((used, k, all) => (all[k] = used / capacity)));
  return found;
}

/** What replications send over links between sites on the mean of each hour of the week, bytes a second by link. */
export function carriedWeeks(view: EstateView): Map<string, number[]> {
  const found = new Map<string, number[]>();
  for (const row of view.table('replication').values()) {
    if (!cuts(row)) continue;
    const writing = writingOf(view, sidesOf(view, row).source);
    const hours = found.get(row.link) ?? Array.from({ length: 168 }, () => 0);
    found.set(
      row.link,
      hours.map(
        (sum, hour) =>
          sum + (changedIn(writing, MONDAY + hour * HOUR, row.interval) * row.wireRatio) / (row.interval / SECOND),
      ),
    );
  }
  return found;
}

/**
 * What each resource has left, as it stands and with one thing lost; the tightest first. `carried` is what goes over some of them besides, by
 * the hour of the week.
 */
export function roomOf(
  states: readonly FailureState[],
  carried: ReadonlyMap<string, readonly number[]> = new Map(),
): ResourceRoom[] {
  const [present] = states;
  if (!present) return [];
  const peaks = states.map(({ name, model }) => {
    const weeks = weekOf(model);
    model.resources.forEach(({ id, capacity }, r) =>
      carried.get(id)?.forEach((perS, hour) => (weeks[r]![hour]! += perS / capacity)),
    );
    return new Map(
      model.resources.map(({ id }, r) => [
        id,
        { name, peak: Math.max(...weeks[r]!), hour: weeks[r]!.indexOf(Math.max(...weeks[r]!)) },
      ]),
    );
  });
  return present.model.resources
    .map(({ id, name, kind, array, limit }) => {
      const now = peaks[0]!.get(id)!;
      const worst = peaks.reduce((most, one) => {
        const here = one.get(id);
        return here && here.peak > most.peak ? here : most;
      }, now);
      return {
        id,
        name,
        kind,
        array,
        rho: now.peak,
        worst: worst.peak,
        worstState: worst.name,
        room: headroom({ rhoPeak: worst.peak, rhoLimit: limit }),
        hour: worst.hour,
      };
    })
    .sort((a, b) => a.room - b.room || (a.id < b.id ? -1 : 1));
}

/** Volumes of which hosts may ask something. */
export const volumesAsking = (view: EstateView): number => view.table('volume').countBy('asks', '');

/** How busy the busiest group of each pool is at the busiest hour of the week, of what it is good for; nothing where no host asks anything. */
export const poolsBusy: (view: EstateView) => ReadonlyMap<string, number> = whileStill((view) => {
  const busy = new Map<string, number>();
  const asking = volumesAsking(view);
  if (asking === 0 || asking > MOST_BESIDE_DRAFT) return busy;
  const model = loadModel(view);
  const weeks = weekOf(model);
  model.resources.forEach(({ id, kind, limit }, r) => {
    const pool = kind === 'group' ? view.table('raidGroup').get(id)?.pool : null;
    if (pool) busy.set(pool, Math.max(busy.get(pool) ?? 0, Math.max(...weeks[r]!) / limit));
  });
  return busy;
});
