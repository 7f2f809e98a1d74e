import { whole, type InParts } from '../units/in-parts';
import type { EstateView } from '../estate/estate';
import { noFacts, type LoadFacts } from '../performance/facts';
import type { Sample } from '../space/forecast';
import { poolWaterfall, type PoolWaterfall } from '../space/waterfall';
import type { Milliseconds } from '../units/duration';
import { attachChecks } from './attach';
import { attachFacts, type AttachFacts } from './attach/context';
import { COMPONENT_DOWN, componentDown, hangings } from './causes';
import { driveChecks } from './drive-checks';
import { findingKey, severities, type Check, type CheckContext, type Finding, type StuckChange } from './finding';
import { groupChecks } from './group-checks';
import { drillChecks } from './drill-checks';
import { changeChecks } from './change-checks';
import { classChecks } from './class-checks';
import { moveChecks } from './move-checks';
import { loadChecks } from './load-checks';
import { tierChecks } from './tier-checks';
import { mirrorChecks } from './mirror-checks';
import { partnerChecks } from './partner-checks';
import { poolChecks } from './pool-checks';
import { protectChecks } from './protect-checks';
import { replicateChecks } from './replicate-checks';
import { stretchChecks } from './stretch-checks';
import { volumeChecks } from './volume-checks';

/** Every check there is. */
export const checks: readonly Check[] = [
  componentDown,
  ...driveChecks,
  ...groupChecks,
  ...poolChecks,
  ...volumeChecks,
  ...protectChecks,
  ...replicateChecks,
  ...partnerChecks,
  ...mirrorChecks,
  ...stretchChecks,
  ...drillChecks,
  ...loadChecks,
  ...classChecks,
  ...moveChecks,
  ...changeChecks,
  ...tierChecks,
  ...attachChecks,
];

/** Checks whose findings may come from something that is down; the others look at figures that an outage does not move. */
const mayHang: readonly Check[] = [...driveChecks, ...groupChecks, ...attachChecks];

/** What checks may know: the time, a pool's past, and waterfalls that are worked out once. */
export function checkContext(
  view: EstateView,
  now: Milliseconds,
  series: (pool: string) => readonly Sample[] = () => [],
  load: () => LoadFacts = () => noFacts,
  stuck: readonly StuckChange[] = [],
): CheckContext {
  const falls = new Map<string, PoolWaterfall>();
  const past = new Map<string, readonly Sample[]>();
  let attach: AttachFacts | null = null;
  let measured: LoadFacts | null = null;
  return {
    now,
    attach: () => (attach ??= attachFacts(view)),
    load: () => (measured ??= load()),
    stuck,
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

/** Rows that are looked at in one go. */
const ROWS_A_PART = 16;

export interface MutedFinding extends Finding {
  /** Why and until when it is not shown, or null. */
  muted: { id: string; reason: string; until: Milliseconds } | null;
  /** What is down and has this finding hang on it, by its id and name; null where it stands for itself. */
  because: { id: string; name: string } | null;
}

/** What is wrong or risky now, the worst first; muted ones are marked while their time lasts. */
export const findings = (view: EstateView, context: CheckContext): MutedFinding[] =>
  whole(findingsInParts(view, context));

/** The same check by check, for those who must not wait for all at once. */
export function* findingsInParts(view: EstateView, context: CheckContext): InParts<MutedFinding[]> {
  const found: MutedFinding[] = [];
  let rows = 0;
  yield* context.attach().prepare();
  for (const [k, check] of checks.entries()) {
    for (const one of check.find(view, context)) {
      if (one === null) {
        if (++rows % ROWS_A_PART === 0) yield;
        continue;
      }
      const finding = { check: check.id, severity: check.severity, ...one };
      const mute = view
        .table('mute')
        .by('check', check.id)
        .find((row) => row.subject === one.subject.id && row.until > context.now);
      found.push({
        ...finding,
        muted: mute ? { id: mute.id, reason: mute.reason, until: mute.until } : null,
        because: null,
      });
    }
    yield { done: k + 1, of: checks.length };
  }
  yield* hangOnCauses(view, context, found);
  const keyed = found.map((finding) => ({
    finding,
    rank: severities.indexOf(finding.severity),
    key: findingKey(finding),
  }));
  keyed.sort((a, b) => a.rank - b.rank || (a.key < b.key ? -1 : Number(a.key > b.key)));
  return keyed.map(({ finding }) => finding);
}

/** Tells each finding what it hangs on, and each cause how much hangs on it. */
function* hangOnCauses(view: EstateView, context: CheckContext, found: MutedFinding[]): InParts<void> {
  const because = yield* hangings(view, found, findingKey, function* (repaired): InParts<ReadonlySet<string>> {
    const keys = new Set<string>();
    const then = checkContext(repaired, context.now, context.series, context.load, context.stuck);
    yield* then.attach().prepare();
    for (const check of mayHang) {
      for (const one of check.find(repaired, then))
        if (one === null) yield undefined;
        else keys.add(findingKey({ check: check.id, subject: one.subject }));
      yield undefined;
    }
    return keys;
  });
  const able = new Set(mayHang.map((check) => check.id));
  for (const finding of found) {
    const cause = able.has(finding.check) ? because.get(findingKey(finding)) : undefined;
    if (cause) finding.because = { id: cause.id, name: cause.name };
  }
  for (const cause of found) {
    if (cause.check !== COMPONENT_DOWN) continue;
    const hanging = found.filter((one) => one.because?.id === cause.subject.id);
    if (hanging.length === 0) continue;
    cause.says = `${cause.says.slice(0, -1)}: ${hanging.length} ${hanging.length === 1 ? 'finding hangs' : 'findings hang'} on it.`;
    if (hanging.some((one) => one.severity === 'error')) cause.severity = 'error';
  }
}
