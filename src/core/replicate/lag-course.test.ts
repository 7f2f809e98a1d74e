import fc from 'fast-check';
import { DAY, HOUR, MINUTE } from '../units/duration';
import { CYCLES_KEPT } from './choices';
import { forgottenCycles, LAG_KEPT, lagCourse } from './lag-course';

const cycle = (k: number, every = 5 * MINUTE, took = MINUTE) => ({
  id: `cyc_${k}`,
  startedAt: k * every,
  finishedAt: k * every + took,
  lagBefore: every,
  lagAfter: took,
  result: 'done' as const,
});

test('a day of cycles stays whole; older ones are thinned to one an hour, the worst, and are gone after 30 days', () => {
  let kept: ReturnType<typeof cycle>[] = [];
  const all = (40 * DAY) / (5 * MINUTE);
  for (let k = 0; k < all; k++) {
    const one = cycle(k, 5 * MINUTE, k % 12 === 7 ? 4 * MINUTE : MINUTE);
    const going = new Set(forgottenCycles(kept, one.finishedAt).map(({ id }) => id));
    kept = [...kept.filter(({ id }) => !going.has(id)), one];
  }
  const now = kept.at(-1)!.finishedAt;
  expect(kept.length).toBeLessThanOrEqual(CYCLES_KEPT + LAG_KEPT / HOUR + 61);
  expect(now - kept[0]!.finishedAt).toBeLessThanOrEqual(LAG_KEPT + 6 * HOUR);
  expect(now - kept[0]!.finishedAt).toBeGreaterThan(LAG_KEPT - 2 * HOUR);
  const old = kept.slice(0, -CYCLES_KEPT - 61);
  expect(new Set(old.map(({ finishedAt }) => Math.floor(finishedAt / HOUR))).size).toBe(old.length);
  // Of each hour the one before which it was furthest behind.
  expect(old.slice(1).every(({ startedAt, finishedAt }) => finishedAt - startedAt === 4 * MINUTE)).toBe(true);
});

test('failed cycles are not remembered for longer than the newest', () => {
  const failed = Array.from({ length: CYCLES_KEPT + 60 }, (_, k) => ({ ...cycle(k), result: 'failed' as const }));
  expect(forgottenCycles(failed, failed.at(-1)!.finishedAt)).toHaveLength(61);
  expect(forgottenCycles(failed.slice(0, 10), DAY)).toEqual([]);
});

test('the course shows the highest and the lowest of each stretch, and ends now', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 1, max: 20 }), { minLength: 1, maxLength: 400 }), (minutes) => {
      const cycles = minutes.map((took, k) => cycle(k, 30 * MINUTE, took * MINUTE));
      const now = cycles.at(-1)!.finishedAt + MINUTE;
      const points = lagCourse(cycles, { from: 0, now, lag: MINUTE, buckets: 50 });
      expect(points.length).toBeLessThanOrEqual(102);
      expect(points.at(-1)!.at).toBe(now);
      const peaks = cycles.map((one) => one.lagBefore + one.finishedAt - one.startedAt);
      expect(Math.max(...points.map(({ lag }) => lag))).toBe(Math.max(...peaks));
      expect(points.every(({ at }, k) => k === 0 || at >= points[k - 1]!.at)).toBe(true);
    }),
  );
});
