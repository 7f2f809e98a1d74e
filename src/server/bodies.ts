import { z } from 'zod';
import { contentProfile } from '@/core/estate/entities';
import { MOST_OPERATIONS } from '@/core/change/plan';
import { operationDocument } from '@/core/change/registry';
import { faultKinds } from '@/core/lab/fault-kinds';
import { weekdays } from '@/core/schedule/rule';

/** What requests may carry. */
export const operationsBody = z
  .array(operationDocument)
  .max(MOST_OPERATIONS, `${MOST_OPERATIONS} operations are the most of a change; make several`);
export const changeBody = z.strictObject({
  trabes: z.literal(1).optional(),
  title: z.string().trim().min(1, 'give the change a title').max(200),
  operations: operationsBody.min(1, 'name at least one operation'),
});
export const reviseBody = z.strictObject({
  title: z.string().trim().min(1).max(200).optional(),
  operations: operationsBody.optional(),
});
const person = z.string().trim().min(1, 'say who').max(80);
const hourOfDay = z.number().int().min(0).max(23).nullable().default(null);
export const approveBody = z.strictObject({
  approvedBy: person.describe('Who says that it may run'),
  second: z.boolean().default(false).describe('Whether somebody else must approve it too before it begins'),
  startAt: z.number().min(0).nullable().default(null).describe('Lab milliseconds before which it does not begin'),
  begins: z
    .string()
    .max(200)
    .default('')
    .describe(
      'A day or a rhythm instead, of which its next time counts: 2031-05-02 22:30, SU 02:00, month 1 22:00, or a rule',
    ),
  zone: z.string().max(60).default('UTC').describe('The clock by which it begins'),
  fromHour: hourOfDay.describe('Hour of the day (UTC) from which steps may begin; null for always'),
  untilHour: hourOfDay,
  days: z.array(z.enum(weekdays)).max(7).default([]).describe('Days on which a window begins; none for every day'),
  onFailure: z.enum(['stop', 'undo']).default('undo').describe('Stop where it stands, or take back what was done'),
  confirm: z.array(z.number().int().min(0)).max(200).default([]).describe('Operations before which a person is asked'),
  waits: z
    .number()
    .min(60_000)
    .max(30 * 86_400_000)
    .default(12 * 3_600_000)
    .describe('Milliseconds for which an answer is waited for; then it counts as no'),
  mail: z.string().max(120).default('').describe('Who is written to'),
});
export const secondBody = z.strictObject({
  by: person,
  plan: z.string().max(64).describe('Digest of the plan that was looked at, as `run.approval.plan` has it'),
});
export const answerBody = z.strictObject({
  by: person,
  yes: z.boolean(),
  seen: z.array(z.string()).max(20_000).default([]).describe('Titles of the steps ahead, as they were looked at'),
});
export const previewBody = z.strictObject({ operations: operationsBody });
export const formBody = z.strictObject({
  do: z.string(),
  /** Parameters as far as they are filled in. */
  params: z.record(z.string(), z.unknown()),
  /** How the reader looks at it: asked for consequences alone, no part of the operation. */
  lens: z.record(z.string(), z.unknown()).optional(),
  /** The draft on which the operation would be added. */
  change: z.string().nullable().optional(),
  /** The draft's operation that is being revised: only those before it count. */
  before: z.number().int().min(0).optional(),
});
export const trayBody = z.strictObject({ change: z.string().nullable() });
export const clockBody = z.strictObject({
  speed: z.union([z.literal(0), z.literal(1), z.literal(60), z.literal(600)], {
    error: 'the speed is 0, 1, 60 or 600',
  }),
});
export const advanceBody = z.strictObject({
  seconds: z
    .number()
    .positive('let at least a moment pass')
    .max(366 * 86_400, 'let at most a year pass at once'),
});
export const faultBody = z.strictObject({
  kind: z.enum(faultKinds),
  component: z.string(),
  clear: z.boolean().default(false),
});
export const loginTestBody = z.strictObject({
  host: z.string(),
  array: z.string(),
  target: z.string().optional().describe('Its alias; without it the array’s main target'),
});
export const trafficBody = z.strictObject({ host: z.string(), device: z.string(), rate: z.string() });
export const deleteFilesBody = z.strictObject({ host: z.string(), device: z.string(), size: z.string() });
export const fileBody = z.strictObject({
  host: z.string(),
  device: z.string(),
  path: z.string().trim().min(1, 'name the file').max(255),
  do: z.enum(['write', 'delete']),
  size: z.string().optional(),
});
export const ioBody = z.strictObject({
  host: z.string(),
  device: z.string(),
  kind: z.enum(['read', 'write']),
  at: z.string(),
  size: z.string(),
});
export const contentBody = z.strictObject({ array: z.string(), volume: z.string(), content: contentProfile });
export const stockBody = z.strictObject({ what: z.enum(['demo', 'bare']) });
