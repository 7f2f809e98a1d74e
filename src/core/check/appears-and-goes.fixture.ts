import type { Stage } from '../../../demo/protected';
import type { LoadFacts } from '../performance/facts';
import { checkContext, findings } from './engine';
import type { Check, Finding } from './finding';

/** What makes a check's finding appear, and what lets it go. */
export type Cases = Record<string, { make: (at: Stage) => void; mend: (at: Stage) => void; sound?: () => Stage }>;

type Measure = (at: Stage) => LoadFacts;

export const found = (at: Stage, id: string, measure?: Measure): Finding[] =>
  findings(at.estate, checkContext(at.estate, at.now, undefined, measure && (() => measure(at)))).filter(
    (one) => one.check === id,
  );

/** Every check has a case; where all is sound it says nothing, and what it says comes and goes with its reason. */
export function appearAndGo(checks: readonly Check[], cases: Cases, sound: () => Stage, measure?: Measure): void {
  test('every check has a case', () => {
    expect(Object.keys(cases).sort()).toEqual(checks.map((check) => check.id).sort());
  });

  test.each(checks.map((check) => check.id))('%s appears and goes', (id) => {
    const { make, mend, sound: own = sound } = cases[id]!;
    const at = own();
    expect(found(at, id, measure)).toEqual([]);
    make(at);
    const now = found(at, id, measure);
    expect(now.length).toBeGreaterThan(0);
    for (const one of now) {
      expect(one.says).toMatch(/^[A-Z0-9a-z].*\.$/);
      expect(one.says).not.toMatch(/undefined|NaN|null/);
      expect(one.advice).toMatch(/\.$/);
    }
    mend(at);
    expect(found(at, id, measure)).toEqual([]);
  });
}
