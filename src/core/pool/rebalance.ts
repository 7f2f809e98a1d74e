import { z } from 'zod';
import { the } from '../operation/form';
import { created } from '../estate/effects';
import { startedJob } from '../job/work';
import { arrayChoices, draftArray, draftText } from '../operation/draft';
import { askPool, realPools } from './direct';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { formatBytes } from '../units/bytes';
import { formatDuration, SECOND } from '../units/duration';
import { BALANCED_POINTS } from './choices';
import { rebalanceMoves, spreadOf } from './move';
import { moveRate } from './remove-group';

const schema = z.object({ array: z.string(), name: z.string() });
type Params = z.output<typeof schema>;

export const poolRebalance: OperationType<Params> = {
  kind: 'pool.rebalance',
  verb: 'Rebalance a pool',
  summary: 'Spreads the extents of a pool evenly over the groups of each tier.',
  schema,
  form: {
    columns: [1, 2, 3],
    fields: {
      array: the.array,
      name: the.pool,
    },
  },
  title: (p) => `Rebalance pool ${p.name} on ${p.array}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const pool = array && askPool(asks, p.name, 'name', array);
    const moves = pool ? rebalanceMoves(view, pool) : 0;
    const refuse = (code: string, message: string, mend: string) =>
      asks.refuse({ code, field: 'name', subject: subjectOf('pool', pool!), message, mend });
    if (
      pool &&
      view
        .table('job')
        .by('pool', pool.id)
        .some((job) => job.kind === 'pool-rebalance')
    )
      refuse('pool-busy', `${pool.name} is being rebalanced already.`, 'Wait until that is done.');
    else if (pool && (moves === 0 || spreadOf(view, pool) < BALANCED_POINTS))
      refuse('pool-balanced', `The groups of ${pool.name} are filled alike.`, 'Leave it as it is.');
    if (asks.refusals.length > 0 || !array || !pool) return refused(asks.refusals);
    const job = startedJob(
      {
        id: context.newId('job'),
        kind: 'pool-rebalance',
        array: array.id,
        pool: pool.id,
        priority: 'low',
        total: moves * pool.extentSize,
        rate: moveRate(view, pool, null),
      },
      context.now,
    );
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Rebalance ${pool.name}: ${formatBytes(job.total, 'used')} move within ${formatDuration(job.finishesAt - context.now)}`,
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
      ...(rebalanceMoves(view, pool) === 0 ? { unfit: 'is filled evenly' } : {}),
    }));
    const pool = lookUp(view, 'pool', draftText(draft, 'name'), array.id);
    if (pool)
      fields.name!.says = `Fullest and emptiest group are ${Math.round(spreadOf(view, pool))} points apart; ${formatBytes(rebalanceMoves(view, pool) * pool.extentSize, 'used')} would move.`;
    return { fields };
  },
};
