import { changed, type Effect } from '../estate/effects';
import type { Move, Replication } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { moveRate } from '../pool/remove-group';
import type { Milliseconds } from '../units/duration';
import type { BytesPerSecond } from '../units/rate';
import { arrayAnswers } from '../volume/health';
import { atRate, isMirrored } from './carry';
import { lineRateAt } from './line';
import { hostsOver } from './line-load';
import { mirroredRate } from './mirror';
import { shareNetwork, type RoutedFlow } from './shares';

export const cuts = (row: Replication): boolean =>
  row.state === 'copying' || (row.state === 'protected' && !isMirrored(row));

/** Bytes a second that an array has left for moves: what the groups of its pools can spare beside what hosts ask; 0 while it does not answer. */
export function spareRate(view: EstateView, array: string): BytesPerSecond {
  if (!arrayAnswers(view, array)) return 0;
  return view
    .table('pool')
    .by('array', array)
    .reduce(
      (sum, pool) => sum + (view.table('raidGroup').countBy('pool', pool.id) > 0 ? moveRate(view, pool, null) : 0),
      0,
    );
}

const sending = (view: EstateView): Replication[] =>
  view
    .table('replication')
    .by('atWork', '')
    .filter((row) => row.carrying !== null && cuts(row));

const moving = (view: EstateView): Move[] =>
  view
    .table('move')
    .by('open', '')
    .filter((row) => row.round !== null && row.flows);

/** Both arrays of a move, once where it stays within one. */
export const arraysOf = (view: EstateView, { fromPool, toPool }: Pick<Move, 'fromPool' | 'toPool'>): string[] => [
  ...new Set([fromPool, toPool].map((id) => view.table('pool').get(id)!.array)),
];

/** The line's and arrays' room for what is sent, and what shares it. */
export function roadsOf(view: EstateView, now: Milliseconds): { roads: Record<string, number>; flows: RoutedFlow[] } {
  const [copies, moves] = [sending(view), moving(view)];
  const roads: Record<string, number> = {};
  for (const link of view.table('siteLink').values())
    roads[link.id] =
      link.state === 'up'
        ? Math.max(0, lineRateAt(link, now) - mirroredRate(view, link, now) - hostsOver(view, link))
        : 0;
  const flow = (row: Pick<Move, 'id' | 'weight' | 'cap'>, path: readonly string[]): RoutedFlow => ({
    id: row.id,
    weight: row.weight,
    path,
    ...(row.cap === null ? {} : { cap: row.cap }),
  });
  const flows = copies.map((row) => flow(row, [row.link]));
  for (const row of moves) {
    const arrays = arraysOf(view, row);
    for (const array of arrays) roads[array] ??= spareRate(view, array);
    flows.push(flow(row, row.link === null ? arrays : [...arrays, row.link]));
  }
  return { roads, flows };
}

/** Rates of all that is sent now, copies and moves: lines and arrays are shared by weights. */
export function shared(view: EstateView, now: Milliseconds): Effect[] {
  const { roads, flows } = roadsOf(view, now);
  if (flows.length === 0) return [];
  const shares = shareNetwork({ links: roads, flows });
  if (!shares.ok) return [];
  const { alloc } = shares.value;
  return [
    ...sending(view).flatMap((row) => {
      const rate = alloc[row.id]!;
      return rate === row.carrying!.rate
        ? []
        : [changed('replication', row, { carrying: atRate(row.carrying!, rate, now) })];
    }),
    ...moving(view).flatMap((row) => {
      const rate = alloc[row.id]!;
      return rate === row.round!.rate ? [] : [changed('move', row, { round: atRate(row.round!, rate, now) })];
    }),
  ];
}
