import { TIB } from '../units/bytes';
import type { Forecast } from './forecast';
import { suppose } from './what-if';

const pool = { size: 10 * TIB, used: 6 * TIB, data: 6 * TIB, nonZero: 9 * TIB, marks: [70, 90] };
const series = Array.from({ length: 61 }, (_, day) => ({ day, bytes: (3 + day * 0.05) * TIB }));
const as = (given: Partial<Parameters<typeof suppose>[2]>) =>
  suppose(pool, series, { added: 0, growth: 0, ratio: null, ...given });
const days = (answer: unknown) => (answer as Forecast).days;

test('nothing supposed is what is', () => {
  const { size, used, marks } = as({});
  expect({ size, used }).toEqual({ size: 10 * TIB, used: 6 * TIB });
  expect(marks.map((mark) => [mark.percent, days(mark.answer)])).toEqual([
    [70, 20],
    [90, 60],
    [100, 80],
  ]);
});
test('more room moves the marks out', () => {
  const { size, marks } = as({ added: 10 * TIB });
  expect(size).toBe(20 * TIB);
  expect(days(marks[0]!.answer)).toBe(160);
});
test('faster growth brings them near, none keeps them away', () => {
  expect(days(as({ growth: 1 }).marks[0]!.answer)).toBe(10);
  expect(days(as({ growth: -1 }).marks[0]!.answer)).toBeNull();
});
test('a worse reduction fills the pool', () => {
  const { used, marks } = as({ ratio: 1 });
  expect(used).toBe(9 * TIB);
  expect(days(marks[1]!.answer)).toBe(0);
  expect(as({ ratio: 3 }).used).toBe(3 * TIB);
});
