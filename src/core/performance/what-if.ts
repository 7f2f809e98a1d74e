import { changed, deleted, type Effect } from '../estate/effects';
import { Overlay, type EstateView } from '../estate/estate';
import { DAY, HOUR } from '../units/duration';
import { loadModel } from './model';
import { oneSlot, percentileOf } from './one-slot';
import { slotOf } from './profile';
import { weekOf } from './room';
import type { LoadModel } from './shape';

/** What is tried: something lost, a workload that grows, a volume in another pool of its array. */
export interface LoadQuestion {
  /** A controller. */
  lost?: string | undefined;
  grows?: { workload: string; factor: number } | undefined;
  moves?: { volume: string; pool: string } | undefined;
}

export interface LoadDifference {
  /** Hour of the week at which the busiest resource is busiest then. */
  hour: number;
  /** Resources that move by a point or more, the tightest first. */
  resources: { id: string; name: string; was: number; is: number; limit: number }[];
  /** Volumes whose 95th percentile moves at that hour, the worst first; seconds, and what is not served, I/O a second. */
  volumes: { id: string; name: string; wasS: number; isS: number; unserved: number }[];
  /** Volumes that no host reaches any more. */
  silent: string[];
}

/** The estate as a question has it. */
function tried(view: EstateView, { lost, moves }: LoadQuestion): EstateView {
  const overlay = new Overlay(view);
  const effects: Effect[] = [];
  const controller = lost === undefined ? undefined : view.table('controller').get(lost);
  if (controller) effects.push(changed('controller', controller, { state: 'down' }));
  const volume = moves && view.table('volume').get(moves.volume);
  const pool = moves && view.table('pool').get(moves.pool);
  if (volume && pool && pool.array === volume.array) {
    // Where its extents will lie nobody knows yet: spread over the pool as it is large.
    effects.push(
      ...view
        .table('extent')
        .by('volume', volume.id)
        .map((run) => deleted('extent', run)),
    );
    effects.push(changed('volume', volume, { pool: pool.id, reducedTo: 0 }));
  }
  overlay.apply(effects);
  return overlay;
}

const grown = (model: LoadModel, grows: LoadQuestion['grows']): LoadModel =>
  grows
    ? {
        ...model,
        volumes: model.volumes.map((one) =>
          one.workload === grows.workload
            ? { ...one, reads: one.reads * grows.factor, writes: one.writes * grows.factor }
            : one,
        ),
      }
    : model;

/** Monday 00:00 UTC of the first whole week of 1970, in milliseconds. */
const MONDAY = 4 * DAY;

/** What would be otherwise: at the busiest hour of the week, between bursts. */
export function loadWhatIf(view: EstateView, question: LoadQuestion): LoadDifference {
  const before = loadModel(view);
  const after = grown(loadModel(tried(view, question)), question.grows);
  const [was, is] = [weekOf(before), weekOf(after)];
  const peaks = (weeks: Float64Array[], model: LoadModel) =>
    new Map(
      model.resources.map(({ id }, r) => [
        id,
        { peak: Math.max(...weeks[r]!), hour: weeks[r]!.indexOf(Math.max(...weeks[r]!)) },
      ]),
    );
  const [a, b] = [peaks(was, before), peaks(is, after)];
  const resources = after.resources
    .map(({ id, name, limit }) => ({
      id,
      name,
      was: a.get(id)?.peak ?? 0,
      is: b.get(id)!.peak,
      limit,
      hour: b.get(id)!.hour,
    }))
    .filter((one) => Math.abs(one.is - one.was) >= 0.01)
    .sort((x, y) => y.is / y.limit - x.is / x.limit);
  const hour = resources[0]?.hour ?? 0;
  const slot = slotOf(MONDAY + hour * HOUR);
  const calm = (model: LoadModel): LoadModel => ({
    ...model,
    volumes: model.volumes.map((one) => ({ ...one, bursts: { high: 1, low: 1, slots: 0, period: 0 } })),
  });
  const [then, now] = [oneSlot(calm(before), slot), oneSlot(calm(after), slot)];
  const places = new Map(after.volumes.map(({ id }, k) => [id, k]));
  const volumes = before.volumes.flatMap(({ id, name }, k) => {
    const place = places.get(id);
    if (place === undefined) return [];
    const [x, y] = [then.volumes[k]!, now.volumes[place]!];
    const [wasS, isS] = [percentileOf(x, 95), percentileOf(y, 95)];
    const unserved = Math.max(0, y.asked - y.served);
    return Math.abs(isS - wasS) > 0.05 * wasS || unserved > 0.01 * y.asked ? [{ id, name, wasS, isS, unserved }] : [];
  });
  return {
    hour,
    resources: resources.map(({ hour: _, ...one }) => one),
    volumes: volumes.sort((x, y) => y.isS - x.isS || (x.id < y.id ? -1 : 1)),
    silent: before.volumes.filter(({ id }) => !places.has(id)).map(({ name }) => name),
  };
}
