import fc from 'fast-check';
import { CLEARED_AFTER, looksAt, RAISED_AFTER, standsAtLast } from './looks';
import { emptyRow } from './row';

const marks = (text: string): boolean[] => [...text].map((one) => one === 'x');

test.each([
  // Three in a row are one look of a quarter of an hour; it takes two of them.
  ['xxx', false],
  ['xxxx', true],
  ['.xxxx', true],
  ['xx.xx.xx.xx', false],
  // It goes with the third look at which it did not hold.
  ['xxxx.', true],
  ['xxxx..', true],
  ['xxxx...', false],
  ['xxxx..xxx', false],
  ['xxxx.xxxx', true],
  ['', false],
])('%s stands: %s', (text, stands) => expect(standsAtLast(marks(text), 3)).toBe(stands));

test('what holds always is found, what never holds is not, and one look neither raises nor clears', () =>
  fc.assert(
    fc.property(fc.array(fc.boolean(), { maxLength: 20 }), fc.integer({ min: 1, max: 4 }), (before, span) => {
      const always = Array.from({ length: span + RAISED_AFTER - 1 }, () => true);
      const never = Array.from({ length: CLEARED_AFTER }, () => false);
      expect(standsAtLast([...before, ...always], span)).toBe(true);
      expect(standsAtLast([...before, ...always, false], span)).toBe(true);
      expect(standsAtLast([...before, ...always, ...never], span)).toBe(false);
      expect(standsAtLast([...before, ...always, ...never, true], span)).toBe(false);
    }),
  ));

test('a look tells rates, and whether a limit held it', () => {
  const row = { ...emptyRow(), slots: 60, served: 3000, refused: 600 };
  expect(looksAt([row])).toEqual([{ iops: 10, unserved: 2, p95S: 0, limited: false }]);
  expect(looksAt([{ ...row, held: 1600 }])[0]!.limited).toBe(true);
  expect(looksAt([emptyRow()])[0]).toEqual({ iops: 0, unserved: 0, p95S: 0, limited: false });
});
