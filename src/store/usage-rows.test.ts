import { DAY, HOUR } from '@/core/units/duration';
import { HOURS_KEPT_DAYS, readDays, readHours, readSeries, readSums } from './usage-rows';
import { Store } from './store';

let store: Store;
beforeEach(() => {
  store = new Store(':memory:');
});
afterEach(() => store.close());

const sample = (subject: string, at: number, used: number) => ({
  subject,
  at,
  size: 100,
  promised: 50,
  written: used,
  used,
});

test('hours roll up into days that keep the last figures and the most', () => {
  for (const [hour, used] of [
    [1, 10],
    [5, 40],
    [23, 25],
  ] as const)
    store.commit({ usage: [sample('pool_a', hour * HOUR, used)] });
  expect(readDays(store.db, ['pool_a'], 0)).toEqual([
    { subject: 'pool_a', day: 0, size: 100, promised: 50, written: 25, used: 25, most: 40 },
  ]);
  expect(readHours(store.db, 'pool_a', 0).map((row) => row.used)).toEqual([10, 40, 25]);
});

test('midnight belongs to the day that ends', () => {
  store.commit({ usage: [sample('pool_a', DAY, 7), sample('vol_b', DAY, 3)] });
  store.commit({ usage: [sample('pool_a', DAY + HOUR, 9)] });
  expect(readSeries(store.db, 'pool_a')).toEqual([
    { day: 0, bytes: 7 },
    { day: 1, bytes: 9 },
  ]);
});

test('hours are forgotten after two weeks, days never', () => {
  for (let day = 0; day <= HOURS_KEPT_DAYS + 3; day++)
    store.commit({ usage: [sample('pool_a', day * DAY + HOUR, day)] });
  expect(readHours(store.db, 'pool_a', 0)).toHaveLength(HOURS_KEPT_DAYS + 1);
  expect(readSeries(store.db, 'pool_a')).toHaveLength(HOURS_KEPT_DAYS + 4);
});

test('pools and volumes are summed apart', () => {
  store.commit({
    usage: [sample('pool_a', HOUR, 1), sample('pool_b', HOUR, 2), sample('vol_a', HOUR, 4), sample('vol_b', HOUR, 8)],
  });
  expect(readSums(store.db, 'pool_', 0)).toEqual([{ day: 0, size: 200, promised: 100, written: 3, used: 3, most: 3 }]);
  expect(readSums(store.db, 'vol_', 0)[0]!.used).toBe(12);
  expect(readSums(store.db, 'vol_', 1)).toEqual([]);
});
