import fc from 'fast-check';
import { civilOf, dateText, daysOf, parseDate, timeText } from './date';
import { DAY } from './duration';
import { formatChance, formatCount, formatPercent } from './figures';

describe('figures', () => {
  test.each([
    [0, '0'],
    [2.637, '2.64'],
    [322.4, '322'],
    [4567, '4570'],
    [14_432, '14.4\u2009k'],
    [1_234_000, '1.23\u2009M'],
  ])('%f is written %s', (value, text) => expect(formatCount(value)).toBe(text));
  test.each([
    [0, 'none'],
    [1e-12, 'under 1 in a billion'],
    [6.09e-6, '1 in 160\u2009000'],
    [1 / 82e6, '1 in 82 million'],
    [0.02393, '1 in 41'],
    [0.42, '42 %'],
  ])('a chance of %f is %s', (chance, text) => expect(formatChance(chance)).toBe(text));
  test('per cent is rounded up or down, and never full while something is left', () => {
    expect(formatPercent(0.1234)).toBe('12.4\u2009%');
    expect(formatPercent(0.1234, 'down')).toBe('12.3\u2009%');
    expect(formatPercent(0.99999)).toBe('99.9\u2009%');
    expect(formatPercent(1)).toBe('100\u2009%');
  });
});

describe('dates', () => {
  test('days and dates turn into each other over four centuries', () =>
    fc.assert(
      fc.property(fc.integer({ min: -80_000, max: 80_000 }), (days) => {
        const { year, month, day } = civilOf(days);
        expect(daysOf(year, month, day)).toBe(days);
        expect(month).toBeGreaterThanOrEqual(1);
        expect(month).toBeLessThanOrEqual(12);
        expect(
          new Date(days * DAY)
            .toISOString()
            .slice(0, 10)
            .endsWith(dateText(days * DAY).slice(-5)),
        ).toBe(true);
      }),
    ));
  test('the morning of the lab', () => {
    expect(dateText(1_933_912_800_000)).toBe('2031-04-14');
    expect(timeText(1_933_912_800_000 + 90_000)).toBe('2031-04-14 06:01');
  });
  test.each(['2031-02-29', '2031-13-01', '31.5.2031', '', '2031-5-1'])('%s is no date', (text) =>
    expect(parseDate(text)).toMatchObject({ ok: false, reason: 'date-unreadable' }),
  );
  test('a leap day is one', () => expect(parseDate('2032-02-29')).toMatchObject({ ok: true }));
});
