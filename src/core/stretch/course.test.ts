import fc from 'fast-check';
import { advanced, beginning, nextMoment, type Happening, type Seen } from './course';
import { decisionOf, stretchedDecide } from './decide';
import { promiseBroken } from './explore';
import { parts, siteNames, type Part, type SiteName } from './state';

const all: Seen = { A: true, B: true, W: true, AB: true, AW: true, BW: true };
const without = (...down: Part[]): Seen => ({ ...all, ...Object.fromEntries(down.map((part) => [part, false])) });
const around = (seen: Seen, refreshed = false) => ({ seen, roundTrip: { A: 12, B: 12 }, refreshed });

/** Lets time pass with what is seen, from moment to moment as a clock would. */
function passed(course: ReturnType<typeof beginning>, seen: Seen, from: number, until: number, refreshed = false) {
  let now = from;
  let one = course;
  const happened: Happening[] = [];
  const look = () => {
    const step = advanced(one, around(seen, refreshed), now);
    one = step.course;
    happened.push(...step.happened);
  };
  look();
  for (let next = nextMoment(one, around(seen, refreshed), now); next !== null && next <= until;) {
    now = next;
    look();
    const after = nextMoment(one, around(seen, refreshed), now);
    next = after === null ? null : Math.max(after, now + 1);
  }
  now = until;
  look();
  return { course: one, happened };
}
const ruleAt = (happened: readonly Happening[], rule: string, site?: SiteName): number | undefined =>
  happened.find((one) => 'turn' in one && one.turn.rule === rule && (site === undefined || one.turn.site === site))?.at;

test('the preferred site goes on 3 s after both have lost each other, as the trace of the reference has it; the other is denied', () => {
  const { course, happened } = passed(beginning('A', null), without('AB'), 0, 30_000);
  expect(ruleAt(happened, 'T1', 'A')).toBe(3000);
  expect(ruleAt(happened, 'T2', 'A')).toBe(3000);
  expect(ruleAt(happened, 'T3', 'A')).toBe(3030);
  expect(ruleAt(happened, 'T2', 'B')).toBe(5000);
  expect(decisionOf(course.pair)).toMatchObject({ A: 'SOLO', B: 'HOLD', why: { B: 'peer-owns' }, witnessOwner: 'A' });
  expect(course.expired).toEqual({ A: false, B: true });
});

test('the other site waits two seconds more, and its paths say so only after 25 s of silence', () => {
  const lost = passed(beginning('A', null), without('A'), 0, 10_000);
  expect(ruleAt(lost.happened, 'T3', 'B')).toBe(5012);
  expect(decisionOf(lost.course.pair)).toMatchObject({ A: 'DOWN', B: 'SOLO' });
  const both = beginning('A', null);
  const early = passed(both, without('AB', 'W'), 0, 27_000).course;
  expect(early.expired).toEqual({ A: false, B: false });
  expect(passed(both, without('AB', 'W'), 0, 28_001).course.expired).toEqual({ A: true, B: true });
});

test('a short interruption is no parting', () => {
  const cut = passed(beginning('A', null), without('AB'), 0, 2500).course;
  const back = passed(cut, all, 2600, 10_000);
  expect(back.happened.filter((one) => 'turn' in one)).toEqual([]);
  expect(decisionOf(back.course.pair)).toMatchObject({ A: 'BOTH', B: 'BOTH' });
  expect(back.course.partedAt).toBeNull();
});

test('both agree to do without a witness that neither has seen for 20 s, and ask it again once it is back', () => {
  const blind = passed(beginning('A', null), without('W'), 0, 19_999).course;
  expect(decisionOf(blind.pair).arbitration).toEqual({ A: 'witness', B: 'witness' });
  const agreed = passed(blind, without('W'), 20_000, 25_000);
  expect(decisionOf(agreed.course.pair).arbitration).toEqual({ A: 'preferred', B: 'preferred' });
  const again = passed(agreed.course, all, 30_000, 31_000);
  expect(decisionOf(again.course.pair).arbitration).toEqual({ A: 'witness', B: 'witness' });
});

test('a second leg serves only when it equals its owner', () => {
  const begun = passed(beginning('A', 'A'), all, 0, 60_000);
  expect(decisionOf(begun.course.pair)).toMatchObject({ A: 'SOLO', B: 'STALE', serving: ['A'] });
  const whole = passed(begun.course, all, 60_000, 60_000, true);
  expect(decisionOf(whole.course.pair)).toMatchObject({ A: 'BOTH', B: 'BOTH', witnessOwner: 'both' });
});

const events = fc.array(
  fc.record({
    part: fc.constantFrom(...parts),
    up: fc.boolean(),
    after: fc.integer({ min: 0, max: 40_000 }),
    refreshed: fc.boolean(),
  }),
  { maxLength: 12 },
);

test('in time, too, no promise is broken, whatever fails when; all repaired, both serve', () => {
  fc.assert(
    fc.property(fc.constantFrom(...siteNames), events, (preferred, list) => {
      let seen = all;
      let now = 0;
      let course = beginning(preferred, null);
      const check = ({ course: after, happened }: ReturnType<typeof passed>) => {
        for (const one of happened) if ('turn' in one) expect(promiseBroken(one.before, one.turn)).toBeNull();
        course = after;
      };
      for (const { part, up, after, refreshed } of list) {
        seen = { ...seen, [part]: up };
        check(passed(course, seen, now, now + after, refreshed));
        now += after;
      }
      check(passed(course, all, now, now + 60_000, true));
      expect(decisionOf(course.pair)).toMatchObject({ A: 'BOTH', B: 'BOTH', serving: ['A', 'B'] });
    }),
    { numRuns: 300 },
  );
});

test('what time leaves after failures that came to rest is what the decision says', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(...siteNames),
      fc.array(fc.constantFrom(...parts), { maxLength: 3 }),
      (preferred, list) => {
        let course = beginning(preferred, null);
        let seen = all;
        let now = 0;
        for (const part of list) {
          seen = { ...seen, [part]: false };
          course = passed(course, seen, now, now + 60_000, true).course;
          now += 60_000;
        }
        const decided = stretchedDecide({ preferred, events: list.map((part) => ({ fail: [part] })) });
        expect(decided.ok && decided.value).toEqual(decisionOf(course.pair));
      },
    ),
    { numRuns: 300 },
  );
});

test('a moment that has passed is not looked at again: nothing happens twice', () => {
  const { course } = passed(beginning('B', null), without('B'), 0, 30_000);
  const again = advanced(course, around(without('B')), 30_000);
  expect(again.happened).toEqual([]);
  expect(again.course).toEqual(course);
  expect(nextMoment(course, around(without('B')), 30_000)).toBeNull();
});
