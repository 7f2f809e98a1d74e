import { oldLegWhy } from '../copies/legs';
import { addedRate } from '../copies/writing';
import { cutOf, type CutWords } from '../copies/cut';
import type { Effect } from '../estate/effects';
import type { Kind, Pool, Snapshot, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, poolOf } from '../estate/relations';
import { nextStep } from '../operation/next-step';
import { subjectOf, type Refusal } from '../operation/refusal';
import { availableExtents } from '../pool/usage';
import { dateText } from '../units/date';
import { SECOND, type Milliseconds } from '../units/duration';
import { arrayAnswers } from '../volume/health';
import { pausedFor, type Paused } from './pause';
import { subjectOfProtected, type Protected } from './subject';

/** Copies that an array keeps of one volume at most (a choice). */
export const MOST_COPIES = 1024;

/** How copies are to be made. */
export interface CopyWish extends Omit<CutWords, 'label' | 'reason' | 'workload'> {
  quiesce: boolean;
  onTimeout: 'crash' | 'fail';
}

export type Made =
  | { ok: true; effects: Effect[]; copies: Snapshot[]; paused: Paused }
  | { ok: false; refusals: Refusal[]; took: Milliseconds };

/** Why a volume cannot be cut now. */
function whyNot(view: EstateView, volume: Volume, leftIn: (pool: Pool) => number): Refusal | null {
  const pool = poolOf(view, volume);
  const subject = subjectOf('volume', volume);
  const array = arrayOf(view, volume);
  if (pool.direct)
    return {
      code: 'copies-need-pool',
      subject,
      message: `${volume.name} lies straight in a RAID group; there is no pool that could keep what its copies show.`,
      mend: 'Carve it from a pool.',
    };
  if (!arrayAnswers(view, volume.array))
    return {
      code: 'array-silent',
      subject: subjectOf('array', array),
      message: `${array.name} does not answer, so that ${volume.name} cannot be cut.`,
      mend: `Bring a controller of ${array.name} up first.`,
    };
  const old = oldLegWhy(view, volume.id);
  if (old)
    return {
      code: 'leg-not-serving',
      subject,
      message: `${volume.name} ${old}.`,
      mend: 'Wait until both sites serve it again.',
    };
  if (view.table('snapshot').countBy('volume', volume.id) >= MOST_COPIES)
    return {
      code: 'too-many-copies',
      subject,
      message: `${volume.name} has ${MOST_COPIES} copies; an array keeps no more of one volume.`,
      mend: 'Delete some, or shorten what its plan keeps.',
    };
  if (leftIn(pool) === 0)
    return {
      code: 'copies-no-room',
      subject: subjectOf('pool', pool),
      message: `${pool.name} has no room left: no new copies are made.`,
      mend: `Extend ${pool.name}, or delete copies.`,
      offer: nextStep(`Extend ${pool.name}`, 'pool.extend', { array: array.name, name: pool.name }),
    };
  return null;
}

/** The day on which a pool would be full at what hosts add now; null where it never is. */
export function fullOn(view: EstateView, pool: string, now: Milliseconds): Milliseconds | null {
  const row = view.table('pool').get(pool)!;
  let rate = 0;
  for (const volume of view.table('volume').by('pool', pool))
    if (volume.provisioning === 'thin') rate += addedRate(view, volume);
  if (rate === 0) return null;
  return now + ((availableExtents(view, row) * row.extentSize) / rate) * SECOND;
}

/** Refuses a lock that would outlast the room of a pool: nothing could be deleted any more when it is full. */
export function lockOutlasts(
  view: EstateView,
  volumes: readonly Volume[],
  until: Milliseconds,
  now: Milliseconds,
): Refusal | null {
  for (const id of new Set(volumes.map((volume) => volume.pool))) {
    const full = fullOn(view, id, now);
    if (full === null || full >= until) continue;
    const pool = view.table('pool').get(id)!;
    const days = Math.ceil((until - full) / (24 * 3600 * SECOND));
    return {
      code: 'lock-outlasts-room',
      field: 'lockDays',
      subject: subjectOf('pool', pool),
      message: `${pool.name} would be full on ${dateText(full)}, ${days} ${days === 1 ? 'day' : 'days'} before the lock ends; nothing could be deleted then.`,
      mend: `Lock until ${dateText(full)} at most, or extend ${pool.name}.`,
      offer: nextStep(`Extend ${pool.name}`, 'pool.extend', { array: arrayOf(view, pool).name, name: pool.name }),
    };
  }
  return null;
}

/** Copies all volumes of a subject at one instant, with its applications paused where that is wished. */
export function makeCopies(view: EstateView, subject: Protected, wish: CopyWish, newId: (kind: Kind) => string): Made {
  const { quiesce, onTimeout, ...words } = wish;
  const left = new Map<string, number>();
  const leftIn = (pool: Pool): number => {
    let known = left.get(pool.id);
    if (known === undefined) left.set(pool.id, (known = availableExtents(view, pool)));
    return known;
  };
  const refusals = subject.volumes.flatMap((volume) => whyNot(view, volume, leftIn) ?? []);
  const until = wish.lockedUntil ?? null;
  const lock = until === null ? null : lockOutlasts(view, subject.volumes, until, wish.at);
  if (lock) refusals.push(lock);
  if (refusals.length > 0) return { ok: false, refusals, took: 0 };
  const paused = pausedFor(view, subject.volumes, { quiesce, onTimeout }, wish.at);
  if (paused.label === null)
    return {
      ok: false,
      took: paused.took,
      refusals: [
        {
          code: 'not-paused',
          field: 'quiesce',
          subject: subjectOfProtected(subject),
          message: `${subject.name} could not be paused: ${paused.reason}.`,
          mend: 'Mend the agent, or let a crash-consistent copy be made all the same.',
        },
      ],
    };
  return {
    ok: true,
    paused,
    ...cutOf(
      view,
      subject.volumes,
      { ...words, workload: subject.workload?.id ?? null, label: paused.label, reason: paused.reason },
      newId,
    ),
  };
}
