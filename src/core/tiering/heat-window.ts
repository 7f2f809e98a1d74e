import { z } from 'zod';
import { changed } from '../estate/effects';
import { arrayChoices, draftArray, draftText } from '../operation/draft';
import { such, the } from '../operation/form';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { askPool, realPools } from '../pool/direct';
import { formatBytes } from '../units/bytes';
import { momentText } from '../units/date';
import { formatDuration, HOUR, SECOND } from '../units/duration';
import { parseRate } from '../units/rate';
import { heatMoves } from './heat';
import { heatRate } from './job';
import { windowAt, windowWords } from './window';
import { saidOr } from '../operation/said';

// An empty text comes first: as a number it would be 0.
const hour = z.union([z.literal(''), z.coerce.number().int().min(0).max(23)]).optional();
const schema = z.object({
  array: z.string(),
  name: z.string(),
  from: hour.describe('Hour of the day from which extents move; empty for when somebody asks'),
  until: hour.describe('Hour of the day until which they move; the same hour for all day'),
  rate: z.string().optional().describe('Most bytes a second, with their unit; empty for what its groups can spare'),
});

export const poolHeatWindow: OperationType<z.output<typeof schema>> = {
  kind: 'pool.heat-window',
  verb: 'When a pool is placed by heat',
  summary: 'Between which hours extents move to the media they are hot enough for, every day, and how fast.',
  schema,
  form: {
    columns: [1, 2, 3],
    fields: {
      array: the.array,
      name: the.pool,
      from: 'From hour',
      until: 'Until hour',
      rate: such('Most bytes a second', '50 MiB/s'),
    },
  },
  title: (p) => `Set when pool ${p.name} on ${p.array} is placed by heat`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const pool = array && askPool(asks, p.name, 'name', array);
    if (!array || !pool) return refused(asks.refusals);
    const subject = subjectOf('pool', pool);
    const hours = { heatFrom: saidOr(p.from, pool.heatFrom, ''), heatUntil: saidOr(p.until, pool.heatUntil, '') };
    if ((hours.heatFrom === null) !== (hours.heatUntil === null))
      asks.refuse({
        code: 'heat-window-half',
        field: hours.heatFrom === null ? 'from' : 'until',
        subject,
        message: 'A window has a beginning and an end.',
        mend: 'Name both hours, or neither to have it placed when somebody asks.',
      });
    const rateSaid = (said: string): number | null =>
      said.trim() === '' ? null : (asks.value(parseRate(said), 'rate', subject) ?? pool.heatRate);
    const rate = p.rate === undefined ? pool.heatRate : rateSaid(p.rate);
    if (rate !== null && rate <= 0)
      asks.refuse({
        code: 'heat-rate-zero',
        field: 'rate',
        subject,
        message: 'At that rate nothing would ever move.',
        mend: 'Name 1 MiB/s or more, or leave it empty.',
      });
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const after = { ...pool, ...hours, heatRate: rate };
    const window = windowAt(after, context.now);
    const moved = window.to === null ? null : (heatRate(view, after) * (window.to - window.from)) / SECOND;
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Extents of ${pool.name} move by heat ${windowWords(after)}${rate === null ? '' : `, at most ${formatBytes(rate)} a second`}`,
      takes: SECOND,
      effects: [changed('pool', pool, { ...hours, heatRate: rate })],
      notes: [
        ...(moved === null
          ? []
          : [`A window has room for ${formatBytes(moved, 'used')}; the next opens ${momentText(window.from)}.`]),
        ...(window.to !== null && window.to - window.from < HOUR
          ? [`It is ${formatDuration(window.to - window.from)} until it closes.`]
          : []),
      ],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const fields: Foretold['fields'] = {
      array: { choices: arrayChoices(view) },
      name: {},
      from: { says: 'Empty, they move when somebody asks.' },
      until: { says: 'The same hour as from: all day. Both empty: when somebody asks.' },
      rate: { says: 'Empty for what its groups can spare.' },
    };
    if (!array) return { fields };
    fields.name!.choices = realPools(view, array.id).map(({ name }) => ({ value: name, label: name }));
    const pool = lookUp(view, 'pool', draftText(draft, 'name'), array.id);
    if (pool) {
      fields.from = { says: `Now ${windowWords(pool)}.` };
      fields.rate = {
        says: `Its groups can spare ${formatBytes(heatRate(view, { ...pool, heatRate: null }))} a second now.`,
      };
      const moves = heatMoves(view, pool);
      fields.name!.says =
        moves > 0 ? `${formatBytes(moves * pool.extentSize, 'used')} would move.` : 'All lies where it should.';
    }
    return { fields };
  },
};
