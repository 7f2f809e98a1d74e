import { z } from 'zod';
import { count, instant } from './fields';

const siteName = z.enum(['A', 'B']);
const epoch = count.min(1);

/** One side of a stretched pair: what it keeps on its media, and what it loses with its power (protect.md L). */
const site = z.object({
  up: z.boolean(),
  mode: z.enum(['BOTH', 'SOLO', 'STALE']),
  epoch,
  arb: z.enum(['W', 'P']),
  alone: z.boolean(),
  phase: z.enum(['INIT', 'HOLD', 'RDY', 'RUN']),
  synced: z.boolean(),
  lease: z.boolean(),
  asked: z.object({ epoch, late: z.boolean() }).nullable(),
  granted: z.boolean(),
});

/** The pair as its protocol has it. A is the side P of its replication, B its side S, W the witness' register. */
export const stretchPair = z.object({
  preferred: siteName,
  A: site,
  B: site,
  W: z.object({ up: z.boolean(), epoch, owner: z.enum(['both', 'A', 'B']), told: epoch.nullable() }),
  AB: z.boolean(),
  AW: z.boolean(),
  BW: z.boolean(),
});

const ofSites = <T extends z.ZodType>(one: T) => z.object({ A: one, B: one });

/** A stretched pair in the course of time. */
export const stretchCourse = z.object({
  pair: stretchPair,
  /** Since when the sites do not see each other, and since when each does not see the witness; null while they do. */
  partedAt: instant.nullable(),
  sightlessAt: ofSites(instant.nullable()),
  /** When a question to the witness left, and since when a site answers nothing. */
  askedAt: ofSites(instant.nullable()),
  silentAt: ofSites(instant.nullable()),
  /** Silence has lasted so long that paths say so. */
  expired: ofSites(z.boolean()),
  /** Questions that were denied, and are asked again once something has changed. */
  denied: z.array(z.string()),
  /** What happened, the newest last. */
  history: z.array(z.object({ at: instant, says: z.string() })),
});
export type StretchCourse = z.infer<typeof stretchCourse>;
