import type { Milliseconds } from '../units/duration';
import { parsed, type Parsed } from '../units/parsed';
import { refuse } from './refusal';

/** What becomes of runs that fell into a time when nobody could do them. */
export const catchUpPolicies = ['skip', 'latest', 'all'] as const;
export type CatchUpPolicy = (typeof catchUpPolicies)[number];

export interface CaughtUp {
  run: { scheduledFor: Milliseconds; at: Milliseconds }[];
  /** Late ones that are not run, ascending. */
  missed: Milliseconds[];
}

/**
 * Which late runs are done when work is possible again: late is what was due in [downFrom, upAt), young what is no older than `grace`
 * (protect.md A). One due at `upAt` itself is not late. Reasons: schedule-catchup-policy.
 */
export function catchUp({
  due,
  downFrom,
  upAt,
  policy,
  grace,
}: {
  due: readonly Milliseconds[];
  downFrom: Milliseconds;
  upAt: Milliseconds;
  policy: CatchUpPolicy;
  grace: Milliseconds;
}): Parsed<CaughtUp> {
  if (!catchUpPolicies.includes(policy)) return refuse('schedule-catchup-policy');
  const late = due.filter((at) => at >= downFrom && at < upAt).sort((a, b) => a - b);
  const young = late.filter((at) => upAt - at <= grace);
  const chosen: Record<CatchUpPolicy, readonly Milliseconds[]> = { skip: [], latest: young.slice(-1), all: young };
  const run = chosen[policy];
  return parsed({
    run: run.map((scheduledFor) => ({ scheduledFor, at: upAt })),
    missed: late.filter((at) => !run.includes(at)),
  });
}
