import fc from 'fast-check';
import { byHeat } from './by-heat';

const byComparing = (heat: readonly number[]) => [...heat.keys()].sort((a, b) => heat[b]! - heat[a]! || a - b);

test('few and many extents are sorted alike: the hottest first, ties by place', () =>
  fc.assert(
    fc.property(
      fc.array(
        fc.oneof(
          fc.double({ noNaN: true, min: -1e300, max: 1e300 }),
          fc.constantFrom(0, -0, 1, 1.5, 5e-324, Number.MAX_VALUE, Infinity),
        ),
        { minLength: 1, maxLength: 60 },
      ),
      (some) => {
        const few = some.slice();
        expect([...byHeat(few)]).toEqual(byComparing(few));
        // So many that digits are taken; each stands there many times.
        const many = Array.from({ length: 5000 }, (_, k) => some[(k * 7) % some.length]! * (k % 3 === 0 ? 1 : 0.5));
        expect([...byHeat(many)]).toEqual(byComparing(many));
      },
    ),
    { numRuns: 40 },
  ));
