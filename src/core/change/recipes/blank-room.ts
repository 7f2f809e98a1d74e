import { z } from 'zod';
import type { MediaClass } from '../../estate/entities';
import { draftArray, draftText } from '../../operation/draft';
import { folded, the } from '../../operation/form';
import { inquire, lookUp } from '../../operation/inquiry';
import type { RecipeType, Written } from '../../operation/recipe';
import { blankSchema, outsideBlank } from '../../outside/blank';
import { declaredForm, draftLuns, lunsForm } from '../../outside/luns-form';
import { groupName } from '../../outside/stand';
import { realPools } from '../../pool/direct';
import { tiersOf, poolUsage } from '../../pool/usage';
import { formatBytes } from '../../units/bytes';
import { someOf } from '../../units/counted';

const schema = blankSchema.extend({ pool: z.string().describe('The pool that they extend') });

export const blankRoom: RecipeType<z.output<typeof schema>> = {
  kind: 'storage.blank-room',
  verb: 'Extend a pool by outside LUNs',
  summary: 'Blank LUNs of an outside array become a tier of a pool: erased after their serials are typed, then added.',
  schema,
  form: {
    columns: [1, 2, 3],
    fields: {
      ...lunsForm,
      pool: the.pool,
      serials: 'Their serials',
      accept: { label: 'Erase what is found', control: 'switch' },
      media: declaredForm.media,
      declared: folded(declaredForm.declared),
    },
  },
  title: (p) => `Extend ${p.pool} of ${p.array} by ${someOf(p.luns)}`,
  unfold(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const rows = array ? p.luns.flatMap((ref) => asks.find('outsideLun', ref, 'luns', array) ?? []) : [];
    if (array) asks.find('pool', p.pool, 'pool', array);
    if (!array || asks.refusals.length > 0) return { ok: false, refusals: asks.refusals };
    const { pool, ...blank } = p;
    const operations: Written[] = [
      { do: 'outside.blank', ...blank },
      {
        do: 'pool.extend',
        array: array.name,
        name: pool,
        raidGroups: rows.map((row) => groupName(view, row)),
        weaker: true,
      },
    ];
    return { ok: true, operations };
  },
  foretell(view, draft, context) {
    const array = draftArray(view, draft);
    const { fields } = outsideBlank.foretell(view, draft, context);
    const pool = array && lookUp(view, 'pool', draftText(draft, 'pool'), array.id);
    const more = draftLuns(view, draft).reduce((sum, row) => sum + row.size, 0);
    const usage = pool && poolUsage(view, pool);
    const media = (draft.media ?? 'hdd-7k') as MediaClass;
    const tier = usage && tiersOf(usage).find((one) => one.media === media);
    return {
      fields: {
        ...fields,
        pool: {
          choices: (array ? realPools(view, array.id) : []).map(({ name }) => ({ value: name, label: name })),
          says: usage
            ? `${formatBytes(usage.size)} become ${formatBytes(usage.size + more)}; ${tier ? `${media} is a tier of it already` : `${media} is a new tier`}. It is then as safe as its weakest group.`
            : 'What they extend.',
        },
      },
    };
  },
};
