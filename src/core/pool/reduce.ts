import { z } from 'zod';
import { the } from '../operation/form';
import { bytesIn, within } from '../estate/runs';
import { mappedRuns } from '../content/weave';
import { changed, created, deleted, type Effect } from '../estate/effects';
import type { Job, Kind, Pool, Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { copiesHolder } from '../estate/occupancy';
import { arrayOf, poolOf } from '../estate/relations';
import { reducedStore } from '../content/reduce';
import { startedJob } from '../job/work';
import { arrayChoices, draftArray, draftText } from '../operation/draft';
import { askPool, realPools } from './direct';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { formatBytes, type Bytes } from '../units/bytes';
import { formatDuration, SECOND } from '../units/duration';
import { moveRate } from './remove-group';
import { fitStore } from './store';
import { poolUsage, reduces } from './usage';

const schema = z.object({ array: z.string(), name: z.string() });
type Params = z.output<typeof schema>;

/** Volumes whose written pages are still to be reduced. */
export const unreduced = (view: EstateView, pool: Pool): Volume[] =>
  view
    .table('volume')
    .by('pool', pool.id)
    .filter(
      (volume) =>
        volume.provisioning === 'thin' &&
        volume.reduction &&
        volume.origin === null &&
        volume.written > volume.reducedTo &&
        // One that is being made thick keeps its extents.
        view.table('job').countBy('volume', volume.id) === 0,
    );

const waiting = (view: EstateView, pool: Pool): Bytes =>
  unreduced(view, pool).reduce(
    (sum, volume) => sum + bytesIn(within(mappedRuns(volume), volume.reducedTo, volume.size)),
    0,
  );

/** Bytes the pool would use if everything were reduced now. */
function afterwards(view: EstateView, pool: Pool): Bytes {
  const all = view
    .table('volume')
    .by('pool', pool.id)
    .map((volume) =>
      volume.provisioning === 'thin' && volume.reduction ? { ...volume, reducedTo: volume.written } : volume,
    );
  const going = new Set(unreduced(view, pool).map((volume) => volume.id));
  const store = Math.ceil(reducedStore(pool, all).bytes / pool.extentSize);
  const kept = all.reduce(
    (sum, volume) =>
      sum +
      view.occupancy.allocated(copiesHolder(volume.id)) +
      (going.has(volume.id) ? 0 : view.occupancy.allocated(volume.id)),
    0,
  );
  return (store + kept) * pool.extentSize;
}

export const reductionJob = (view: EstateView, pool: Pool, now: number, newId: (kind: Kind) => string): Job =>
  startedJob(
    {
      id: newId('job'),
      kind: 'pool-dedupe',
      array: pool.array,
      pool: pool.id,
      priority: 'low',
      total: Math.max(waiting(view, pool), pool.extentSize),
      rate: moveRate(view, pool, null),
    },
    now,
  );

/** Why a pool's reduction cannot run now, or null. */
export function cannotReduce(view: EstateView, pool: Pool): { code: string; message: string; mend: string } | null {
  if (!reduces(pool))
    return {
      code: 'reduction-off',
      message: `${pool.name} reduces nothing.`,
      mend: 'Switch dedupe or compression on first.',
    };
  if (
    view
      .table('job')
      .by('pool', pool.id)
      .some((job) => job.kind === 'pool-dedupe')
  )
    return { code: 'pool-busy', message: `${pool.name} is being reduced already.`, mend: 'Wait until that is done.' };
  if (unreduced(view, pool).length === 0)
    return {
      code: 'nothing-to-reduce',
      message: `Everything in ${pool.name} that may be reduced is.`,
      mend: 'Leave it as it is.',
    };
  return null;
}

export const poolReduce: OperationType<Params> = {
  kind: 'pool.reduce',
  verb: 'Reduce a pool now',
  summary: 'Looks for equal and empty pages in what is written, and compresses the rest, as the pool is set.',
  schema,
  form: {
    columns: [2, 3, 4],
    fields: {
      array: the.array,
      name: the.pool,
    },
  },
  title: (p) => `Reduce pool ${p.name} on ${p.array}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const pool = array && askPool(asks, p.name, 'name', array);
    const no = pool && cannotReduce(view, pool);
    if (no) asks.refuse({ ...no, field: 'name', subject: subjectOf('pool', pool) });
    if (asks.refusals.length > 0 || !array || !pool) return refused(asks.refusals);
    const job = reductionJob(view, pool, context.now, context.newId);
    const used = poolUsage(view, pool).usedBytes;
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Reduce ${pool.name}: ${formatBytes(used, 'used')} → ${formatBytes(afterwards(view, pool), 'used')} within ${formatDuration(job.finishesAt - context.now)}`,
      takes: SECOND,
      effects: [created('job', job)],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const fields: Foretold['fields'] = { array: { choices: arrayChoices(view) }, name: {} };
    if (!array) return { fields };
    fields.name!.choices = realPools(view, array.id).map((pool) => ({
      value: pool.name,
      label: pool.name,
      ...(cannotReduce(view, pool) ? { unfit: reduces(pool) ? 'nothing to do' : 'reduction is off' } : {}),
    }));
    const pool = lookUp(view, 'pool', draftText(draft, 'name'), array.id);
    if (pool && reduces(pool))
      fields.name!.says = `${formatBytes(waiting(view, pool), 'used')} to look at; ${formatBytes(poolUsage(view, pool).usedBytes, 'used')} → ${formatBytes(afterwards(view, pool), 'used')} used.`;
    return { fields };
  },
};

/** What the end of a reduction does: written pages lie in the store, their own extents return to the pool. */
export function finishReduction(
  view: EstateView,
  job: Job,
  now: number,
  newId: (kind: Kind) => string,
): { effects: Effect[]; said: string } {
  const pool = poolOf(view, job)!;
  const before = poolUsage(view, pool).usedBytes;
  const overlay = new Overlay(view);
  const effects: Effect[] = [changed('pool', pool, { dedupedAt: now })];
  for (const volume of unreduced(view, pool)) {
    effects.push(changed('volume', volume, { reducedTo: volume.written }));
    for (const run of view.table('extent').by('volume', volume.id)) effects.push(deleted('extent', run));
  }
  overlay.apply(effects);
  const fitted = fitStore(overlay, pool, newId);
  const name = arrayOf(view, pool).name;
  // What does not shrink still has its maps to keep: where there is no room for them, everything stays where it lies.
  if (fitted.short > 0)
    return {
      effects: [],
      said: `${name} ${pool.name} is not reduced: ${formatBytes(fitted.short * pool.extentSize)} are lacking for what would not shrink`,
    };
  effects.push(...fitted.effects);
  const after =
    Math.ceil(reducedStore(pool, overlay.table('volume').by('pool', pool.id)).bytes / pool.extentSize) *
    pool.extentSize;
  return {
    effects,
    said: `${name} ${pool.name} is reduced: its store holds ${formatBytes(after, 'used')}, ${formatBytes(before, 'used')} were used before`,
  };
}
