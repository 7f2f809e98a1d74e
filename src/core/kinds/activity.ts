import { z } from 'zod';
import { parseWeek } from '../units/week';
import { bytes } from './fields';

export const activityKinds = ['database', 'log', 'machines', 'files', 'mail', 'archive'] as const;
/** How the hours of a week usually differ. */
export const weekShapes = ['even', 'office', 'harbour', 'night'] as const;
export type NamedWeek = (typeof weekShapes)[number];
/** One of the usual shapes, or hours of its own as `formatWeek` writes them. */
export type WeekShape = string;

export const isNamedWeek = (week: WeekShape): week is NamedWeek => (weekShapes as readonly string[]).includes(week);
const isWeek = (week: WeekShape): boolean => isNamedWeek(week) || parseWeek(week).ok;

/**
 * What hosts read and rewrite on a volume, on the average of a week; new data comes from what their file systems add. Rates are I/O a second;
 * shares run from 0 to 1.
 */
export const activityProfile = z.object({
  kind: z.enum(activityKinds),
  reads: z.number().min(0).max(10_000_000).describe('Reads a second'),
  writes: z.number().min(0).max(10_000_000).describe('Writes a second that go over what is there'),
  ioBytes: bytes.min(512).describe('Size of one read or write'),
  pattern: z.enum(['random', 'sequential']),
  /** Of what is written, the share that is touched at all. */
  workingSet: z.number().min(0).max(1),
  /** Of the working set, the share that is touched most, and the share of the writes that go there. */
  hot: z.number().min(0).max(1),
  hotShare: z.number().min(0).max(1),
  /** The peak of a second over the average of its hour. */
  burst: z.number().min(1).max(1000),
  week: z.string().max(8000).refine(isWeek, 'neither a shape nor hours of the week'),
  /** How long a burst lasts, and how many come in an hour; what is left out is usual (core/performance). */
  burstSeconds: z.number().min(5).max(3600).optional(),
  burstsAnHour: z.number().min(0).max(60).optional(),
});
export type ActivityProfile = z.infer<typeof activityProfile>;
export type ActivityKind = (typeof activityKinds)[number];
