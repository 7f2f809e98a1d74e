import type { Move, WavePlan } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { planWaves, type PlannedMove, type Waves } from '../move/waves';
import { arraysOf, roadsOf } from '../replicate/line-shares';
import { spareHours, spareRate } from '../replicate/spare';
import { openStretches } from '../schedule/hours';
import { DAY, HOUR, SECOND, type Milliseconds } from '../units/duration';
import { hourOfWeek } from '../units/week';
import type { Parsed } from '../units/parsed';
import { subjectOf, type Refusal } from '../operation/refusal';
import { lacking } from './changes';
import { USUAL_SLOTS } from './choices';
import { openMoves, planOf } from './roads';

/** Moves whose copy is not whole. */
export const toCopy = (rows: readonly Move[]): Move[] =>
  rows.filter(({ state }) => state === 'planned' || state === 'ready' || state === 'copying');

/** Ids of moves in the order in which they start: the longest tail first (move.md C). */
export function byTail(view: EstateView, rows: readonly Move[]): string[] {
  if (rows.length < 2) return rows.map(({ id }) => id);
  const own = new Map(rows.map((row) => [row.id, estimate(view, row)]));
  const then = new Map<string, string[]>();
  for (const row of rows) for (const id of row.waitsFor) then.set(id, [...(then.get(id) ?? []), row.id]);
  const tails = new Map<string, number>();
  const tailOf = (id: string): number => {
    let tail = tails.get(id);
    if (tail === undefined) {
      tails.set(id, own.get(id) ?? 0);
      tail = (own.get(id) ?? 0) + Math.max(0, ...(then.get(id) ?? []).map(tailOf));
      tails.set(id, tail);
    }
    return tail;
  };
  return [...own.keys()].sort((a, b) => tailOf(b) - tailOf(a) || (a < b ? -1 : 1));
}

/** Seconds that a move takes alone on its way. */
function estimate(view: EstateView, row: Move): number {
  const volume = view.table('volume').get(row.volume)!;
  const rate = Math.min(row.cap ?? Infinity, ...arraysOf(view, row).map((array) => spareRate(view, array)));
  return rate > 0 ? volume.written / rate : Infinity;
}

/** How many windows of a plan are looked ahead. */
const WINDOWS = 120;

/** Seconds from now between which the moves of a plan copy; none where they always do. */
function windowsOf(plan: WavePlan | null, now: Milliseconds): [number, number][] | null {
  if (plan === null || plan.fromHour === null) return null;
  const found: [number, number][] = [];
  for (const { from, to } of openStretches({ from: plan.fromHour, until: plan.untilHour, days: plan.days }, now)) {
    if (to === null || found.length >= WINDOWS) break;
    found.push([(from - now) / SECOND, (to - now) / SECOND]);
  }
  return found;
}

/** Hours of the week in which windows are open, looked at over the week to come; without windows the present one. */
function hoursWithin(windows: readonly [number, number][] | null, now: Milliseconds): number[] {
  const hours = new Set<number>();
  for (const [from, to] of windows ?? [])
    for (let at = now + from * SECOND; at < now + to * SECOND && at < now + 7 * DAY; at += HOUR)
      hours.add(hourOfWeek(at));
  return hours.size === 0 ? [hourOfWeek(now)] : [...hours];
}

/** When moves are whole as their plan goes on from now: those of one plan, or all that have none. */
export function wavesOf(
  view: EstateView,
  plan: WavePlan | null,
  now: Milliseconds,
  rows = movesOf(view, plan),
  course = false,
): Parsed<Waves> {
  const open = toCopy(rows);
  const ids = new Set(open.map(({ id }) => id));
  const { roads } = roadsOf(view, now);
  const windows = windowsOf(plan, now);
  const hours = hoursWithin(windows, now);
  const spareOf = (array: string) => {
    const spare = spareHours(view, array);
    return hours.reduce((sum, hour) => sum + spare[hour]!, 0) / hours.length;
  };
  const arrays: Record<string, { bytesPerS: number; concurrent: number }> = {};
  const links: Record<string, { bytesPerS: number }> = {};
  const moves = open.map((row): PlannedMove => {
    const ends = arraysOf(view, row);
    for (const array of ends)
      arrays[array] ??= {
        bytesPerS: Math.max(1, spareOf(array)),
        concurrent: plan?.slots ?? USUAL_SLOTS,
      };
    if (row.link !== null) links[row.link] ??= { bytesPerS: Math.max(1, roads[row.link] ?? 0) };
    return {
      id: row.id,
      bytes: lacking(view, row, now),
      from: ends[0]!,
      to: ends.at(-1)!,
      // Within a site the fabric carries it: the arrays' own rates are the narrower ones.
      link: row.link ?? (ends.length > 1 ? SITE : null),
      maxBytesPerS: row.cap,
      running: row.state === 'copying',
      after: row.waitsFor.filter((id) => ids.has(id)),
      group: row.together === '' ? null : row.together,
    };
  });
  return planWaves({
    moves,
    arrays,
    links: { ...links, [SITE]: { bytesPerS: Number.MAX_SAFE_INTEGER } },
    windows,
    course,
  });
}

const SITE = ' site';

/** Moves of a plan, or those without one, that are not over. */
export const movesOf = (view: EstateView, plan: WavePlan | null): Move[] =>
  openMoves(view).filter((row) => row.wavePlan === (plan?.id ?? null));

/** Why a plan cannot be carried out with a move of it as it is, in words that name moves; null where it can. */
export function wavesRefusal(view: EstateView, row: Move, now: Milliseconds): Refusal | null {
  const plan = planOf(view, row);
  const waves = wavesOf(view, plan, now);
  if (waves.ok || waves.reason === 'waves-no-link') return null;
  const named = [...view.table('move').values()].reduce(
    (text, { id, name }) => text.replaceAll(id, name),
    waves.message,
  );
  return {
    code: waves.reason,
    field: waves.reason === 'waves-windows-too-short' ? 'wavePlan' : 'after',
    subject: subjectOf('move', row),
    message: plan ? `${plan.name}: ${named}` : named,
    mend:
      waves.reason === 'waves-windows-too-short'
        ? 'Open its windows longer or on more days, or move less by it.'
        : 'Let one of them start without waiting for the other.',
  };
}
