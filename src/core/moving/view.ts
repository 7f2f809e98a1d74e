import { shownBytes } from '../copies/parts';
import type { Move, WavePlan } from '../estate/entities';
import { type EstateView } from '../estate/estate';
import type { Waves } from '../move/waves';
import { byName } from '../operation/draft';
import { poolUsage } from '../pool/usage';
import { arraysOf, roadsOf } from '../replicate/line-shares';
import { spareRate } from '../replicate/spare';
import { formatBytes } from '../units/bytes';
import { DAY, SECOND, type Milliseconds } from '../units/duration';
import { formatRate } from '../units/rate';
import { hourOfWeek } from '../units/week';
import type { MoveBound, MoveGroup, MoveRow, MovesAnswer, WavePlanRow } from './answers';
import { groupOf } from './ask';
import { cutValues } from './cut-values';
import { movesOf, toCopy, wavesOf } from './waves';
import { poolById, standsStill } from './roads';
import { windowWords } from './wave-operations';

import { placeName, rowOf, windowSpans } from './view-rows';
/** What is full on the way: arrays and lines by their rates, target pools by their fill. */
function boundsOf(view: EstateView, rows: readonly Move[], waves: Waves, now: Milliseconds): MoveBound[] {
  const { roads } = roadsOf(view, now);
  const byId = new Map(rows.map((row) => [row.id, row]));
  const course = waves.course ?? [];
  const ways = new Set(rows.flatMap((row) => [...arraysOf(view, row), ...(row.link === null ? [] : [row.link])]));
  const bounds = [...ways].map((id): MoveBound => {
    const array = view.table('array').get(id);
    const limit = roads[id] ?? spareRate(view, id, hourOfWeek(now));
    return {
      name: array?.name ?? view.table('siteLink').get(id)!.name,
      what: 'rate',
      limit,
      limitSays: `spares ${formatRate(Math.round(limit))}`,
      steps: course.map(({ fromS, toS, rates }) => ({
        from: now + fromS * SECOND,
        to: now + toS * SECOND,
        value: Object.entries(rates).reduce((sum, [move, rate]) => {
          const row = byId.get(move)!;
          return arraysOf(view, row).includes(id) || row.link === id ? sum + rate : sum;
        }, 0),
      })),
    };
  });
  const mean = ({ steps, limit }: MoveBound) =>
    steps.reduce((sum, { from, to, value }) => sum + value * (to - from), 0) / Math.max(1, limit);
  const busiest = bounds.sort((a, b) => mean(b) - mean(a)).slice(0, 2);
  const pools = [...new Set(rows.map(({ toPool }) => toPool))].map((id): MoveBound => {
    const pool = poolById(view, id);
    const usage = poolUsage(view, pool);
    let value = usage.usedBytes;
    const threshold = (usage.size * pool.urgent) / 100;
    const steps = course.map(({ fromS, toS, rates }) => {
      for (const [move, rate] of Object.entries(rates))
        if (byId.get(move)!.toPool === id) value += rate * (toS - fromS);
      return { from: now + fromS * SECOND, to: now + toS * SECOND, value: Math.min(value, usage.size) };
    });
    return {
      name: placeName(view, id),
      what: 'fill',
      limit: threshold,
      limitSays: `urgent ${formatBytes(Math.round(threshold))}`,
      steps: [{ from: now, to: now, value: usage.usedBytes }, ...steps],
    };
  });
  const fullest = pools.sort((a, b) => b.steps.at(-1)!.value / b.limit - a.steps.at(-1)!.value / a.limit)[0];
  return fullest ? [...busiest, fullest] : busiest;
}

/** How far the axis is looked ahead where a plan has windows. */
const AHEAD = 4 * DAY;

function planRow(view: EstateView, plan: WavePlan | null, now: Milliseconds): WavePlanRow {
  const rows = movesOf(view, plan);
  const open = toCopy(rows);
  const waves = open.length > 0 ? wavesOf(view, plan, now, rows, true) : null;
  const found = waves?.ok ? waves.value : null;
  const moves = rows.map((row) => ({ row, answer: rowOf(view, row, found, now) }));
  const groups = new Map<string, { name: string; rows: Move[]; moves: MoveRow[] }>();
  for (const { row, answer } of moves) {
    const key = groupOf(row) || ' ';
    const group = groups.get(key) ?? { name: row.together, rows: [], moves: [] };
    group.rows.push(row);
    group.moves.push(answer);
    groups.set(key, group);
  }
  const endsAt = found ? now + found.makespanS * SECOND : null;
  const firstAt = Math.min(now, ...rows.map(({ startedAt }) => startedAt ?? now));
  return {
    id: plan?.id ?? null,
    name: plan?.name ?? 'Without a plan',
    held: plan?.held ?? false,
    words: plan ? windowWords(plan) : 'at once',
    slots: plan?.slots ?? 0,
    windows: windowSpans(plan, firstAt, Math.max(endsAt ?? now, now) + AHEAD),
    groups: [...groups.values()]
      .map(({ name, rows: own, moves: answers }): MoveGroup => {
        const ends = answers.map(({ endsAt: end, wholeAt }) => end ?? wholeAt);
        return {
          name,
          moves: answers.sort((a, b) => (a.startedAt ?? Infinity) - (b.startedAt ?? Infinity) || byName(a, b)),
          bytes: answers.reduce((sum, { bytes }) => sum + bytes, 0),
          readyAt: ends.some((end) => end === null) ? null : Math.max(...ends.map((end) => end!)),
          canConfirm:
            name !== '' &&
            own.every((row) => row.state === 'waiting') &&
            own.every((row) => cutValues(view, row, now).pause <= row.pauseMax && standsStill(view, row, now) === null),
        };
      })
      .sort((a, b) => byName(a, b)),
    bytes: moves.reduce((sum, { answer }) => sum + answer.bytes, 0),
    copied: moves.reduce((sum, { answer }) => sum + answer.bytes * answer.share, 0),
    endsAt,
    boundAt: found ? now + found.lowerBoundS * SECOND : null,
    ratio: found?.ratio ?? null,
    problem: waves && !waves.ok ? waves.message : '',
    bounds: found ? boundsOf(view, open, found, now) : [],
  };
}

/** All moves: those of each plan with their waves, those without one, and what is over. */
export function movesView(view: EstateView, now: Milliseconds): MovesAnswer {
  const plans = [...view.table('wavePlan').values()].sort(byName);
  const loose = movesOf(view, null);
  return {
    now,
    plans: [...plans.map((plan) => planRow(view, plan, now)), ...(loose.length > 0 ? [planRow(view, null, now)] : [])],
    over: [...view.table('move').values()]
      .filter(({ state }) => state === 'done' || state === 'aborted')
      .sort((a, b) => b.since - a.since)
      .map((row) => ({
        name: row.name,
        state: row.state,
        from: placeName(view, row.fromPool),
        to: placeName(view, row.toPool),
        since: row.since,
        bytes: shownBytes(view.table('volume').get(row.volume)!),
      })),
  };
}
