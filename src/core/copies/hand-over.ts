import { bytesIn, without } from '../estate/runs';
import { created, deleted, type Effect } from '../estate/effects';
import type { ExtentRun, Kind, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';

type Numbers = readonly [number, number][];
type Place = Pick<ExtentRun, 'raidGroup' | 'start' | 'count'>;

const placeOf = (run: ExtentRun, from: number, to: number): Place => ({
  raidGroup: run.raidGroup,
  start: run.start + from - run.at,
  count: to - from,
});

/**
 * The extents of a volume and of what its copies keep become those of one of its clones, where they lie: first those of the clone's own numbers,
 * then for the numbers the volume has none for, and what is left keeps what copies keep. `missing` are numbers for which there was none.
 */
export function handedOver(
  view: EstateView,
  from: Volume,
  to: Volume,
  numbers: Numbers,
  newId: (kind: Kind) => string,
): { effects: Effect[]; missing: [number, number][] } {
  const table = view.table('extent');
  const own = table.by('volume', from.id);
  const area = table.by('copies', from.id);
  const effects: Effect[] = [...own, ...area].map((run) => deleted('extent', run));
  const none = { volume: null, store: null, copies: null };
  const give = (place: Place, at: number) =>
    effects.push(created('extent', { id: newId('extent'), ...none, volume: to.id, ...place, at }));
  const spare: Place[] = [];
  let missing = [...numbers] as [number, number][];
  for (const run of own) {
    const whole: [number, number][] = [[run.at, run.at + run.count]];
    const rest = without(whole, numbers);
    for (const [a, b] of without(whole, rest)) give(placeOf(run, a, b), a);
    for (const [a, b] of rest) spare.push(placeOf(run, a, b));
    missing = without(missing, whole);
  }
  spare.push(...area);
  const left: [number, number][] = [];
  for (const [from, to] of missing) {
    let at = from;
    while (at < to && spare.length > 0) {
      const [place] = spare;
      const count = Math.min(place!.count, to - at);
      give({ raidGroup: place!.raidGroup, start: place!.start, count }, at);
      if (count === place!.count) spare.shift();
      else spare[0] = { raidGroup: place!.raidGroup, start: place!.start + count, count: place!.count - count };
      at += count;
    }
    if (at < to) left.push([at, to]);
  }
  let at = 0;
  for (const { raidGroup, start, count } of spare) {
    effects.push(created('extent', { id: newId('extent'), ...none, copies: to.id, raidGroup, start, count, at }));
    at += count;
  }
  return { effects, missing: bytesIn(left) === 0 ? [] : left };
}
