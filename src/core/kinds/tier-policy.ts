import { z } from 'zod';
import { id, mediaClasses, name } from './fields';
import { kind, to, type RowOf } from './kind';

const percent = z.number().int().min(0).max(100);

/** How much of a class of media its volumes may and must have. */
export const tierShare = z.object({ media: z.enum(mediaClasses), least: percent, most: percent });
export type TierShare = z.infer<typeof tierShare>;

/** Which classes of media what part of a volume lies on: where it starts, and bounds within which heat decides. */
export const tierPolicyKind = kind({
  words: ['tier policy', 'tier policies'],
  prefix: 'tier',
  path: 'tier-policies',
  row: z.object({
    id,
    name,
    array: id,
    /** Of classes that are not named anything may lie there. */
    shares: z.array(tierShare).default([]),
    /** Where new extents go first; null for where each volume starts by itself. */
    startOn: z.enum(mediaClasses).nullable().default(null),
    notes: z.string().default(''),
  }),
  refers: { array: to('array') },
  named: 'array',
  searched: {},
});
export type TierPolicyRow = RowOf<typeof tierPolicyKind>;
