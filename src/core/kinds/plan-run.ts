import { z } from 'zod';
import { count, id, instant, name } from './fields';
import { goesWith, kind, type RowOf } from './kind';

/** Why a run was missed that is made up for when its array answers again. */
export const SILENT = 'the array did not answer';

export const runResults = ['done', 'failed', 'missed'] as const;

/** A run of a plan for one workload, or for a volume that has a plan of its own. */
export const planRunKind = kind({
  words: ['run of a plan', 'runs of plans'],
  prefix: 'run',
  path: 'plan-runs',
  row: z.object({
    id,
    plan: id,
    workload: id.nullable().default(null),
    volume: id.nullable().default(null),
    schedules: z.array(name).default([]),
    /** When it was due, and when it was made. */
    dueAt: instant,
    at: instant,
    /** How long it took, milliseconds. */
    took: z.number().min(0).default(0),
    result: z.enum(runResults),
    label: z.enum(['application', 'crash']).nullable().default(null),
    /** Why it failed, was missed or is no better than its label. */
    reason: z.string().nullable().default(null),
    made: count.default(0),
    deleted: count.default(0),
    /** Copies that were past their time and could not be deleted. */
    heldBack: count.default(0),
  }),
  refers: {
    plan: goesWith('plan'),
    workload: goesWith('workload'),
    volume: goesWith('volume'),
  },
  indexes: {
    /** Missed, and made up for when the array answers again. */
    waiting: (run) => (run.result === 'missed' && run.reason === SILENT ? [''] : []),
  },
});
export type PlanRun = RowOf<typeof planRunKind>;
