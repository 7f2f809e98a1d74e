import type { EstateView } from '@/core/estate/estate';
import type { RoomAnswer } from '@/core/performance/answers';
import { everyFailureState, linkFailureStates } from '@/core/performance/failure-states';
import { carriedWeeks, roomOf, type ResourceRoom } from '@/core/performance/room';
import { figuresOfRow } from '@/core/performance/row';
import { dayOf } from '@/core/space/history';
import { loadRunway } from '@/core/space/load-runway';
import { DAY } from '@/core/units/duration';
import type { InParts } from '@/core/units/in-parts';
import { readDaysOf } from '@/store/load-rows';
import { unknown } from './load-spans';
import type { Plant } from './plant';
import { ofOneMoment, type Watching } from './slices';

/** Days that are laid on a line to see when headroom is used up. */
const TREND_DAYS = 90;

/** Name by which links between switches and sites are asked for, in the place of an array. */
const LINKS = 'links';

function* roomsOf(view: EstateView, id: string): InParts<ResourceRoom[]> {
  if (id !== LINKS) return roomOf(yield* everyFailureState(view, id)).filter((one) => one.array === id);
  return roomOf(yield* linkFailureStates(view), carriedWeeks(view)).filter((one) => one.array === null);
}

/** What every resource of an array, or every link, has left, now and with one thing lost. */
export async function room(plant: Plant, id: string, watching: Watching = {}): Promise<RoomAnswer> {
  const { store, lab } = plant;
  const array = plant.estate.table('array').get(id);
  if (!array && id !== LINKS) throw unknown(id);
  const rooms = await ofOneMoment(plant, () => roomsOf(plant.estate, id), watching);
  const from = lab.now - TREND_DAYS * DAY;
  // Where one carries what another did, its growth is that of them all; not so of groups, and of links that lead to other places.
  const alone = ({ kind }: ResourceRoom) => kind === 'group' || kind === 'line';
  const byKind = new Map<string, Map<number, number>>();
  const growing = (of: ResourceRoom): Map<number, number> => {
    const key = alone(of) ? of.id : of.kind;
    let days = byKind.get(key);
    if (days) return days;
    byKind.set(key, (days = new Map<number, number>()));
    for (const one of alone(of) ? [of] : rooms.filter(({ kind }) => kind === of.kind))
      for (const { at, row } of readDaysOf(store.db, one.id, from))
        days.set(dayOf(at), (days.get(dayOf(at)) ?? 0) + figuresOfRow(row).used);
    return days;
  };
  return {
    array: array?.name ?? '',
    rooms: rooms.map((one) => ({
      ...one,
      usedUp: loadRunway(
        one,
        [...growing(one)].sort(([a], [b]) => a - b).map(([day, used]) => ({ day, used })),
      ),
    })),
  };
}
