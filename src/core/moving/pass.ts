import { hostsWell, leftLocked } from './proof';
import { changed, type Effect } from '../estate/effects';
import type { Move } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { nextTurnOfRoads, shared } from '../replicate/line-shares';
import { atRate, finishOf } from '../replicate/carry';
import { DAY, SECOND, type Milliseconds } from '../units/duration';
import { purged } from '../volume/delete';
import { lastDelta } from './changes';
import { CLEANING } from './choices';
import { cutOver } from './cut-over';
import { logged } from './log';
import { openMoves, opensAt, planOf, slotBook, sourceOf, standstills, waitedFor, windowOf } from './roads';
import { inStep, roundBegun, roundOver, started, type Done, type NewId } from './rounds';
import { byTail, wavesOf } from './waves';

/** What is asked of every move at one moment. */
interface Asked {
  still: (row: Move) => string | null;
  full: (row: Move) => string | undefined;
}
const askedOf = (view: EstateView, now: Milliseconds): Asked => ({
  still: standstills(view, now),
  full: slotBook(view),
});

const startable = (view: EstateView, row: Move, { still, full }: Asked): boolean =>
  row.state === 'ready' && still(row) === null && full(row) === undefined && waitedFor(view, row).length === 0;

/** When something happens to a move next, `now` or later; null for never. */
function nextOf(view: EstateView, row: Move, now: Milliseconds, asked: Asked): Milliseconds | null {
  const due = (at: Milliseconds | null) => (at === null ? null : Math.max(now, at));
  if (row.state === 'cutting' || row.state === 'proving' || row.state === 'cleaning') return due(row.nextAt);
  const why = asked.still(row);
  const opens = () => {
    const at = row.held || planOf(view, row)?.held ? now : opensAt(view, row, now);
    return at > now ? at : null;
  };
  if (row.state === 'ready' && row.plannedAt === null) return now;
  if (row.state === 'ready' && why !== null) return opens();
  if (row.state === 'ready') return startable(view, row, asked) ? now : null;
  if (row.state !== 'copying' && row.state !== 'waiting') return null;
  if (row.round) {
    if ((why === null) !== row.flows) return now;
    if (why !== null) return opens();
    return earliest(due(finishOf(row.round)), windowOf(planOf(view, row), now).to);
  }
  if (why !== null) return row.every > 0 ? now : opens();
  return earliest(due(row.nextAt ?? now), row.every > 0 ? windowOf(planOf(view, row), now).to : null);
}

const earliest = (a: Milliseconds | null, b: Milliseconds | null): Milliseconds | null =>
  a === null || b === null ? (a ?? b) : Math.min(a, b);

/** The next moment at which any move starts, ends a round, is cut over, accepted or cleaned up, or stands still. */
export function nextMove(view: EstateView, now: Milliseconds): Milliseconds | null {
  const open = openMoves(view);
  if (open.length === 0) return null;
  const asked = askedOf(view, now);
  let first: Milliseconds | null = null;
  for (const row of open) {
    const at = nextOf(view, row, now, asked);
    if (at === now) return now;
    first = earliest(first, at);
  }
  return earliest(first, nextTurnOfRoads(view, now));
}

/** What was left behind is erased: the move is over. */
function cleaned(view: EstateView, row: Move, now: Milliseconds, newId: NewId): Done {
  const twin = row.twin === null ? undefined : view.table('volume').get(row.twin);
  return {
    effects: [
      // The row lets go of the volume before that goes.
      changed('move', row, {
        state: 'done',
        twin: null,
        link: null,
        since: now,
        nextAt: null,
        pit: null,
        log: logged(row, now, 'old copy erased, paths and records gone'),
      }),
      ...(twin ? purged(view, twin, newId) : []),
    ],
    said: [`${row.name} is done: nothing of it is left on ${sourceOf(view, row).name}`],
  };
}

/** Its days are over: accepted where hosts are well, else looked at again a day later. */
function provenBy(view: EstateView, row: Move, now: Milliseconds): Done {
  const why = hostsWell(view, row) ?? leftLocked(view, row, now);
  if (why !== null)
    return {
      effects: [
        changed('move', row, {
          nextAt: now + DAY,
          reason: why,
          ...(row.reason === why ? {} : { log: logged(row, now, `not accepted by itself: ${why}`) }),
        }),
      ],
      said: [],
    };
  return { effects: [accepted(row, now, `accepted after ${row.proveDays} days`)], said: [`${row.name} is accepted`] };
}

/** Proving ends: what was left behind is erased. */
export const accepted = (row: Move, now: Milliseconds, says: string): Effect =>
  changed('move', row, {
    state: 'cleaning',
    since: now,
    nextAt: now + CLEANING,
    reason: '',
    log: logged(row, now, says),
  });

/** What one move does at this moment; null for nothing. */
function turned(view: EstateView, row: Move, now: Milliseconds, asked: Asked, newId: NewId): Done | null {
  const isDue = row.nextAt !== null && row.nextAt <= now;
  switch (row.state) {
    case 'cutting':
      return isDue ? cutOver(view, row, now, newId) : null;
    case 'proving':
      return isDue ? provenBy(view, row, now) : null;
    case 'cleaning':
      return isDue ? cleaned(view, row, now, newId) : null;
    case 'copying':
    case 'waiting':
      return carriedOn(view, row, now, asked.still(row), newId);
    default:
      return null;
  }
}

function carriedOn(view: EstateView, row: Move, now: Milliseconds, why: string | null, newId: NewId): Done | null {
  if (row.round) {
    if ((why === null) !== row.flows) {
      const told = row.reason === why ? {} : { reason: why ?? '' };
      // Nothing gets over while it stands still; what is over stays.
      const round = why === null ? row.round : atRate(row.round, 0, now);
      return { effects: [changed('move', row, { flows: why === null, round, ...told })], said: [] };
    }
    const finish = row.flows ? finishOf(row.round) : null;
    return finish !== null && finish <= now ? roundOver(view, row, now, newId) : null;
  }
  if (why !== null)
    return row.every > 0
      ? {
          effects: [changed('move', row, { every: 0, pit: lastDelta(row, now), nextAt: null, reason: why })],
          said: [],
        }
      : null;
  if ((row.nextAt ?? now) > now) return null;
  return row.every > 0 ? inStep(view, row, now, newId) : roundBegun(view, row, now);
}

/** Moves that were just made learn when they are to be whole by their plan as it stands: by that it is seen when something slips. */
function plannedAnew(view: EstateView, rows: readonly Move[], now: Milliseconds): Effect[] {
  const fresh = rows.filter(({ plannedAt, state }) => plannedAt === null && state === 'ready');
  return [...new Set(fresh.map(({ wavePlan }) => wavePlan))].flatMap((id) => {
    const own = fresh.filter(({ wavePlan }) => wavePlan === id);
    const waves = wavesOf(view, planOf(view, own[0]!), now);
    const ends = new Map(waves.ok ? waves.value.moves.map((one) => [one.id, one.finishS]) : []);
    return own.map((row) => changed('move', row, { plannedAt: now + (ends.get(row.id) ?? 0) * SECOND }));
  });
}

/** What happens to moves up to `now`, applied to the overlay that is given; hosts have written up to then. */
export function movedOnBy(overlay: Overlay, now: Milliseconds, newId: NewId): Done {
  const effects: Effect[] = [];
  const said: string[] = [];
  const put = (made: readonly Effect[]) => {
    overlay.apply(made);
    effects.push(...made);
  };
  const told = (one: Done) => {
    put(one.effects);
    said.push(...one.said);
  };
  const open = openMoves(overlay).map(({ id }) => id);
  if (open.length === 0) return { effects, said };
  const row = (id: string) => overlay.table('move').get(id)!;
  put(plannedAnew(overlay, open.map(row), now));
  const asked = askedOf(overlay, now);
  for (const id of open)
    // A round that is over may be followed by the next, and that by another, within the same moment.
    for (let turns = 0; turns < 4; turns++) {
      // The record of a move goes with the room of a RAID group from which the last volume has moved.
      const present = overlay.table('move').get(id);
      const one = present ? turned(overlay, present, now, asked, newId) : null;
      if (!one) break;
      told(one);
    }
  for (const id of byTail(
    overlay,
    open.flatMap((id) => overlay.table('move').get(id) ?? []).filter(({ state }) => state === 'ready'),
  )) {
    if (!startable(overlay, row(id), { still: asked.still, full: slotBook(overlay) })) continue;
    told(started(overlay, row(id), now, newId));
    const began = row(id);
    if (began.round && asked.still(began) === null) put([changed('move', began, { flows: true })]);
  }
  put(shared(overlay, now));
  return { effects, said };
}

export const movedBy = (view: EstateView, now: Milliseconds, newId: NewId): Done =>
  movedOnBy(new Overlay(view), now, newId);
