import type { Milliseconds } from '../units/duration';
import type { SimulatedFigures } from '../qos/simulate';
import type { QueueOf } from './as-queue';
import type { Variant } from './had-been';
import type { LimitFigures } from './limit-fields';
import type { LimitWeek } from './limit-week';
import type { ResourceRoom } from './room';
import type { LimitProposal } from './solve-limit';
import type { LoadSummary } from './top';
import type { LoadDifference } from './what-if';
import type { Why } from './why';

/** How far back is looked, seconds. */
export const spans = [600, 3600, 86_400, 604_800, 2_592_000] as const;
export type SpanSeconds = (typeof spans)[number];
export const spanWords: Record<SpanSeconds, string> = {
  600: '10 min',
  3600: '1 h',
  86_400: '24 h',
  604_800: '7 d',
  2_592_000: '30 d',
};

export type LoadKind = 'volume' | 'workload' | 'pool' | 'array' | 'host';

/** A figure that needs somebody, and where to look. */
export interface Attention {
  says: string;
  /** What it is about, with the moment at which it was worst. */
  of: string;
  at: Milliseconds | null;
  severe: boolean;
  /** Others that it struck at the same moment. */
  others: { id: string; name: string }[];
}

export interface ResourceSummary {
  id: string;
  name: string;
  kind: string;
  array: string | null;
  rho: number;
  mostRho: number;
  mostRhoAt: Milliseconds;
  limit: number;
}

export interface FleetAnswer {
  now: Milliseconds;
  from: Milliseconds;
  to: Milliseconds;
  attention: Attention[];
  sums: { volumes: number; iops: number; bytesPerS: number; unserved: number; usedBytes: number; sizeBytes: number };
  subjects: Record<LoadKind, LoadSummary[]>;
  resources: ResourceSummary[];
}

/** A point of a chart: rates a second, times in seconds. */
export interface LoadPoint {
  at: Milliseconds;
  seconds: number;
  asked: number;
  iops: number;
  mostIops: number;
  held: number;
  unserved: number;
  bytesPerS: number;
  latencyS: number | null;
  mostLatencyS: number;
  mostLatencyAt: Milliseconds;
  p50S: number | null;
  p95S: number | null;
  p99S: number | null;
}

/** Something else that happened then. */
export interface Beside {
  at: Milliseconds;
  says: string;
  problem: boolean;
}

export interface SubjectLoad {
  id: string;
  kind: LoadKind;
  name: string;
  array: string | null;
  arrayName: string | null;
  from: Milliseconds;
  to: Milliseconds;
  points: LoadPoint[];
  /** Means of whole hours, which hide what is short. */
  hours: { at: Milliseconds; iops: number; latencyS: number | null }[];
  /** Limits that hold it back: its own first. */
  limits: { id: string; name: string; array: string; figures: LimitFigures; iops: number | null; shared: boolean }[];
  volumes: LoadSummary[];
  /** The moments at which it waited longest, with what happened beside. */
  spikes: { at: Milliseconds; latencyS: number; iops: number; beside: Beside[] }[];
  /** Hours in which it did not behave as in its own week. */
  unusual: { at: Milliseconds; says: string }[];
}

export interface WhyAnswer extends Why {
  overlap: Record<string, number>;
}

/** What is asked of a span, had a volume been limited otherwise. */
export interface EffectQuestion {
  volume: string;
  neighbour: string | null;
  /** The limit that these would take the place of. */
  replaces: string | null;
  seconds: number;
  until: Milliseconds | null;
  variants: Variant[];
}

/** What had been, had limits been otherwise. */
export interface EffectAnswer {
  from: Milliseconds;
  to: Milliseconds;
  slots: number;
  /** By variant: the limited volume and its neighbours. */
  variants: {
    label: string;
    heldSlots: number;
    lateS: number;
    worst: Record<string, number>;
    p95: Record<string, number>;
    busiest: { name: string; rho: number } | null;
    points: LoadPoint[];
    neighbourPoints: LoadPoint[];
  }[];
  volumes: { id: string; name: string }[];
  neighbour: { id: string; name: string } | null;
  /** By hour of the week, of the first variant. */
  week: LimitWeek | null;
}

export interface ProposalAnswer {
  at: Milliseconds;
  x: string;
  y: string;
  proposal: LimitProposal;
  /** The same I/O by I/O at the resource where Y waits: its 95th percentile there as it was, and with the limit. */
  simulated: { resource: string; ios: number; seed: number; wasS: number; p95S: number } | null;
}
export interface QueueQuestion {
  x: string;
  y: string;
  iops: number;
  at: Milliseconds;
}
export interface QueueAnswer extends QueueOf {
  names: Record<string, string>;
}
export interface SimulateQuestion {
  /** Whom a limit holds back, and to what; null for none. */
  x: string | null;
  iops: number | null;
  y: string;
  at: Milliseconds;
  ios: number;
  seed: number;
  /** The text of a trace; null for arrivals by profile. */
  trace: string | null;
}
export interface SimulationAnswer {
  resource: string;
  closed: QueueOf['closed'];
  seed: number;
  /** Seconds of the simulated time. */
  seconds: number;
  tookMs: number;
  volumes: (SimulatedFigures & { name: string })[];
  /** I/Os that were taken from the trace by volume, names that stand for none, lines that cannot be read. */
  trace: {
    taken: Record<string, number>;
    strange: Record<string, number>;
    problems: { line: number; message: string; mend: string }[];
  } | null;
}
/** What would be otherwise, and which of it is a guess: resources that were never measured nearly as busy. */
export type WhatIfAnswer = LoadDifference & { guesses: { id: string; message: string }[] };
export interface RoomAnswer {
  array: string;
  /** With when it is used up, in words. */
  rooms: (ResourceRoom & { usedUp: string })[];
}

/** A limit with its volumes; `held` is the share of what they did in the last day that waited for some limit. */
export interface LimitRow {
  id: string;
  name: string;
  array: string;
  says: string;
  volumes: string[];
  held: number;
  notes: string;
}

/** What can be tried in a question about load. */
export interface LoadThings {
  controllers: { id: string; name: string }[];
  workloads: { id: string; name: string }[];
  volumes: { id: string; name: string; array: string }[];
  pools: { id: string; name: string; array: string }[];
}
