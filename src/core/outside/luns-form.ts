import { z } from 'zod';
import { mediaClasses, type OutsideLun } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { draftArray, draftList } from '../operation/draft';
import { pick, several, the } from '../operation/form';
import { lookUp } from '../operation/inquiry';
import type { Draft, Foretold } from '../operation/operation';

/** What every operation on several LUNs asks for: behind which array they stand, and which they are. */
export const lunsSchema = z.object({
  array: z.string(),
  luns: z.array(z.string()).min(1, 'name at least one LUN'),
});
export type LunsParams = z.output<typeof lunsSchema>;

export const lunsForm = { array: the.array, luns: several('LUNs') };

/** Each LUN is a step of its own. */
export const eachLun = <P extends LunsParams>(p: P): P[] => p.luns.map((lun) => ({ ...p, luns: [lun] }));

/** The LUNs that a draft names so far. */
export function draftLuns(view: EstateView, draft: Draft): OutsideLun[] {
  const array = draftArray(view, draft);
  return draftList(draft, 'luns').flatMap((ref) => (array && lookUp(view, 'outsideLun', ref, array.id)) ?? []);
}

/** What somebody has to say of a LUN that stands behind an array, since nobody can look into the outside one. */
export const declaredParams = {
  media: z.enum(mediaClasses).default('hdd-7k').describe('How fast it is taken to be; the slowest unless said'),
  declared: z.coerce
    .number()
    .int()
    .min(0)
    .max(3)
    .default(0)
    .describe('Failures that the outside array is declared to survive under it'),
};

export const declaredForm = { media: pick('Taken for'), declared: 'Survives, failures' };

export const declaredForetold: Foretold['fields'] = {
  media: {
    choices: mediaClasses.map((value) => ({ value, label: value })),
    suggested: 'hdd-7k',
    says: 'By it load and tiers are worked out.',
  },
  declared: { suggested: '0', says: 'Nothing here can look inside the outside array.' },
};
