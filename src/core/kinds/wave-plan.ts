import { z } from 'zod';
import { count, instant, name, id } from './fields';
import { weekdays } from '../schedule/rule';
import { kind, type RowOf } from './kind';

const hour = z.number().int().min(0).max(23).nullable().default(null);
/** Moves that go together: the windows within which they copy, and how many of them at once. */
export const wavePlanKind = kind({
  words: ['wave plan', 'wave plans'],
  prefix: 'wave',
  path: 'wave-plans',
  row: z.object({
    id,
    name,
    /** Hours of the day (UTC) between which its moves copy and may be cut over; null for always. */
    fromHour: hour,
    untilHour: hour,
    /** Days on which a window begins; empty for every day. */
    days: z.array(z.enum(weekdays)).max(7).default([]),
    /** So many of its moves at once on each array. */
    slots: count.min(1).max(64).default(2),
    /** Nothing of it copies, and nothing new begins. */
    held: z.boolean().default(false),
    notes: z.string().default(''),
    createdAt: instant.default(0),
  }),
  named: '',
  searched: {},
});
export type WavePlan = RowOf<typeof wavePlanKind>;
