import { imageOf } from '../copies/cut';
import { shownBytes } from '../copies/parts';
import { changed, created, type Effect } from '../estate/effects';
import { rowOf, type Kind, type Move, type Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import type { MoveRound } from '../kinds/move';
import { movedOn } from '../move/states';
import { makeNaa, makeSerial } from '../naming/identity';
import { lookUp } from '../operation/inquiry';
import { brought } from '../replicate/brought';
import { formatBytes, type Bytes } from '../units/bytes';
import { formatWait } from '../units/figures';
import { formatDuration, SECOND, type Milliseconds } from '../units/duration';
import { leastLoaded } from '../volume/create-room';
import { giveAll } from '../volume/grow';
import { changedSince, deltaEvery, lastDelta, pauseFor } from './changes';
import { AGAIN, MOST_ROUNDS, SETTLED, STALL_RATIO, STALLS } from './choices';
import { logged } from './log';
import { newWays } from './prepare';
import { poolById, staysWithin, targetOf } from './roads';

export type NewId = (kind: Kind) => string;
/** What a move did in its turn, and what is told of it. */
export interface Done {
  effects: Effect[];
  said: string[];
}

/** What a volume shows at one moment, as a round carries it over. */
export const showsNow = (view: EstateView, volume: Volume): MoveRound['volume'] => ({
  written: volume.written,
  holes: volume.holes,
  image: imageOf(view, volume),
  files: volume.files,
});

const begun = (view: EstateView, volume: Volume, wire: Bytes, now: Milliseconds): MoveRound => ({
  pit: now,
  wire,
  sent: 0,
  asOf: now,
  from: now,
  rate: 0,
  volume: showsNow(view, volume),
});

/** What stands at the other side is called: never as the volume itself, since it is by names that people tell both apart. */
function twinName(view: EstateView, volume: Volume, array: string, newId: NewId): string {
  const stem = `${volume.name.slice(0, 54)}-move`;
  return lookUp(view, 'volume', stem, array) ? `${stem}-${newId('volume').slice(-4)}` : stem;
}

/** Makes the target and begins the first round. */
export function started(view: EstateView, row: Move, now: Milliseconds, newId: NewId): Done {
  const volume = view.table('volume').get(row.volume)!;
  const pool = poolById(view, row.toPool);
  const array = arrayOf(view, pool);
  const id = newId('volume');
  const twin = rowOf('volume', {
    id,
    name: twinName(view, volume, array.id, newId),
    array: array.id,
    pool: pool.id,
    size: volume.size,
    provisioning: volume.provisioning,
    naa: makeNaa(array.companyId, id),
    serial: makeSerial(id),
    owner: staysWithin(view, row)
      ? volume.owner
      : (leastLoaded(view, array.id) ?? [...view.table('controller').by('array', array.id)][0]!).id,
    written: 0,
    blockSize: volume.blockSize,
    reduction: false,
    content: volume.content,
    createdAt: volume.createdAt,
    parts: volume.parts,
    notes: `target of the move of ${arrayOf(view, volume).name} ${volume.name}`,
  });
  const overlay = new Overlay(view);
  const effects: Effect[] = [created('volume', twin)];
  overlay.apply(effects);
  if (twin.provisioning === 'thick') {
    const { effects: given, given: had } = giveAll(overlay, twin, pool, newId);
    if (had * pool.extentSize < twin.size) return outOfRoom(view, row, twin.size - had * pool.extentSize, now);
    effects.push(...given);
  }
  const ways = staysWithin(view, row) ? [] : newWays(view, volume, array, row.identity);
  const wire = shownBytes(volume);
  effects.push(
    changed('move', row, {
      state: 'copying',
      twin: id,
      startedAt: row.startedAt ?? now,
      since: now,
      reason: '',
      nextAt: null,
      round: begun(view, volume, wire, now),
      log: logged(
        row,
        now,
        `${twin.name} made in ${array.name} ${pool.name}, ${twin.provisioning}`,
        ...ways.map(({ host, paths }) => `${host.name} has ${paths} paths there, not used yet`),
        `round 1 begins, ${formatBytes(wire, 'used')}`,
      ),
    }),
  );
  return { effects, said: [] };
}

function outOfRoom(view: EstateView, row: Move, short: Bytes, now: Milliseconds): Done {
  const reason = `${targetOf(view, row).name} ${poolById(view, row.toPool).name} lacks room for ${formatBytes(short, 'used')}`;
  const again = row.reason === reason;
  return {
    effects: [
      changed('move', row, {
        round: null,
        flows: false,
        nextAt: now + AGAIN,
        reason,
        ...(again ? {} : { log: logged(row, now, `stands still: ${reason}`) }),
      }),
    ],
    said: again ? [] : [`${row.name} cannot be copied on: ${reason}`],
  };
}

/** The next round: what hosts changed since the other side was whole. */
export function roundBegun(view: EstateView, row: Move, now: Milliseconds): Done {
  const volume = view.table('volume').get(row.volume)!;
  const twin = view.table('volume').get(row.twin!)!;
  const had = shownBytes(twin);
  const wire = row.pit === null ? shownBytes(volume) : changedSince(view, row, volume, had, lastDelta(row, now), now);
  return {
    effects: [
      changed('move', row, {
        pit: row.pit === null ? null : lastDelta(row, now),
        every: 0,
        nextAt: null,
        reason: '',
        round: begun(view, volume, wire, now),
      }),
    ],
    said: [],
  };
}

/** Brings the other side to what a moment shows, with the room that takes. */
const settled = (view: EstateView, row: Move, shows: MoveRound['volume'], at: Milliseconds, newId: NewId) =>
  brought(
    view,
    view.table('volume').get(row.twin!)!,
    shows,
    { activity: view.table('volume').get(row.volume)!.activity, from: row.pit, at },
    newId,
  );

/** A round is over: the other side shows what it carried, and what is left decides what comes next (move.md B). */
export function roundOver(view: EstateView, row: Move, now: Milliseconds, newId: NewId): Done {
  const round = row.round!;
  const { effects, short } = settled(view, row, round.volume, round.pit, newId);
  if (short > 0) return outOfRoom(view, row, short, now);
  const overlay = new Overlay(view);
  overlay.apply(effects);
  const volume = overlay.table('volume').get(row.volume)!;
  const had = shownBytes({ ...volume, ...round.volume });
  const left = changedSince(overlay, row, volume, had, round.pit, now);
  const before = row.rounds.length > 0 ? ratesOf(row).at(-1)! : 0;
  const rate = round.rate > 0 ? round.rate : before;
  const pause = pauseFor(left, rate);
  const fitsPause = pause <= row.pauseMax;
  const stalls = left > STALL_RATIO * round.wire ? row.stalls + 1 : 0;
  const done = row.done + 1;
  const asks =
    fitsPause || row.state === 'waiting'
      ? ('' as const)
      : stalls >= STALLS
        ? ('not-converging' as const)
        : done >= MOST_ROUNDS
          ? ('round-limit' as const)
          : ('' as const);
  const turn = movedOn(row.state, { event: 'round', fitsPause, stalled: asks !== '' });
  const state = turn.ok ? turn.value.state : row.state;
  const took = now - round.pit;
  const fields: Partial<Move> = {
    round: null,
    flows: false,
    rounds: [...row.rounds, { bytes: round.wire, took, at: now }].slice(-24),
    done,
    stalls,
    asks,
    pit: round.pit,
    reason: '',
  };
  const says = `round ${done}: ${formatBytes(Math.round(round.wire), 'used')} in ${formatDuration(Math.max(SECOND, Math.round(took / SECOND) * SECOND))}`;
  if (state === 'waiting') {
    const first = row.state !== 'waiting';
    const every = fitsPause ? deltaEvery(overlay, row, volume, now, rate) : 0;
    return {
      effects: [
        ...effects,
        changed('move', row, {
          ...fields,
          state,
          ...(first ? { since: now, wholeAt: row.wholeAt ?? now } : {}),
          // Where a round of catching up left too much, the next follows at once.
          every,
          nextAt: every > 0 ? nextSettling(now) : now,
          log: logged(row, now, says, ...(first ? [`whole; waits for a person, a pause of ${seconds(pause)}`] : [])),
        }),
      ],
      said: first
        ? [`${row.name} is whole at ${targetOf(view, row).name} and waits for somebody to confirm its cut`]
        : [],
    };
  }
  const asked = asks !== '' && row.asks === '';
  return {
    effects: [
      ...effects,
      changed('move', row, {
        ...fields,
        // One that does not converge is tried again now and then, until somebody says how.
        nextAt: asks === '' ? now : Math.max(now, round.pit + AGAIN),
        log: logged(row, now, says, ...(asked ? ['hosts change it faster than it is copied'] : [])),
      }),
    ],
    said: asked ? [`${row.name} does not converge: hosts change it faster than it is copied`] : [],
  };
}

const nextSettling = (now: Milliseconds): Milliseconds => (Math.floor(now / SETTLED) + 1) * SETTLED;

/** What keeps in step takes the room it needs. */
export function inStep(view: EstateView, row: Move, now: Milliseconds, newId: NewId): Done {
  const volume = view.table('volume').get(row.volume)!;
  const at = lastDelta(row, now);
  const { effects, short } = settled(view, row, showsNow(view, volume), at, newId);
  if (short > 0) return outOfRoom(view, { ...row, every: 0 }, short, now);
  return {
    effects: [...effects, changed('move', row, { pit: at, nextAt: nextSettling(now), reason: '' })],
    said: [],
  };
}

export const seconds = (span: Milliseconds): string => formatWait(span / SECOND);

/** Bytes a second of its last rounds. */
export const ratesOf = ({ rounds }: Pick<Move, 'rounds'>): number[] =>
  rounds.filter(({ bytes, took }) => bytes > 0 && took > 0).map(({ bytes, took }) => (bytes / took) * SECOND);
