import type { Stage } from '../../../demo/protected';
import { checkContext, findings } from './engine';
import type { Check, Finding } from './finding';

/** What makes a check's finding appear, and what lets it go. */
export type Cases = Record<string, { make: (at: Stage) => void; mend: (at: Stage) => void; sound?: () => Stage }>;

export const found = ({ estate, now }: Stage, id: string): Finding[] =>
  findings(estate, checkContext(estate, now)).filter((one) => one.check === id);

/** Every check has a case; where all is sound it says nothing, and what it says comes and goes with its reason. */
export function appearAndGo(checks: readonly Check[], cases: Cases, sound: () => Stage): void {
  test('every check has a case', () => {
    expect(Object.keys(cases).sort()).toEqual(checks.map((check) => check.id).sort());
  });

  test.each(checks.map((check) => check.id))('%s appears and goes', (id) => {
    const { make, mend, sound: own = sound } = cases[id]!;
    const at = own();
    expect(found(at, id)).toEqual([]);
    make(at);
    const now = found(at, id);
    expect(now.length).toBeGreaterThan(0);
    for (const one of now) {
      expect(one.says).toMatch(/^[A-Z0-9a-z].*\.$/);
      expect(one.says).not.toMatch(/undefined|NaN|null/);
      expect(one.advice).toMatch(/\.$/);
    }
    mend(at);
    expect(found(at, id)).toEqual([]);
  });
}
