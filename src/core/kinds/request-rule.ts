import { z } from 'zod';
import type { RequestRule } from '../classes/rules';

const key = z.string().min(1).max(40);
const single = z.union([z.number(), z.string(), z.boolean()]);

/** What is known under one key: a number, a word, yes or no, or a set of words. */
export const factValue = z.union([single, z.array(z.string())]);
const end = z.union([z.number(), z.string()]).nullable().default(null);

const comparison = z.discriminatedUnion('op', [
  z.object({ op: z.literal('equals'), key, value: factValue }),
  z.object({ op: z.literal('atLeast'), key, value: factValue }),
  z.object({ op: z.literal('range'), key, min: end, max: end }),
  z.object({ op: z.literal('in'), key, values: z.array(single) }),
]);

/** One condition of a request; a `not` holds a comparison. */
export const requestRule: z.ZodType<RequestRule> = z.union([
  comparison,
  z.object({ op: z.literal('not'), rule: comparison }),
]);
