import { z } from 'zod';
import { count, id, instant, name } from './fields';
import { goesWith, kind, to, type RowOf } from './kind';
import { carriedVolume } from './replication';

/** Where a move stands (move.md A). */
export const moveStates = [
  'planned',
  'ready',
  'copying',
  'waiting',
  'cutting',
  'proving',
  'cleaning',
  'done',
  'aborted',
] as const;
export type MoveState = (typeof moveStates)[number];

/** A round under way: what the volume showed when it began, and how much of what it carries is over. */
export const moveRound = z.object({
  pit: instant,
  /** Bytes it carries. */
  wire: z.number().min(0),
  /** Of them so many were over at `asOf`, the rest goes at `rate`; nothing before `from`. */
  sent: z.number().min(0),
  asOf: instant,
  from: instant,
  rate: z.number().min(0),
  volume: carriedVolume,
});
export type MoveRound = z.infer<typeof moveRound>;

/** A volume that goes to another pool while hosts work with it, or went there. */
export const moveKind = kind({
  words: ['move', 'moves'],
  prefix: 'move',
  path: 'moves',
  row: z.object({
    id,
    name,
    volume: id,
    /** The volume in the other pool: what is copied to, and after the cut what is left behind. Null before it starts and when it is over. */
    twin: id.nullable().default(null),
    fromPool: id,
    toPool: id,
    /** The line between both sites; null within one. */
    link: id.nullable().default(null),
    /** Whether hosts go on with the same device, or look again and find another one. */
    identity: z.enum(['kept', 'new']).default('kept'),
    wavePlan: id.nullable().default(null),
    /** Moves under one such name are cut over together; empty for one by itself. */
    together: z.string().max(64).default(''),
    /** Moves whose copy must be whole before this one starts. */
    waitsFor: z.array(id).max(200).default([]),
    weight: z.number().positive().max(1000).default(1),
    /** Most bytes a second that it takes. */
    cap: z.number().positive().nullable().default(null),
    /** Most that hosts wait at the cut, milliseconds. */
    pauseMax: z.number().min(1).max(600_000).default(4000),
    /** Round after round, or every new write to both sides. */
    mode: z.enum(['rounds', 'mirror']).default('rounds'),
    /** Copies in time may stay behind with the old copy; what does not go along is accepted. */
    leaves: z.boolean().default(false),
    state: z.enum(moveStates).default('ready'),
    /** A person holds it; what is copied stays. */
    held: z.boolean().default(false),
    round: moveRound.nullable().default(null),
    /** Whether anything of its round gets over now. */
    flows: z.boolean().default(false),
    /** The rounds that are over, the last ones: bytes, milliseconds, and when each was over. */
    rounds: z
      .array(z.object({ bytes: z.number().min(0), took: z.number().min(0), at: instant }))
      .max(24)
      .default([]),
    /** Rounds of its copy that are over, all of them, and how many in a row left nearly as much as they copied. */
    done: count.default(0),
    stalls: count.default(0),
    /** Why a person is asked though it still copies. */
    asks: z.enum(['', 'not-converging', 'round-limit']).default(''),
    /** What the twin holds is of then; while it keeps in step, a delta follows every `every` milliseconds. */
    pit: instant.nullable().default(null),
    every: z.number().min(0).default(0),
    /** When its next turn is due: a round, the end of the cut, the end of proving or of cleaning. */
    nextAt: instant.nullable().default(null),
    /** How long hosts waited at the cut, milliseconds. */
    pause: z.number().min(0).nullable().default(null),
    /** It went back: the way leads to where the volume lay first. */
    turned: z.boolean().default(false),
    /** Days after which what was left behind is erased though nobody said so; 0 for when somebody does. */
    proveDays: count.max(365).default(7),
    /** When its copy was to be whole by the plan it was made with. */
    plannedAt: instant.nullable().default(null),
    startedAt: instant.nullable().default(null),
    /** When its copy was whole for the first time, and when it was cut over last. */
    wholeAt: instant.nullable().default(null),
    cutAt: instant.nullable().default(null),
    since: instant,
    reason: z.string().default(''),
    notes: z.string().default(''),
    log: z
      .array(z.object({ at: instant, says: z.string() }))
      .max(60)
      .default([]),
  }),
  refers: {
    volume: goesWith('volume'),
    twin: to('volume', { by: 'twin' }),
    fromPool: goesWith('pool'),
    toPool: goesWith('pool'),
    link: to('siteLink'),
    wavePlan: goesWith('wavePlan'),
  },
  named: '',
  indexes: {
    /** Those that are not over. */
    open: (row) => (row.state === 'done' || row.state === 'aborted' ? [] : ['']),
    /** Of a volume that goes now. */
    going: (row) => (row.state === 'done' || row.state === 'aborted' ? [] : [row.volume]),
    /** Hosts of this volume wait for the cut. */
    cutting: (row) => (row.state === 'cutting' ? [row.volume] : []),
  },
  searched: {},
});
export type Move = RowOf<typeof moveKind>;
