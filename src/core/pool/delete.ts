import { z } from 'zod';
import { the } from '../operation/form';
import { changed, deleted } from '../estate/effects';
import type { Partner, Pool } from '../estate/entities';
import { arrayChoices, byName, draftArray, draftText } from '../operation/draft';
import { movesAt, askPool, realPools } from './direct';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';
import { groupsOf } from './usage';
import { someOf } from '../units/counted';

const schema = z.object({ array: z.string(), name: z.string() });
type Params = z.output<typeof schema>;

/** What a partner may still use once a pool is gone. */
const withoutOffer = ({ offered, offeredBytes }: Partner, pool: Pool): Pick<Partner, 'offered' | 'offeredBytes'> => ({
  offered: offered.filter((id) => id !== pool.id),
  offeredBytes: offeredBytes.filter((_, k) => offered[k] !== pool.id),
});

export const poolDelete: OperationType<Params> = {
  kind: 'pool.delete',
  verb: 'Retire a pool',
  summary: 'Dissolves a pool; its RAID groups carry nothing again. Refused while it holds volumes.',
  schema,
  form: {
    columns: [2, 3, 4],
    fields: {
      array: the.array,
      name: the.pool,
    },
  },
  title: (p) => `Retire pool ${p.name} on ${p.array}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const pool = array && askPool(asks, p.name, 'name', array);
    const volumes = pool ? [...view.table('volume').by('pool', pool.id)].sort(byName) : [];
    if (pool && volumes.length > 0)
      asks.refuse({
        code: 'pool-holds-volumes',
        field: 'name',
        subject: subjectOf('pool', pool),
        message: `${pool.name} holds ${volumes.length} ${volumes.length === 1 ? 'volume' : 'volumes'}: ${someOf(volumes.map((volume) => volume.name))}.`,
        mend: `In this order: ${volumes.some((volume) => view.table('mapping').countBy('volume', volume.id) > 0) ? 'take their mappings away, ' : ''}${volumes.every((volume) => volume.deletedAt !== null) ? 'give up the retired volumes' : 'retire the volumes and give them up'}, then ${pool.name}.`,
      });
    if (asks.refusals.length > 0 || !array || !pool) return refused(asks.refusals);
    const groups = groupsOf(view, pool.id);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Dissolve pool ${pool.name}: ${someOf(groups.map((group) => group.name))} ${groups.length === 1 ? 'carries' : 'carry'} nothing again`,
      takes: 3 * SECOND,
      effects: [
        ...view
          .table('job')
          .by('pool', pool.id)
          .map((job) => deleted('job', job)),
        ...groups.map((group) => changed('raidGroup', group, { pool: null, draining: false })),
        ...view
          .table('partner')
          .by('offered', pool.id)
          .map((row) => changed('partner', row, withoutOffer(row, pool))),
        ...view
          .table('allotment')
          .by('pools', pool.id)
          .map((row) =>
            changed('allotment', row, {
              pools: row.pools.filter((id) => id !== pool.id),
              poolBytes: row.poolBytes.filter((_, k) => row.pools[k] !== pool.id),
            }),
          ),
        ...view
          .table('declaredFact')
          .by('pool', pool.id)
          .map((row) => deleted('declaredFact', row)),
        ...movesAt(view, pool.id),
        deleted('pool', pool),
      ],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const fields: Foretold['fields'] = { array: { choices: arrayChoices(view) }, name: {} };
    if (!array) return { fields };
    fields.name!.choices = realPools(view, array.id).map((pool) => {
      const held = view.table('volume').by('pool', pool.id).length;
      return {
        value: pool.name,
        label: pool.name,
        ...(held > 0 ? { unfit: `holds ${held} ${held === 1 ? 'volume' : 'volumes'}` } : {}),
      };
    });
    const pool = lookUp(view, 'pool', draftText(draft, 'name'), array.id);
    if (pool) fields.name!.says = `${groupsOf(view, pool.id).length} RAID groups carry nothing again.`;
    return { fields };
  },
};
