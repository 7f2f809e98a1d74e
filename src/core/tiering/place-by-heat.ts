import { z } from 'zod';
import { created } from '../estate/effects';
import { arrayChoices, draftArray, draftText } from '../operation/draft';
import { the } from '../operation/form';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { askPool, realPools } from '../pool/direct';
import { poolUsage, tiersOf } from '../pool/usage';
import { formatBytes } from '../units/bytes';
import { timeText } from '../units/date';
import { formatDuration, SECOND } from '../units/duration';
import { heatMoves } from './heat';
import { heatJob, movesOf } from './job';
import { windowAt, windowWords } from './window';

const schema = z.object({ array: z.string(), name: z.string() });

export const poolPlaceByHeat: OperationType<z.output<typeof schema>> = {
  kind: 'pool.place-by-heat',
  verb: 'Place a pool by heat',
  summary:
    'Moves hot extents of a pool to its fast media and cold ones to its slow media, until no exchange is worth it.',
  schema,
  form: { columns: [1, 2, 3], fields: { array: the.array, name: the.pool } },
  title: (p) => `Place pool ${p.name} on ${p.array} by heat`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const pool = array && askPool(asks, p.name, 'name', array);
    if (!array || !pool) return refused(asks.refusals);
    const moves = heatMoves(view, pool);
    const refuse = (code: string, message: string, mend: string) =>
      asks.refuse({ code, field: 'name', subject: subjectOf('pool', pool), message, mend });
    if (tiersOf(poolUsage(view, pool)).length < 2)
      refuse('pool-one-class', `${pool.name} has one class of media.`, 'Add a group of faster or slower drives first.');
    else if (movesOf(view, pool))
      refuse('pool-busy', `Extents of ${pool.name} are being moved already.`, 'Wait until that is done, or stop it.');
    else if (moves === 0)
      refuse(
        'pool-placed',
        `Whatever is hot in ${pool.name} lies on media as fast as there is room on.`,
        'Leave it as it is.',
      );
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const job = heatJob(view, pool, moves, context.newId('job'), context.now);
    const { to } = windowAt(pool, job.startedAt);
    const cut = to !== null && job.finishesAt > to;
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Place ${pool.name} by heat: ${formatBytes(job.total, 'used')} move within ${formatDuration(job.finishesAt - context.now)}`,
      takes: SECOND,
      effects: [created('job', job)],
      notes: [
        ...(job.startedAt > context.now
          ? [`It begins at ${timeText(job.startedAt)}, when the window of ${pool.name} opens.`]
          : []),
        ...(cut ? [`The window closes at ${timeText(to)}: the rest moves in the next.`] : []),
      ],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const fields: Foretold['fields'] = { array: { choices: arrayChoices(view) }, name: {} };
    if (!array) return { fields };
    const several = realPools(view, array.id).filter((pool) => tiersOf(poolUsage(view, pool)).length > 1);
    fields.name!.choices = realPools(view, array.id).map((pool) => ({
      value: pool.name,
      label: pool.name,
      ...(several.includes(pool) ? {} : { unfit: 'has one class of media' }),
    }));
    const pool = lookUp(view, 'pool', draftText(draft, 'name'), array.id);
    if (pool && several.includes(pool)) {
      const moves = heatMoves(view, pool);
      fields.name!.says =
        moves === 0
          ? 'Whatever is hot lies on media as fast as there is room on.'
          : `${formatBytes(moves * pool.extentSize, 'used')} would move, ${windowWords(pool)}; hosts work on meanwhile.`;
    }
    return { fields };
  },
};
