import { nextTurnOfRoads, shared } from './line-shares';
import { nextOfStretched, stretchedOn } from './stretched';
import { isStretched } from '../copies/legs';
import { changed, created, deleted, type Effect } from '../estate/effects';
import { rowOf, type Cycle, type Kind, type Replication } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import type { Carried } from '../kinds/replication';
import { formatBytes } from '../units/bytes';
import { momentText } from '../units/date';
import type { Milliseconds } from '../units/duration';
import { cuts, isMirrored, isFenced } from '../copies/replica';
import { applied, cutSource, finishOf, lagOf, mirrored, pitOf, outgrown } from './carry';
import { AGAIN } from './choices';
import { forgottenCycles } from './lag-course';
import { roleStep } from './roles';
import { nextRunOf } from '../protect/pass';
import { happenedTo, roleFields, rolesOf, sidesOf, unreachedWhy } from './sides';

type NewId = (kind: Kind) => string;

/** When something happens to a replication next, `now` or later; null for never. */
function nextOf(view: EstateView, row: Replication, now: Milliseconds): Milliseconds | null {
  const noticedAt = () => (happenedTo(view, row).length > 0 ? now : null);
  const own = isStretched(row) ? nextOfStretched(view, row, now) : noticedAt();
  if (own === now || !cuts(row)) return own;
  const carried = row.carrying ? finishOf(row.carrying) : Math.max(now, row.nextAt);
  return own === null || carried === null ? (own ?? carried) : Math.min(own, carried);
}

/** The next moment at which any replication cuts, finishes, breaks off or goes on. */
export function nextCycle(view: EstateView, now: Milliseconds): Milliseconds | null {
  let first: Milliseconds | null = null;
  for (const row of view.table('replication').values()) {
    const at = nextOf(view, row, now);
    if (at !== null && (first === null || at < first)) first = at;
  }
  const turn = nextTurnOfRoads(view, now);
  if (turn !== null && (first === null || turn < first)) first = turn;
  for (const { secretUntil, ended } of view.table('partner').values())
    if (secretUntil !== null && !ended && (first === null || secretUntil < first)) first = Math.max(now, secretUntil);
  return first;
}

/** The first tick behind a moment: the next run of its plan, or of its own rhythm. */
export function nextTick(
  view: EstateView,
  { startedAt, interval, plan: id }: Pick<Replication, 'startedAt' | 'interval' | 'plan'>,
  now: Milliseconds,
): Milliseconds {
  const plan = id === null ? undefined : view.table('plan').get(id);
  const run = plan && !plan.paused ? nextRunOf(plan, now) : null;
  return run?.at ?? startedAt + (Math.floor((now - startedAt) / interval) + 1) * interval;
}

const cycleOf = (
  row: Replication,
  carrying: Carried,
  now: Milliseconds,
  newId: NewId,
  ended: Pick<Cycle, 'result' | 'reason' | 'lagAfter'>,
): Effect =>
  created(
    'cycle',
    rowOf('cycle', {
      id: newId('cycle'),
      replication: row.id,
      pit: carrying.pit,
      startedAt: carrying.startedAt,
      finishedAt: now,
      changed: carrying.changed,
      wire: carrying.wire,
      lagBefore: carrying.lagBefore,
      ...ended,
    }),
  );

/** Old cycles are forgotten, but for one an hour. */
const forgotten = (view: EstateView, row: Replication, now: Milliseconds): Effect[] =>
  forgottenCycles(view.table('cycle').by('replication', row.id), now).map((cycle) => deleted('cycle', cycle));

/** A cycle is over: the target goes to its point in time, or could not. */
function finished(
  view: EstateView,
  row: Replication,
  now: Milliseconds,
  newId: NewId,
): { effects: Effect[]; said: string[] } {
  const carrying = row.carrying!;
  // What hosts wrote to a mirror meanwhile was written along: it is whole as of now.
  const cut =
    row.mode === 'sync' ? { ...cutSource(view, row, now), changed: carrying.changed, wire: carrying.wire } : carrying;
  // A side of a stretched pair has kept what it held before it began to be refreshed.
  const { effects, short } = applied(view, { ...row, carrying: cut }, newId, row.stretch === null);
  if (short > 0) {
    const reason = `the pool at ${sidesOf(view, row).targetSite} has no room for ${formatBytes(short)} of it`;
    return {
      effects: [
        ...forgotten(view, row, now),
        cycleOf(row, carrying, now, newId, { result: 'failed', reason, lagAfter: lagOf(row, now) }),
        changed('replication', row, { carrying: null, nextAt: now + AGAIN, reason }),
      ],
      said: row.reason === reason ? [] : [`${row.name} cannot be carried on: ${reason}`],
    };
  }
  const roles = roleStep(rolesOf(row), { e: 'copied' });
  const first = roles.refusal === null;
  const tick = nextTick(view, row, carrying.pit);
  return {
    effects: [
      ...effects,
      ...forgotten(view, row, now),
      cycleOf(row, carrying, now, newId, { result: 'done', reason: null, lagAfter: now - cut.pit }),
      changed('replication', row, {
        ...(first ? { ...roleFields(roles.roles), since: now } : {}),
        carrying: null,
        compare: 'changed',
        pit: cut.pit,
        nextAt: Math.max(tick, now),
        reason: '',
      }),
    ],
    said: first ? [`${row.name} is whole at ${sidesOf(view, row).targetSite}, as of ${momentText(cut.pit)}`] : [],
  };
}

/** What a lost or regained line or site does to a replication. */
function noticed(
  view: EstateView,
  row: Replication,
  now: Milliseconds,
  newId: NewId,
): { effects: Effect[]; said: string[] } {
  const before = rolesOf(row);
  const roles = happenedTo(view, row).reduce((one, event) => roleStep(one, event).roles, before);
  const moved = roles.state !== before.state;
  const broke = moved && roles.state === 'BROKEN';
  const reason = broke ? (unreachedWhy(view, row) ?? '') : '';
  const effects: Effect[] = [];
  // Up to this moment every write of a mirror went to both sides; while its hosts wait, nothing is written.
  const pit = isMirrored(row) || isFenced(row) ? { pit: pitOf(row, now) } : {};
  if (broke && row.carrying && !(row.first === 'shipped' && row.pit === null))
    effects.push(
      ...forgotten(view, row, now),
      cycleOf(row, row.carrying, now, newId, { result: 'failed', reason, lagAfter: lagOf(row, now) }),
    );
  effects.push(
    changed('replication', row, {
      ...roleFields(roles),
      // What is on the road on media goes on.
      ...(moved
        ? {
            ...pit,
            since: now,
            reason,
            carrying: row.first === 'shipped' && row.pit === null ? row.carrying : null,
            nextAt: now,
          }
        : {}),
    }),
  );
  return {
    effects,
    said: !moved ? [] : [broke ? `${row.name} is broken off: ${reason}` : `${row.name} goes on and catches up`],
  };
}

/** Mirrors are written along with what hosts wrote up to `now`, applied to the overlay that is given. */
export function mirroredOn(overlay: Overlay, now: Milliseconds, newId: NewId): { effects: Effect[]; said: string[] } {
  const effects: Effect[] = [];
  const said: string[] = [];
  for (const { id } of [...overlay.table('replication').by('mirrored', '')]) {
    const one = mirrored(overlay, overlay.table('replication').get(id)!, now, newId);
    overlay.apply(one.effects);
    effects.push(...one.effects);
    said.push(...one.said);
  }
  return { effects, said };
}

/** What happens to replications up to `now`, applied to the overlay that is given; hosts have written up to then. */
export function replicatedOn(overlay: Overlay, now: Milliseconds, newId: NewId): { effects: Effect[]; said: string[] } {
  const effects: Effect[] = [];
  const said: string[] = [];
  const put = (made: readonly Effect[]) => {
    overlay.apply(made);
    effects.push(...made);
  };
  const told = (one: { effects: Effect[]; said: string[] }) => {
    put(one.effects);
    said.push(...one.said);
  };
  for (const row of overlay.table('partner').values())
    if (row.secretUntil !== null && !row.ended && row.secretUntil <= now) {
      put([changed('partner', row, { ended: true })]);
      said.push(`The secret that ${arrayOf(overlay, row).name} shows ${row.name} has come to its end`);
    }
  const along = mirroredOn(overlay, now, newId);
  effects.push(...along.effects);
  said.push(...along.said);
  for (const { id } of overlay.table('replication').values()) {
    const row = () => overlay.table('replication').get(id)!;
    const stretched = (refreshed: boolean) => {
      const one = row();
      if (isStretched(one)) told(stretchedOn(overlay, one, now, newId, refreshed));
    };
    stretched(false);
    if (!isStretched(row()) && happenedTo(overlay, row()).length > 0) told(noticed(overlay, row(), now, newId));
    const { carrying } = row();
    const finish = carrying && cuts(row()) ? finishOf(carrying) : null;
    if (finish !== null && finish <= now) {
      told(finished(overlay, row(), now, newId));
      stretched(row().pit === now);
    }
    if (cuts(row()) && row().carrying === null && row().nextAt <= now) {
      const all = row().compare !== 'all' && outgrown(overlay, row(), now);
      if (all) said.push(`${row().name} must compare all: what changed outgrew the reserve of its source`);
      put([
        changed('replication', row(), {
          carrying: cutSource(overlay, row(), now),
          ...(all ? { compare: 'all' as const } : {}),
        }),
      ]);
    }
  }
  put(shared(overlay, now));
  return { effects, said };
}

export const replicated = (view: EstateView, now: Milliseconds, newId: NewId) =>
  replicatedOn(new Overlay(view), now, newId);
