import { z } from 'zod';
import { id, name } from './fields';
import { kind, type RowOf } from './kind';
import { requestRule } from './request-rule';

/** What a class asks for its volumes beside their place: nothing, copies by a plan, or such of which the newest is locked. */
export const classCopies = ['none', 'planned', 'locked'] as const;

/** What a request can ask for by one name: rules over the facts of pools, and how long an I/O may take. */
export const serviceClassKind = kind({
  words: ['service class', 'service classes'],
  prefix: 'cls',
  path: 'service-classes',
  row: z.object({
    id,
    name,
    rules: z.array(requestRule).default([]),
    /** Within how many milliseconds 95 of 100 I/Os should be answered; null for no goal. */
    goalMs: z.number().positive().max(1e6).nullable().default(null),
    copies: z.enum(classCopies).default('none'),
    notes: z.string().default(''),
  }),
  named: '',
  searched: {},
});
export type ServiceClass = RowOf<typeof serviceClassKind>;
