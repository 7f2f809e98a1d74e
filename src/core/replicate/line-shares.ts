import { cuts } from '../copies/replica';
import { changed, type Effect } from '../estate/effects';
import type { Move, Replication } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { HOUR, type Milliseconds } from '../units/duration';
import { hourOfWeek } from '../units/week';
import { atRate } from './carry';
import { lineRate, lineRateAt, nextTurnOfDay } from './line';
import { hostsOver } from './line-load';
import { mirroredRate } from './mirror';
import { shareNetwork, type RoutedFlow } from './shares';
import { arraysUnder } from './sides';
import { leastSpare, spareHours } from './spare';

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

/** Of these arrays those whose groups could hold copies back more than the lines do, however much hosts ask of them. */
function boundBy(view: EstateView, copies: readonly Replication[]): Map<string, Replication[]> {
  const lines = new Map<string, Set<string>>();
  const rows = new Map<string, Replication[]>();
  for (const row of copies)
    for (const array of arraysUnder(view, row)) {
      lines.set(array, (lines.get(array) ?? new Set()).add(row.link));
      rows.set(array, [...(rows.get(array) ?? []), row]);
    }
  const through = (ids: ReadonlySet<string>) =>
    [...ids].reduce((sum, id) => sum + lineRate(view.table('siteLink').get(id)!).bytesPerS, 0);
  return new Map([...rows].filter(([array]) => leastSpare(view, array) < through(lines.get(array)!)));
}

/** Both arrays of a move, once where it stays within one. */
export const arraysOf = (view: EstateView, { fromPool, toPool }: Pick<Move, 'fromPool' | 'toPool'>): string[] => [
  ...new Set([fromPool, toPool].map((id) => view.table('pool').get(id)!.array)),
];

/** The lines' and arrays' room for what is sent, and what shares it. Arrays give what hosts leave of their groups in this hour. */
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
  const hour = hourOfWeek(now);
  const moved = moves.map((row) => ({ row, arrays: arraysOf(view, row) }));
  for (const array of [...boundBy(view, copies).keys(), ...moved.flatMap(({ arrays }) => arrays)])
    roads[array] ??= spareHours(view, array)[hour]!;
  const flows = copies.map((row) =>
    flow(row, [row.link, ...arraysUnder(view, row).filter((array) => roads[array] !== undefined)]),
  );
  for (const { row, arrays } of moved) flows.push(flow(row, row.link === null ? arrays : [...arrays, row.link]));
  return { roads, flows };
}

/** The next moment at which what is sent now may go at another rate: where day turns to night on its line, or hosts leave its arrays more or less. */
export function nextTurnOfRoads(view: EstateView, now: Milliseconds): Milliseconds | null {
  const [copies, moves] = [sending(view), moving(view)];
  const turns: Milliseconds[] = [];
  const lines = new Set([...copies, ...moves].flatMap(({ link }) => link ?? []));
  const turned = (id: string) => {
    const { dayCap, nightCap } = view.table('siteLink').get(id)!;
    return dayCap !== nightCap;
  };
  if ([...lines].some(turned)) turns.push(nextTurnOfDay(now));
  const arrays = new Set([...boundBy(view, copies).keys(), ...moves.flatMap((row) => arraysOf(view, row))]);
  if (arrays.size > 0) turns.push((Math.floor(now / HOUR) + 1) * HOUR);
  return turns.length === 0 ? null : Math.min(...turns);
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
