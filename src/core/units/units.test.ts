import { dayText, momentText } from './date';
import fc from 'fast-check';
import { exactBytes, formatBytes, formatDecimalBytes, GIB, MAX_BYTES, parseBytes, percentUsed, TIB } from './bytes';
import { formatDuration, HOUR, MINUTE, SECOND } from './duration';
import { formatWait } from './figures';
import { formatRate, parseRate } from './rate';

const value = (text: string, rounding?: 'request' | 'promise') => {
  const result = parseBytes(text, rounding);
  return result.ok ? result.value : result.reason;
};

describe('sizes people write', () => {
  test.each([
    ['1.5 TiB', 1_649_267_441_664],
    ['500GiB', 500 * GIB],
    ['3.84 TB', 3_840_000_000_000],
    ['1 000 GB', 1e12],
    ['1_000 kB', 1e6],
    ['512 B', 512],
    ['20g', 'unit-unknown'],
    ['20G', 20 * GIB],
    ['', 'empty'],
    ['-1 GiB', 'negative'],
    ['1,5 TiB', 'decimal-comma'],
    ['1e3 GiB', 'exponent'],
    ['500', 'unit-missing'],
    ['5 bushels', 'unit-unknown'],
    ['five', 'not-a-size'],
    ['0 GiB', 'zero'],
    ['1.0000001 TiB', 'fraction-too-long'],
    ['8 PiB', 'too-large'],
    ['99999999999999999999 TiB', 'too-large'],
  ])('%p is %p', (text, expected) => expect(value(text)).toBe(expected));

  test('a fraction of a byte rounds up when asked for, down when promised', () => {
    expect(value('0.1 KiB')).toBe(103);
    expect(value('0.1 KiB', 'promise')).toBe(102);
  });

  test('a bare letter is binary and says so', () => {
    const result = parseBytes('20G');
    expect(result.ok && result.warnings).toEqual(['G is read as GiB: 20 GiB.']);
  });

  test('exact text reads back to the same bytes', () =>
    fc.assert(fc.property(fc.integer({ min: 1, max: MAX_BYTES }), (bytes) => value(exactBytes(bytes)) === bytes)));
});

describe('sizes shown', () => {
  test('free is cut off, used is rounded up', () => {
    expect(formatBytes(1.239 * TIB)).toBe('1.23 TiB');
    expect(formatBytes(1.231 * TIB, 'used')).toBe('1.24 TiB');
    expect(formatDecimalBytes(3_840_755_982_336)).toBe('3.84 TB');
    expect(formatBytes(500)).toBe('500 B');
    expect([formatBytes(TIB + 1), formatBytes(TIB + 1, 'used')]).toEqual(['1 TiB', '1.01 TiB']);
    expect([formatBytes(TIB - 1), formatBytes(TIB - 1, 'used')]).toEqual(['1\u2009023.99 GiB', '1\u2009024 GiB']);
    expect([formatBytes(12.5), formatBytes(12.5, 'used')]).toEqual(['12 B', '13 B']);
    expect(formatBytes(MAX_BYTES)).toBe('7.99 PiB');
  });
  test('100 % only when nothing is left', () => {
    expect(percentUsed(999_999, 1_000_000)).toBe(99);
    expect(percentUsed(1_000_000, 1_000_000)).toBe(100);
    expect(percentUsed(1, 1000)).toBe(1);
    expect(percentUsed(24, 10)).toBe(240);
    expect(percentUsed(TIB + 1, 100 * TIB)).toBe(2);
    expect(percentUsed(7 * TIB, 100 * TIB)).toBe(7);
  });
});

test('durations have two units at most and round up', () => {
  expect(formatDuration(4 * SECOND)).toBe('4 s');
  expect(formatDuration(140 * SECOND)).toBe('2 min 20 s');
  expect(formatDuration(18 * HOUR + 31 * MINUTE)).toBe('18 h 31 min');
  expect(formatDuration(76 * HOUR)).toBe('3 d 4 h');
  expect(formatDuration(1)).toBe('1 s');
});

test('rates', () => {
  expect(parseRate('32 MiB/s')).toMatchObject({ ok: true, value: 32 * 2 ** 20 });
  expect(parseRate('0')).toMatchObject({ ok: true, value: 0 });
  expect(parseRate('32 MiB')).toMatchObject({ ok: false, reason: 'unit-missing' });
  expect(formatRate(32 * 2 ** 20)).toBe('32 MiB/s');
});

test('moments are as wide for each day, days along an axis are short', () => {
  const at = Date.UTC(2031, 8, 3, 6, 5, 9);
  expect([momentText(at), momentText(at, true), dayText(at)]).toEqual([
    'Wed 03 Sep 06:05',
    'Wed 03 Sep 06:05:09',
    '3 Sep',
  ]);
});

test('a wait is told in two figures, and what rounds to a second as one', () => {
  expect([0, 4e-6, 0.000417, 0.0185, 0.994, 0.9951, 0.9999, 1.34].map(formatWait)).toEqual([
    '0 ms',
    '< 0.01 ms',
    '0.42 ms',
    '19 ms',
    '990 ms',
    '1 s',
    '1 s',
    '1.3 s',
  ]);
});
