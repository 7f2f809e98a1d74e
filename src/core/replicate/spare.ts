import { ASKED, groupsBusy } from '../demand/groups-busy';
import type { EstateView } from '../estate/estate';
import { whileStill } from '../estate/while-still';
import { moveSpeed } from '../pool/remove-group';
import { backgroundShare } from '../raid/rebuild';
import type { BytesPerSecond } from '../units/rate';
import { arrayAnswers } from '../volume/health';

// What the groups of an array have left for what is copied from it and to it, replications and moves alike, beside what hosts ask of them.

/** What each pool of an array does for copies, and how busy its groups are; none while the array does not answer. */
const poolsOf = (view: EstateView, array: string): ReturnType<typeof moveSpeed>[] =>
  arrayAnswers(view, array)
    ? view
        .table('pool')
        .by('array', array)
        .filter(({ id }) => view.table('raidGroup').countBy('pool', id) > 0)
        .map((pool) => moveSpeed(view, pool, null))
    : [];

const spares: (view: EstateView) => Map<string, readonly BytesPerSecond[]> = whileStill(() => new Map(), ASKED);

/** The same at each hour of the week from Monday 00:00 UTC, by what hosts ask of the groups then. */
export function spareHours(view: EstateView, array: string): readonly BytesPerSecond[] {
  const known = spares(view);
  let hours = known.get(array);
  if (!hours) {
    const busy = groupsBusy(view);
    const pools = poolsOf(view, array);
    const left = ({ speed, load }: (typeof pools)[number], hour: number) =>
      speed *
      backgroundShare(
        'low',
        load((group) => busy(group, hour)),
      );
    hours = Array.from({ length: 168 }, (_, hour) => pools.reduce((sum, pool) => sum + left(pool, hour), 0));
    known.set(array, hours);
  }
  return hours;
}

/** Bytes a second that an array has left for copies at an hour of the week; on the mean of the week without one. */
export const spareRate = (view: EstateView, array: string, hour?: number): BytesPerSecond =>
  hour === undefined
    ? spareHours(view, array).reduce((sum, one) => sum + one, 0) / 168
    : spareHours(view, array)[hour]!;

/** What it has left however much hosts ask. */
export const leastSpare = (view: EstateView, array: string): BytesPerSecond =>
  poolsOf(view, array).reduce((sum, { speed }) => sum + speed * backgroundShare('low', 1), 0);
