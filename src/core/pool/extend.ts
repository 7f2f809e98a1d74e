import { z } from 'zod';
import { several, the } from '../operation/form';
import { changed } from '../estate/effects';
import { Overlay } from '../estate/estate';
import { arrayChoices, draftArray, draftList, draftText } from '../operation/draft';
import { askPool, realPools } from './direct';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { flag } from '../operation/params';
import { subjectOf } from '../operation/refusal';
import { survivesOf } from '../raid/geometry';
import { formatBytes, percentUsed } from '../units/bytes';
import { SECOND } from '../units/duration';
import { MOST_EXTENTS, UNBALANCED_POINTS } from './choices';
import { askFreeGroups, groupChoices, groupNotes } from './create';
import { spreadOf } from './move';
import { extentsOf, groupsOf, poolUsage } from './usage';
import { someOf } from '../units/counted';

const schema = z.object({
  array: z.string(),
  name: z.string(),
  raidGroups: z.array(z.string()).min(1, 'name at least one RAID group'),
  weaker: flag.default(false).describe('Agrees to groups that survive fewer failures than the pool does'),
});
type Params = z.output<typeof schema>;

export const poolExtend: OperationType<Params> = {
  kind: 'pool.extend',
  verb: 'Extend a pool',
  summary: 'Adds RAID groups to a pool. Nothing moves; new extents go where there is most room.',
  schema,
  form: {
    columns: [1, 2, 3],
    fields: {
      array: the.array,
      name: the.pool,
      raidGroups: several('RAID groups'),
      weaker: { label: 'Weaker ones too', control: 'switch' },
    },
  },
  title: (p) => `Extend pool ${p.name} on ${p.array} by ${someOf(p.raidGroups)}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const pool = array && askPool(asks, p.name, 'name', array);
    const groups = array ? askFreeGroups(view, asks, array, p.raidGroups) : [];
    if (asks.refusals.length > 0 || !array || !pool) return refused(asks.refusals);
    const present = groupsOf(view, pool.id);
    const weakest = Math.min(...present.map(survivesOf));
    for (const group of groups)
      if (survivesOf(group) < weakest && !p.weaker)
        asks.refuse({
          code: 'weaker-redundancy',
          field: 'raidGroups',
          subject: subjectOf('raidGroup', group),
          message: `${group.name} survives ${survivesOf(group)} lost ${survivesOf(group) === 1 ? 'drive' : 'drives'}; every group of ${pool.name} survives ${weakest}.`,
          mend: 'Choose a stronger group, or agree to the weaker one: the whole pool is then only as safe.',
        });
    const usage = poolUsage(view, pool);
    const added = groups.reduce((sum, group) => sum + extentsOf(group.usable, pool.extentSize), 0);
    if (usage.capacity + added > MOST_EXTENTS)
      asks.refuse({
        code: 'pool-too-large',
        field: 'raidGroups',
        subject: subjectOf('pool', pool),
        message: `With ${usage.capacity + added} extents ${pool.name} would be larger than its map, ${MOST_EXTENTS}.`,
        mend: 'Make another pool with larger extents.',
      });
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const effects = groups.map((group) => changed('raidGroup', group, { pool: pool.id }));
    const overlay = new Overlay(view);
    overlay.apply(effects);
    const uneven = spreadOf(overlay, pool) > UNBALANCED_POINTS;
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Extend pool ${pool.name} by ${formatBytes(added * pool.extentSize)}`,
      takes: 4 * SECOND,
      effects,
      notes: [
        ...groupNotes(overlay, groupsOf(overlay, pool.id), pool.extentSize),
        ...(uneven ? ['Groups are filled unevenly afterwards. Rebalance the pool to spread the load.'] : []),
      ],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const fields: Foretold['fields'] = { array: { choices: arrayChoices(view) }, name: {}, raidGroups: {}, weaker: {} };
    if (!array) return { fields };
    fields.name!.choices = realPools(view, array.id).map((pool) => ({ value: pool.name, label: pool.name }));
    fields.raidGroups!.choices = groupChoices(view, array.id);
    fields.weaker!.says = 'A pool is as safe as its weakest group.';
    const pool = lookUp(view, 'pool', draftText(draft, 'name'), array.id);
    if (!pool) return { fields };
    const usage = poolUsage(view, pool);
    fields.name!.says = `${percentUsed(usage.used, usage.capacity)} % of ${formatBytes(usage.size)} used.`;
    const chosen = draftList(draft, 'raidGroups').flatMap((ref) => lookUp(view, 'raidGroup', ref, array.id) ?? []);
    const added = chosen.reduce((sum, group) => sum + extentsOf(group.usable, pool.extentSize), 0);
    fields.raidGroups!.says =
      added === 0
        ? 'Groups that carry no pool yet.'
        : `${formatBytes(added * pool.extentSize)} more: ${percentUsed(usage.used, usage.capacity)} → ${percentUsed(usage.used, usage.capacity + added)} % used.`;
    return { fields };
  },
};
