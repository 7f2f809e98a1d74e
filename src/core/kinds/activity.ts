import { z } from 'zod';
import { bytes } from './fields';

export const activityKinds = ['database', 'log', 'machines', 'files', 'mail', 'archive'] as const;
/** How the hours of a week differ. */
export const weekShapes = ['even', 'office', 'harbour', 'night'] as const;

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
  week: z.enum(weekShapes),
  /** How long a burst lasts, and how many come in an hour; what is left out is usual (core/performance). */
  burstSeconds: z.number().min(5).max(3600).optional(),
  burstsAnHour: z.number().min(0).max(60).optional(),
});
export type ActivityProfile = z.infer<typeof activityProfile>;
export type ActivityKind = (typeof activityKinds)[number];
export type WeekShape = (typeof weekShapes)[number];
