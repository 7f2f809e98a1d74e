import { z } from 'zod';
import { folded, the } from '../operation/form';
import { changed } from '../estate/effects';
import type { Pool } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { arrayChoices, draftArray, draftText } from '../operation/draft';
import { askPool, realPools } from './direct';
import { inquire, lookUp } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { formatBytes, percentUsed } from '../units/bytes';
import { SECOND } from '../units/duration';
import { checkHeadroom, checkPolicy, policyFields, policyForm, policyForetold, policyShape } from './policy';
import { fitStore, storeOf } from './store';
import { poolUsage, reduces, reserveOf } from './usage';

const schema = z.object({
  array: z.string(),
  name: z.string(),
  newName: z.string().optional(),
  ...policyShape,
});
type Params = z.output<typeof schema>;

export const poolConfigure: OperationType<Params> = {
  kind: 'pool.configure',
  verb: 'Change a pool',
  summary: 'Sets a pool’s marks, limits, reserve, what happens when it is full, and its reduction.',
  schema,
  form: {
    columns: [2, 3, 4],
    fields: {
      array: the.array,
      name: the.pool,
      ...policyForm,
      newName: folded('New name'),
    },
  },
  title: (p) => `Change pool ${p.name} on ${p.array}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const pool = array && askPool(asks, p.name, 'name', array);
    if (asks.refusals.length > 0 || !array || !pool) return refused(asks.refusals);
    const newName =
      p.newName && p.newName !== pool.name ? asks.freeName('pool', p.newName, array, 'newName', pool) : pool.name;
    const next = { ...pool, ...policyFields(p), name: newName ?? pool.name };
    checkPolicy(asks, subjectOf('pool', pool), next);
    checkHeadroom(view, asks, pool, next);
    const usage = poolUsage(view, pool);
    const free = usage.groups.reduce((sum, one) => sum + one.free, 0);
    if (next.reserve > pool.reserve && reserveOf(usage.capacity, next.reserve) > free)
      asks.refuse({
        code: 'reserve-too-large',
        field: 'reserve',
        subject: subjectOf('pool', pool),
        message: `${pool.name} has ${formatBytes(free * pool.extentSize)} free; ${next.reserve} % would be ${formatBytes(reserveOf(usage.capacity, next.reserve) * pool.extentSize, 'used')}.`,
        mend: `Keep at most ${Math.floor((free / usage.capacity) * 100)} %, or free space first.`,
      });
    // What lies in the reduced store is kept as the pool is set: another setting writes it anew, in another number of extents.
    const store = (of: EstateView, kept: Pool) => storeOf(of, kept).bytes;
    const held = view.occupancy.allocated(pool.id) * pool.extentSize;
    const overlay = new Overlay(view);
    overlay.apply([changed('pool', pool, next)]);
    const fitted =
      next.compression === pool.compression && next.dedupe === pool.dedupe
        ? { effects: [], short: 0 }
        : fitStore(overlay, next, context.newId);
    if (fitted.short > 0)
      asks.refuse({
        code: 'pool-too-small',
        field: next.compression === pool.compression ? 'dedupe' : 'compression',
        subject: subjectOf('pool', pool),
        message: `What is reduced in ${pool.name} would take ${formatBytes(store(overlay, next), 'used')} instead of ${formatBytes(held, 'used')}; ${formatBytes(fitted.short * pool.extentSize)} are lacking.`,
        mend: 'Extend the pool first, or leave the reduction as it is.',
        offer: nextStep(`Extend ${pool.name}`, 'pool.extend', { array: array.name, name: pool.name }),
      });
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const notes: string[] = [];
    if (next.subscriptionLimit !== null && usage.promised * 100 > usage.size * next.subscriptionLimit)
      notes.push(
        `${percentUsed(usage.promised, usage.size)} % are promised already: no thin volume can be carved until that is below ${next.subscriptionLimit} %.`,
      );
    const rewritten = [store(view, pool), store(overlay, next)];
    if (rewritten[0]! > 0 && rewritten[0] !== rewritten[1])
      notes.push(
        `What is reduced is written anew: ${formatBytes(rewritten[0]!, 'used')} → ${formatBytes(rewritten[1]!, 'used')}.`,
      );
    if (!reduces(pool) && reduces(next)) notes.push('What is written already is reduced when the reduction job runs.');
    const moved = (Object.keys(next) as (keyof typeof next)[]).filter((field) => next[field] !== pool[field]);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Change pool ${pool.name}: ${moved.length === 0 ? 'nothing changes' : moved.map((field) => `${words[field] ?? field} ${shown(next[field])}`).join(', ')}`,
      takes: 2 * SECOND,
      effects: [changed('pool', pool, next), ...fitted.effects],
      notes,
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const fields: Foretold['fields'] = { array: { choices: arrayChoices(view) }, name: {}, newName: {} };
    if (!array) return { fields };
    fields.name!.choices = realPools(view, array.id).map((pool) => ({ value: pool.name, label: pool.name }));
    const pool = lookUp(view, 'pool', draftText(draft, 'name'), array.id);
    if (!pool) return { fields: { ...fields, ...policyForetold(draft, 0, null) } };
    const usage = poolUsage(view, pool);
    fields.name!.says = `${formatBytes(usage.usedBytes, 'used')} of ${formatBytes(usage.size)} used, ${percentUsed(usage.promised, usage.size)} % promised.`;
    fields.newName!.says = 'Left empty, the name stays.';
    return { fields: { ...fields, ...policyForetold(draft, usage.size, pool) } };
  },
};

const words: Record<string, string> = {
  name: 'called',
  notice: 'notice at',
  urgent: 'urgent at',
  subscriptionLimit: 'subscription limit',
  whenFull: 'when full',
  alertTo: 'alerts to',
  plannedReduction: 'planned reduction',
};

function shown(value: string | number | boolean | null): string {
  if (value === null || value === '') return 'none';
  if (typeof value === 'boolean') return value ? 'on' : 'off';
  return String(value);
}
