import fc from 'fast-check';
import { HOUR } from './duration';
import { formatWeek, hourOfWeek, parseWeek } from './week';

const week = (text: string): number[] => {
  const found = parseWeek(text);
  if (!found.ok) throw new Error(found.reason);
  return found.value;
};

test('days and hours have what is named, the last where several name them, the others the rest', () => {
  const busy = week('Mon-Fri 07-18: 8, Sat: 2, fri 12: 0.5, else: 1');
  expect(busy).toHaveLength(168);
  expect([busy[6], busy[7], busy[17], busy[18]]).toEqual([1, 8, 8, 1]);
  expect([busy[4 * 24 + 11], busy[4 * 24 + 12], busy[4 * 24 + 13]]).toEqual([8, 0.5, 8]);
  expect(new Set(busy.slice(5 * 24, 6 * 24))).toEqual(new Set([2]));
  expect(new Set(busy.slice(6 * 24))).toEqual(new Set([1]));
});

test('over midnight, over the end of the week, every day', () => {
  const nights = week('22-05: 3');
  expect(nights.slice(0, 24).map((one) => one > 0)).toEqual(
    [...Array(24).keys()].map((hour) => hour < 5 || hour >= 22),
  );
  const end = week('Sat-Mon: 1');
  expect([0, 1, 5, 6].map((day) => end[day * 24])).toEqual([1, 0, 1, 1]);
});

test.each([
  ['', 'week-unclear'],
  ['Mon-Fri', 'week-unclear'],
  ['Mom 07-18: 8', 'week-unclear'],
  ['Mon 07-25: 8', 'week-unclear'],
  ['Mon 24: 8', 'week-unclear'],
  ['Mon 7-7: 1', 'week-unclear'],
  [': 4', 'week-unclear'],
  ['Mon: -1', 'week-unclear'],
  ['Mon: 1,', 'week-unclear'],
  ['-Fri: 1', 'week-unclear'],
  ['Mon: 0, else: 0', 'week-idle'],
])('%p cannot be read', (text, code) => {
  const found = parseWeek(text);
  expect(found.ok).toBe(false);
  if (!found.ok) expect(found.reason).toBe(code);
});

test('what is written reads as what it was, and alike where it is alike', () =>
  fc.assert(
    fc.property(fc.array(fc.constantFrom(0, 0.5, 1, 2, 8.25), { minLength: 168, maxLength: 168 }), (some) => {
      fc.pre(some.some((one) => one > 0));
      expect(week(formatWeek(some))).toEqual(some);
      expect(formatWeek(week(formatWeek(some)))).toBe(formatWeek(some));
    }),
  ));

test('a plain week is told in a plain way', () => {
  expect(formatWeek(week('Mon 07-18: 8, Tue-Fri 07-18: 8, else: 1'))).toBe('Mon-Fri 07-18: 8, else: 1');
  expect(formatWeek(week('else: 3'))).toBe('else: 3');
  expect(formatWeek(week('Sun: 1'))).toBe('Sun: 1');
});

test('1970 began on a Thursday', () => {
  expect(hourOfWeek(0)).toBe(72);
  expect(hourOfWeek(4 * 24 * HOUR)).toBe(0);
  expect(hourOfWeek(-1)).toBe(71);
});
