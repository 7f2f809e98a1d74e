import { z } from 'zod';
import { byteRuns, bytes, id, instant, name } from './fields';
import { fileImage, namedFile } from './file-image';
import { kind, to, type RowOf } from './kind';

/** What looking at a copy found: whether the right data stands on it. */
export const verdict = z.object({
  at: instant,
  good: z.boolean(),
  host: z.string(),
  /** How long the look took, milliseconds. */
  took: z.number().min(0),
  says: z.string(),
});
export type Verdict = z.infer<typeof verdict>;

/** A volume as it was at one moment. Those of several volumes that were cut at one instant bear one `cut`. */
export const snapshotKind = kind({
  words: ['snapshot', 'snapshots'],
  prefix: 'snap',
  path: 'snapshots',
  row: z.object({
    id,
    name,
    volume: id,
    /** Whose volumes were cut together; null for a volume by itself. */
    workload: id.nullable().default(null),
    cut: id,
    at: instant,
    /** By which plan, and the names of its schedules that asked for it; none for one made by hand. */
    plan: id.nullable().default(null),
    schedules: z.array(name).default([]),
    madeBy: z.string().default(''),
    notes: z.string().default(''),
    /** How good it is: the application was paused for it, or it is what a power cut would leave; and why it is no better. */
    label: z.enum(['application', 'crash']).default('crash'),
    reason: z.string().nullable().default(null),
    // What the volume was.
    size: bytes,
    written: bytes,
    holes: byteRuns.default([]),
    image: fileImage.nullable().default(null),
    files: z.array(namedFile).default([]),
    // What it shares: with the copy it comes from stands so much of each part of the bytes; see core/copies.
    parent: id.nullable().default(null),
    stands: z.array(z.number().min(0).max(1)).length(3).default([1, 1, 1]),
    /** Somebody can still read it. One that is deleted is remembered only while branches part there. */
    kept: z.boolean().default(true),
    /** Made by hand: until when it is kept; null for as long as nobody deletes it. */
    keepUntil: instant.nullable().default(null),
    lockedUntil: instant.nullable().default(null),
    lockMode: z.enum(['strict', 'dual']).default('strict'),
    /** Why somebody keeps it from being deleted; empty when nobody does. */
    hold: z.string().default(''),
    verdict: verdict.nullable().default(null),
  }),
  refers: {
    volume: to('volume'),
    workload: to('workload'),
    // There are few plans, and copies are asked for by what they are copies of.
    plan: to('plan', { by: null }),
    parent: to('snapshot'),
  },
  named: 'volume',
  searched: {},
});
export type Snapshot = RowOf<typeof snapshotKind>;
