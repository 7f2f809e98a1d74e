import { whole, type InParts } from '../units/in-parts';
import type { EstateView } from '../estate/estate';
import type { Sample } from '../space/forecast';
import { poolWaterfall, type PoolWaterfall } from '../space/waterfall';
import type { Milliseconds } from '../units/duration';
import { attachChecks } from './attach';
import { attachFacts, type AttachFacts } from './attach/context';
import { driveChecks } from './drive-checks';
import { findingKey, severities, type Check, type CheckContext, type Finding } from './finding';
import { groupChecks } from './group-checks';
import { poolChecks } from './pool-checks';
import { volumeChecks } from './volume-checks';

/** Every check there is. */
export const checks: readonly Check[] = [
  ...driveChecks,
  ...groupChecks,
  ...poolChecks,
  ...volumeChecks,
  ...attachChecks,
];

/** What checks may know: the time, a pool's past, and waterfalls that are worked out once. */
export function checkContext(
  view: EstateView,
  now: Milliseconds,
  series: (pool: string) => readonly Sample[] = () => [],
): CheckContext {
  const falls = new Map<string, PoolWaterfall>();
  const past = new Map<string, readonly Sample[]>();
  let attach: AttachFacts | null = null;
  return {
    now,
    attach: () => (attach ??= attachFacts(view)),
    series: (pool) => {
      let known = past.get(pool);
      if (!known) past.set(pool, (known = series(pool)));
      return known;
    },
    waterfall: (pool) => {
      let known = falls.get(pool);
      if (!known) falls.set(pool, (known = poolWaterfall(view, view.table('pool').get(pool)!)));
      return known;
    },
  };
}

export interface MutedFinding extends Finding {
  /** Why and until when it is not shown, or null. */
  muted: { id: string; reason: string; until: Milliseconds } | null;
}

/** What is wrong or risky now, the worst first; muted ones are marked while their time lasts. */
export const findings = (view: EstateView, context: CheckContext): MutedFinding[] =>
  whole(findingsInParts(view, context));

/** The same check by check, for those who must not wait for all at once. */
export function* findingsInParts(view: EstateView, context: CheckContext): InParts<MutedFinding[]> {
  const found: MutedFinding[] = [];
  for (const [k, check] of checks.entries()) {
    for (const one of check.find(view, context)) {
      const finding = { check: check.id, severity: check.severity, ...one };
      const mute = view
        .table('mute')
        .by('check', check.id)
        .find((row) => row.subject === one.subject.id && row.until > context.now);
      found.push({ ...finding, muted: mute ? { id: mute.id, reason: mute.reason, until: mute.until } : null });
    }
    yield { done: k + 1, of: checks.length };
  }
  const rank = (finding: Finding) => severities.indexOf(finding.severity);
  return found.sort(
    (a, b) => rank(a) - rank(b) || (findingKey(a) < findingKey(b) ? -1 : findingKey(a) > findingKey(b) ? 1 : 0),
  );
}
