import type { StuckChange } from '@/core/check/finding';
import { checkContext, findingsInParts, type MutedFinding } from '@/core/check/engine';
import { LOOK } from '@/core/performance/looks';
import { capacityInParts, type CapacityModel, type PoolCapacity } from '@/core/space/capacity';
import { forecast, runwayWords } from '@/core/space/forecast';
import { dayOf } from '@/core/space/history';
import type { PoolRunway, UsagePoint } from '@/core/space/runway';
import type { InParts } from '@/core/units/in-parts';
import { readChangesAt } from '@/store/change-rows';
import { readDays, readHours, readSeries, readSums } from '@/store/usage-rows';
import { loadFacts } from './load-facts';
import type { Plant } from './plant';
import { Problem } from './problem';
import { ofOneMoment } from './slices';

/** Days of the past that are looked at. */
export const PAST_DAYS = 120;

export interface CapacityView extends CapacityModel {
  version: number;
  now: number;
  runways: PoolRunway[];
}

const pointOf = ({ day, size, promised, written, used, most }: UsagePoint): UsagePoint => ({
  day,
  size,
  promised,
  written,
  used,
  most,
});

/** The volumes of one pool, with their waterfalls. */
export async function poolVolumes(
  plant: Plant,
  id: string,
): Promise<{ pool: string; volumes: PoolCapacity['volumes'] }> {
  const pool = (await capacityView(plant)).arrays.flatMap((array) => array.pools).find((one) => one.id === id);
  if (!pool) throw new Problem(404, 'pool-unknown', `There is no pool ${id}.`, 'Name it by its id.');
  return { pool: id, volumes: pool.volumes };
}

/** The view without its volumes, which are asked for pool by pool. */
export async function capacitySummary(plant: Plant): Promise<CapacityView> {
  const view = await capacityView(plant);
  return {
    ...view,
    arrays: view.arrays.map((array) => ({ ...array, pools: array.pools.map((pool) => ({ ...pool, volumes: [] })) })),
  };
}

let shown: { plant: Plant; version: number; day: number; view: CapacityView } | null = null;

/** How full everything is, worked out once for each state of the estate and each day. */
export async function capacityView(plant: Plant): Promise<CapacityView> {
  const day = dayOf(plant.lab.now);
  let found = shown;
  if (found?.plant !== plant || found.version !== plant.version || found.day !== day) {
    const view = await ofOneMoment(plant, () => workOut(plant));
    shown = found = { plant, version: view.version, day, view };
  }
  return { ...found.view, now: plant.lab.now };
}

/** How full everything is, where it went, what can be had back, and how long it lasts. */
function* workOut(plant: Plant): InParts<CapacityView> {
  const from = dayOf(plant.lab.now) - PAST_DAYS;
  const model = yield* capacityInParts(plant.estate);
  const runways: PoolRunway[] = [];
  for (const pool of model.arrays.flatMap((array) => array.pools)) {
    runways.push(runwayOf(plant, pool, from));
    yield undefined;
  }
  return { ...model, version: plant.version, now: plant.lab.now, runways };
}

function runwayOf(plant: Plant, pool: PoolCapacity, from: number): PoolRunway {
  const days = readDays(plant.store.db, [pool.id], from).map(pointOf);
  const series = days.map(({ day, used }) => ({ day, bytes: used }));
  return {
    pool: pool.id,
    days,
    marks: [pool.notice, pool.urgent, 100].map((percent) => {
      const at = Math.floor((pool.size * percent) / 100);
      const answer = forecast(series, pool.size, at);
      return { percent, at, words: runwayWords(answer), answer };
    }),
  };
}

/** A subject's past: days, and hours as far as they are kept; without one all pools or all volumes together. */
export function historyOf(plant: Plant, query: URLSearchParams) {
  const days = Number(query.get('days') ?? PAST_DAYS);
  if (!Number.isInteger(days) || days < 1 || days > 3660)
    throw new Problem(400, 'days-wrong', `${query.get('days')} is no number of days.`, 'Ask for 1 to 3660.');
  const from = dayOf(plant.lab.now) - days;
  const of = query.get('of');
  const sum = query.get('sum') ?? 'pools';
  if (of !== null)
    return {
      subject: of,
      days: readDays(plant.store.db, [of], from).map(pointOf),
      hours: readHours(plant.store.db, of, from),
    };
  if (sum !== 'pools' && sum !== 'volumes')
    throw new Problem(400, 'sum-wrong', `${sum} cannot be summed.`, 'Ask for sum=pools or sum=volumes, or of=ID.');
  return { subject: sum, days: readSums(plant.store.db, sum === 'pools' ? 'pool_' : 'vol_', from), hours: [] };
}

let known: { plant: Plant; version: number; look: number; stuck: string; found: MutedFinding[] } | null = null;

/** What is wrong or risky, worked out once for each state of the estate and each look at what is measured. */
export async function currentFindings(plant: Plant): Promise<MutedFinding[]> {
  const day = dayOf(plant.lab.now);
  const look = Math.floor(plant.lab.now / LOOK);
  const stuck = readChangesAt(plant.store.db, 'stuck').map(({ id, title, run }): StuckChange => ({
    id,
    title,
    needsUndo: run?.needsUndo ?? [],
  }));
  const told = JSON.stringify(stuck);
  if (known?.plant === plant && known.version === plant.version && known.look === look && known.stuck === told)
    return known.found;
  const found = await ofOneMoment(plant, () =>
    findingsInParts(
      plant.estate,
      checkContext(
        plant.estate,
        plant.lab.now,
        (pool) => readSeries(plant.store.db, pool, day - PAST_DAYS),
        () => loadFacts(plant),
        stuck,
      ),
    ),
  );
  known = { plant, version: plant.version, look, stuck: told, found };
  return found;
}
