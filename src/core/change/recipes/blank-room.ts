import { z } from 'zod';
import { mediaClasses, type MediaClass } from '../../estate/entities';
import { draftArray, draftList, draftText } from '../../operation/draft';
import { folded, pick, several, the } from '../../operation/form';
import { inquire, lookUp } from '../../operation/inquiry';
import { flag } from '../../operation/params';
import type { RecipeType, Written } from '../../operation/recipe';
import { outsideBlank } from '../../outside/blank';
import { realPools } from '../../pool/direct';
import { tiersOf, poolUsage } from '../../pool/usage';
import { formatBytes } from '../../units/bytes';
import { someOf } from '../../units/counted';

const schema = z.object({
  array: z.string().describe('The array behind which they come'),
  luns: z.array(z.string()).min(1, 'name at least one LUN'),
  pool: z.string().describe('The pool that they extend'),
  serials: z.array(z.string()).default([]).describe('The serial of each LUN, to confirm that it is the one'),
  accept: flag.default(false).describe('What was found on them may be erased'),
  media: z.enum(mediaClasses).default('hdd-7k').describe('The tier they form; the slowest unless said'),
  declared: z.coerce
    .number()
    .int()
    .min(0)
    .max(3)
    .default(0)
    .describe('Failures that their array is declared to survive'),
});

/** Groups that using LUNs makes are called so (see `groupName` in core/outside). */
const groupName = (outside: string, lun: number): string => `${outside}-lun-${lun}`;

export const blankRoom: RecipeType<z.output<typeof schema>> = {
  kind: 'storage.blank-room',
  verb: 'Extend a pool by outside LUNs',
  summary: 'Blank LUNs of an outside array become a tier of a pool: erased after their serials are typed, then added.',
  schema,
  form: {
    columns: [1, 2, 3],
    fields: {
      array: the.array,
      luns: several('LUNs'),
      pool: the.pool,
      serials: 'Their serials',
      accept: { label: 'Erase what is found', control: 'switch' },
      media: pick('Tier'),
      declared: folded('Survives, failures'),
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
    const fresh = rows.filter(({ state }) => state === 'found').map(({ name }) => name);
    const groups = rows.map((row) => {
      const volume = view.table('volume').get(row.volume)!;
      return groupName(view.table('array').get(volume.array)!.name, row.lun);
    });
    const operations: Written[] = [
      ...(fresh.length > 0 ? [{ do: 'outside.inspect', array: array.name, luns: fresh }] : []),
      { do: 'outside.blank', ...blank },
      { do: 'pool.extend', array: array.name, name: pool, raidGroups: groups, weaker: true },
    ];
    return { ok: true, operations };
  },
  foretell(view, draft, context) {
    const array = draftArray(view, draft);
    const { fields } = outsideBlank.foretell(view, draft, context);
    const pool = array && lookUp(view, 'pool', draftText(draft, 'pool'), array.id);
    const rows = draftList(draft, 'luns').flatMap((ref) => (array && lookUp(view, 'outsideLun', ref, array.id)) ?? []);
    const more = rows.reduce((sum, row) => sum + row.size, 0);
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
