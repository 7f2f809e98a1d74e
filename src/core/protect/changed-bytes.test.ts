import fc from 'fast-check';
import { hotCold, timeToDirty, uniqueChanged, type WriteClass } from './changed-bytes';

const GB = 1e9;
const GIB = 2 ** 30;
const random: WriteClass = {
  kind: 'random',
  bytesPerS: 6e6,
  ioBytes: 16 * 1024,
  alignBytes: 4096,
  extentBytes: 256 * 1024,
  workingSetBytes: 50 * GIB,
};
const sequential: WriteClass = { ...random, kind: 'sequential', bytesPerS: 2e6, workingSetBytes: GB };
const touched = (classes: WriteClass[], intervalS: number) => {
  const found = uniqueChanged({ classes, intervalS });
  return found.ok ? found.value.bytes : found.reason;
};

test('small scattered writes touch many extents', () => {
  expect(Number(touched([random], 600)) / GB).toBeCloseTo(36.23, 2);
  expect(Number(touched([random, sequential], 600)) / GB).toBeCloseTo(37.23, 2);
  expect(Number(touched([{ ...random, extentBytes: 64 * 1024 }], 600)) / GB).toBeCloseTo(14.64, 2);
  expect(touched([{ ...random, kind: 'linear' }], 600)).toBe(3.6 * GB);
});

test('a hot part is soon exhausted', () => {
  const { kind: _kind, ...all } = random;
  const found = hotCold({ ...all, hotFraction: 0.1, hotShare: 0.8, intervalS: 600 });
  if (!found.ok) throw new Error(found.message);
  const { hotBytes, coldBytes, bytes } = found.value;
  expect([hotBytes, coldBytes, bytes].map((one) => Number((one / GB).toFixed(2)))).toEqual([5.37, 10.67, 16.04]);
});

test('a plan of four six-hourly and three daily copies of tickets', () => {
  const tickets: WriteClass = {
    kind: 'random',
    bytesPerS: 0.2e6,
    ioBytes: 8192,
    alignBytes: 4096,
    extentBytes: 65_536,
    workingSetBytes: 300 * GIB,
  };
  const six = Number(touched([tickets], 6 * 3600));
  const day = Number(touched([tickets], 24 * 3600));
  expect([six / GB, day / GB].map((one) => one.toFixed(1))).toEqual(['34.7', '118.0']);
  expect((4 * six + 3 * day) / GB).toBeCloseTo(492.7, 1);
});

test('how long until so much is touched, or never', () => {
  const seconds = (bytes: number, classes = [random]) => {
    const found = timeToDirty({ classes, bytes });
    return found.ok ? found.value.seconds : found.reason;
  };
  expect(seconds(20 * GIB)).toBeCloseTo(272.9, 1);
  expect(seconds(50 * GIB)).toBe('dirty-never');
  expect(seconds(GB, [sequential])).toBeCloseTo(500, 6);
  expect(seconds(GB + 1, [sequential])).toBe('dirty-never');
  expect(seconds(1e15, [{ ...random, kind: 'linear' }])).toBeCloseTo(1e15 / 6e6, 0);
  expect(seconds(1, [{ ...random, bytesPerS: 0 }])).toBe('dirty-never');
});

test('what cannot be reckoned with is refused', () => {
  expect(touched([{ ...random, kind: 'steady' as never }], 1)).toBe('writes-kind');
  expect(touched([{ ...random, workingSetBytes: 4096 }], 1)).toBe('writes-working-set-below-extent');
});

test('more time touches more, and never more than is there', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 1, max: 1e6 }), (a, b) => {
      const [less, more] = a < b ? [a, b] : [b, a];
      const [first, second] = [Number(touched([random], less)), Number(touched([random], more))];
      expect(first).toBeLessThanOrEqual(second);
      expect(second).toBeLessThanOrEqual(50 * GIB);
    }),
  );
});
