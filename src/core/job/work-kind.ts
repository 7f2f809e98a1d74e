import type { Effect } from '../estate/effects';
import type { Job, Kind, RaidGroup } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import type { Milliseconds } from '../units/duration';

export type NewId = (kind: Kind) => string;

/** What came of work that fell due; `said` is null for a batch on the way. */
export interface WorkDone {
  effects: Effect[];
  said: string | null;
}

/**
 * One kind of work that takes time. The scheduler lets it fall due at its end, or batch by batch where it moves things as it goes; what it
 * does then, how it is called and whether it may be stopped stand here and nowhere else.
 */
export interface WorkKind {
  /** Stable, kebab-case; it stands in databases and files. */
  name: string;
  words: {
    /** What a group, pool or volume is at, in a sentence of its own: `it is being scrubbed`. */
    busy: string;
    /** What is said of it behind its name: `is being scrubbed`. */
    tells: string;
    /** What is stopped, where stopping harms nothing: `scrubbing`. Without it the work makes data safe and must go on. */
    stop?: string;
    /** How it is called beside its share done on a narrow strip: `scrubbed`. */
    share: string;
  };
  /** In how many batches it moves things; once, at its end, unless said. */
  batches?: number;
  /**
   * Bytes a second at which it goes on beside hosts, looked at hour by hour; `busy` is how busy they keep a group, 0 to 1. Without it hosts do not
   * slow it.
   */
  pace?: (view: EstateView, job: Job, busy: (group: RaidGroup) => number) => number;
  /** What it does when it falls due. The job itself is among what it takes away at its end. */
  fallsDue: (view: EstateView, job: Job, now: Milliseconds, newId: NewId) => WorkDone;
  /** What its stop sets right, beside the job's own end. */
  stopped?: (view: EstateView, job: Job) => Effect[];
}
