import { z } from 'zod';
import { changedIn, writingOf, type Writing } from '../copies/writing';
import { changed } from '../estate/effects';
import type { Pool, Replication, Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { poolOf } from '../estate/relations';
import { folded, such } from '../operation/form';
import type { Inquiry } from '../operation/inquiry';
import type { Foretold } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { extentsKept } from '../pool/kept';
import { poolUsage } from '../pool/usage';
import { formatBytes, type Bytes } from '../units/bytes';
import { DAY, formatDuration, HOUR, type Milliseconds } from '../units/duration';
import { OUTAGE, SAFETY } from './choices';
import { MONDAY } from './planner';

export const reserveParams = {
  sourceReserve: z.coerce.number().min(0).max(50).optional().describe("Kept free in the source's pool, per cent"),
  targetReserve: z.coerce.number().min(0).max(50).optional().describe("Kept free in the target's pool, per cent"),
};
export const reserveFields = {
  sourceReserve: folded(such('Reserve at the source, %', '2')),
  targetReserve: folded(such('Reserve at the target, %', '2')),
};

/** What both sides of a replication should keep free in the busiest hour of the week (protect.md H5): the source over an outage, the target for its images. */
export function reservesOf(
  writing: Writing,
  { interval, images = 1, imagesDaily = 0 }: { interval: Milliseconds; images?: number; imagesDaily?: number },
): { source: Bytes; target: Bytes } {
  let source = 0;
  let target = 0;
  let day = 0;
  for (let hour = 0; hour < 168; hour++) {
    const at = MONDAY + hour * HOUR;
    source = Math.max(source, changedIn(writing, at, interval * 2 + OUTAGE));
    target = Math.max(target, changedIn(writing, at, interval));
    if (imagesDaily > 0) day = Math.max(day, changedIn(writing, at, DAY));
  }
  return { source: SAFETY * source, target: SAFETY * ((images + 1) * target + imagesDaily * day) };
}

/** Bytes that a replication keeps back in the pool of its source, and of its target. */
export function keptBytes(view: EstateView, row: Replication): { source: Bytes; target: Bytes } {
  const of = (k: number): Bytes => {
    const pool = view.table('pool').get(row.reservePools[k] ?? '');
    return pool ? extentsKept(poolUsage(view, pool).capacity, row.reserves[k]!) * pool.extentSize : 0;
  };
  return row.source === 'P' ? { source: of(0), target: of(1) } : { source: of(1), target: of(0) };
}

type Reserves = Pick<Replication, 'reservePools' | 'reserves'>;

/** The estate in which a replication keeps nothing back: what it kept is its own to use. */
export function withoutReserve(view: EstateView, row: Replication): EstateView {
  if (row.reserves.length === 0) return view;
  const overlay = new Overlay(view);
  const present = view.table('replication').get(row.id);
  if (present) overlay.apply([changed('replication', present, { reservePools: [], reserves: [] })]);
  return overlay;
}

/** Reserves that are asked for, in per cent of both pools; what is too large is refused, with what would fit. Undefined where nothing is said. */
export function askReserves(
  view: EstateView,
  asks: Inquiry,
  p: { sourceReserve?: number | undefined; targetReserve?: number | undefined },
  { source, target, before }: { source: Pool; target: Pool; before?: Replication },
): Reserves | undefined {
  if (p.sourceReserve === undefined && p.targetReserve === undefined) return undefined;
  const turned = before?.source === 'S';
  const had = (k: number) => before?.reserves[turned ? 1 - k : k] ?? 0;
  const wanted = [p.sourceReserve ?? had(0), p.targetReserve ?? had(1)] as const;
  const free = before ? withoutReserve(view, before) : view;
  for (const [k, field] of (['sourceReserve', 'targetReserve'] as const).entries()) {
    const pool = [source, target][k]!;
    const { capacity, available, size } = poolUsage(free, pool);
    const percent = wanted[k]!;
    if (extentsKept(capacity, percent) <= available) continue;
    asks.refuse({
      code: 'reserve-does-not-fit',
      field,
      subject: subjectOf('pool', pool),
      message: `${percent} % of ${pool.name} is ${formatBytes((size * percent) / 100, 'used')}, ${formatBytes(available * pool.extentSize)} are free; at most ${Math.floor((available / capacity) * 100)} %.`,
      mend: 'Keep less, or extend the pool.',
    });
  }
  if (wanted[0] === 0 && wanted[1] === 0) return { reservePools: [], reserves: [] };
  const both = [
    { pool: source.id, percent: wanted[0] },
    { pool: target.id, percent: wanted[1] },
  ];
  if (turned) both.reverse();
  return { reservePools: both.map(({ pool }) => pool), reserves: both.map(({ percent }) => percent) };
}

/** What a reserve of a pool comes to, and what it should be, in a sentence. */
function reserveWords(view: EstateView, pool: Pool | undefined, percent: number, need: Bytes, what: string): string {
  const should = `${formatBytes(Math.round(need), 'used')} ${what}`;
  if (!pool) return `It takes ${should}.`;
  const { size } = poolUsage(view, pool);
  const enough = Math.ceil((need / size) * 1000) / 10;
  const kept = (size * percent) / 100;
  const come = percent > 0 ? `${percent} % of ${pool.name} is ${formatBytes(kept, 'used')}; ` : '';
  return `${come}it takes ${should}, ${enough} % of ${pool.name}${percent > 0 && kept < need ? ': that is too little' : ''}.`;
}

/** What is said beside the fields while they are filled in. */
export function reserveForetold(
  view: EstateView,
  { sourceReserve, targetReserve }: { sourceReserve: number; targetReserve: number },
  given: {
    volumes: readonly Volume[];
    interval: Milliseconds;
    images: number;
    imagesDaily: number;
    target: Pool | undefined;
  } | null,
): Foretold['fields'] {
  if (!given || given.volumes.length === 0)
    return {
      sourceReserve: { says: 'For what must be kept while a cycle is on its way.' },
      targetReserve: { says: 'For images, and the one that is coming.' },
    };
  const need = reservesOf(writingOf(view, given.volumes), given);
  return {
    sourceReserve: {
      says: reserveWords(
        view,
        poolOf(view, given.volumes[0]!),
        sourceReserve,
        need.source,
        `to bridge ${formatDuration(OUTAGE)} in the busiest hours`,
      ),
    },
    targetReserve: { says: reserveWords(view, given.target, targetReserve, need.target, 'for its images') },
  };
}
