import { PAGE, wholePages } from '../content/page';
import type { Effect } from '../estate/effects';
import type { ArrayRow, Controller, Kind, Pool, RaidGroup } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { poolOf } from '../estate/relations';
import { byName } from '../operation/draft';
import type { Inquiry } from '../operation/inquiry';
import { subjectOf } from '../operation/refusal';
import { longestRun } from '../pool/allocate';
import { askPool, directPool } from '../pool/direct';
import { extentsOf } from '../pool/usage';
import { groupHealth } from '../raid/health';
import { carriedWords } from '../raid/room';
import { exactBytes, parseBytes, type Bytes } from '../units/bytes';
import { someOf } from '../units/counted';

/** The controller with the fewest volumes, ties by name. */
export function leastLoaded(view: EstateView, array: string): Controller | undefined {
  const controllers = [...view.table('controller').by('array', array)].sort(byName);
  const owned = (controller: Controller) => view.table('volume').countBy('owner', controller.id);
  return controllers.reduce<Controller | undefined>(
    (best, next) => (!best || owned(next) < owned(best) ? next : best),
    undefined,
  );
}

/** Bytes and whole extents one volume of this size needs, where it can be read. */
export function needOf(size: string, pool: Pool): { size: Bytes; extents: number } | undefined {
  const bytes = parseBytes(size);
  if (!bytes.ok || bytes.value > Number.MAX_SAFE_INTEGER - PAGE) return undefined;
  return { size: wholePages(bytes.value), extents: Math.ceil(wholePages(bytes.value) / pool.extentSize) };
}

/** Where volumes come to lie: a pool, or the room of a RAID group, which comes to be with the first of them. */
export interface Room {
  pool: Pool;
  effects: Effect[];
  /** Of a RAID group: extents of its longest free run. */
  longest: number | null;
}

export const freeRun = (view: EstateView, group: RaidGroup, pool: Pool): number =>
  longestRun(view, group.id, extentsOf(group.usable, pool.extentSize));

export function askRoom(
  view: EstateView,
  asks: Inquiry,
  array: ArrayRow,
  p: { pool?: string | undefined; raidGroup?: string | undefined },
  newId: (kind: Kind) => string,
): Room | undefined {
  if (p.raidGroup && p.pool) {
    asks.refuse({
      code: 'pool-and-group',
      field: 'raidGroup',
      subject: subjectOf('array', array),
      message: 'A volume is carved from a pool or straight from a RAID group, and both are named.',
      mend: 'Leave one of them out.',
    });
    return undefined;
  }
  if (!p.raidGroup) {
    const pool = askPool(asks, p.pool ?? '', 'pool', array);
    return pool && { pool, effects: [], longest: null };
  }
  const group = asks.find('raidGroup', p.raidGroup, 'raidGroup', array);
  if (!group) return undefined;
  const refuse = (code: string, message: string, mend: string): undefined => {
    asks.refuse({ code, field: 'raidGroup', subject: subjectOf('raidGroup', group), message, mend });
    return undefined;
  };
  if (group.pool && !poolOf(view, group)?.direct)
    return refuse(
      'in-pool',
      `${group.name} ${carriedWords(view, group)}.`,
      'Carve from the pool, or choose a free RAID group.',
    );
  if (groupHealth(view, group).state === 'lost')
    return refuse(
      'raid-group-offline',
      `${group.name} has lost more drives than it survives.`,
      'Choose another RAID group.',
    );
  const room = directPool(view, group, newId);
  return { ...room, longest: freeRun(view, group, room.pool) };
}

/** What would bring a lost pool back: enclosures that are silent, else drives. */
export function lostMend(view: EstateView, pool: Pool): string {
  const silent = view
    .table('enclosure')
    .by('array', pool.array)
    .filter((enclosure) => enclosure.state === 'down');
  return silent.length > 0
    ? `Bring ${silent.length === 1 ? 'enclosure' : 'enclosures'} ${someOf(silent.map((enclosure) => String(enclosure.number)))} up again`
    : 'Put the drives back that it lost';
}

/** What fits where a thick volume does not: a size that can be typed, where there is one. */
export const tooBig = (pool: Pool, available: number): string =>
  available > 0
    ? `Make it at most ${exactBytes(available * pool.extentSize)}, make it thin, or choose another pool.`
    : 'Make it thin, extend the pool, or choose another one.';
