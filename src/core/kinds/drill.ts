import { z } from 'zod';
import { count, id, instant, name } from './fields';
import { kind, type RowOf } from './kind';

/** What one thing took in a drill, milliseconds. */
export const drillTask = z.object({ what: z.string(), took: z.number().min(0) });

/** One replication as it came back in a drill. */
export const drillPart = z.object({
  /** Its id, and its name then: the drill is remembered longer than it may stand. */
  replication: z.string(),
  name: z.string(),
  tier: count,
  /** The moment to which it came back, and how far that was behind. */
  pit: instant,
  lag: z.number().min(0),
  /** Within which it was to be back, milliseconds; null where nothing is promised. */
  goal: z.number().nullable(),
  tasks: z.array(drillTask),
  /** What was found on each volume. */
  found: z.array(z.object({ volume: z.string(), good: z.boolean(), says: z.string() })),
});
export type DrillPart = z.infer<typeof drillPart>;

/** A failover that was rehearsed on volumes made of images, at a host that works with none of it, while copying went on. */
export const drillKind = kind({
  words: ['drill', 'drills'],
  prefix: 'drill',
  path: 'drills',
  row: z.object({
    id,
    name,
    /** The host at which it was rehearsed, by its name. */
    host: z.string(),
    site: z.string(),
    startedAt: instant,
    /** Null while its volumes stand. */
    endedAt: instant.nullable().default(null),
    /** How long noticing and deciding were reckoned to take, and how many were at work at once. */
    detect: z.number().min(0),
    decide: z.number().min(0),
    hands: count.min(1),
    parts: z.array(drillPart).min(1),
    /** What each tier took, and all of it, milliseconds. */
    tiers: z.array(z.number().min(0)),
    total: z.number().min(0),
    /** Volumes and copies made for it, as long as it runs. */
    clones: z.array(id).default([]),
    copies: z.array(id).default([]),
  }),
  named: '',
  indexes: { running: (row) => (row.endedAt === null ? [''] : []) },
  searched: {},
});
export type Drill = RowOf<typeof drillKind>;
