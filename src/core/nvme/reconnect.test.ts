import fc from 'fast-check';
import { connectionsOf, reconnectCourse, reconnectedAt, reconnectWords } from './reconnect';

const usual = { keepAlive: 5_000, reconnectDelay: 10_000, lossTime: 600_000 };

test('the usual course: noticed, tried sixty times, removed', () =>
  expect(reconnectCourse(usual)).toEqual({ noticed: 5_000, firstTry: 15_000, tries: 60, removed: 605_000 }));

test.each([
  [4_000, 4_000],
  [5_000, 5_000],
  [6_000, 15_000],
  [15_000, 15_000],
  [15_001, 25_000],
  [604_000, 605_000],
  [606_000, null],
])('what answers again after %d ms is in use after %p', (back, at) => expect(reconnectedAt(usual, back)).toBe(at));

test('without keep-alive nothing is noticed; a loss time of 0 gives nothing up; one below the delay tries never', () => {
  expect(reconnectedAt({ ...usual, keepAlive: 0 }, 1)).toBeNull();
  expect(reconnectCourse({ ...usual, lossTime: 0 })).toMatchObject({ tries: Infinity, removed: null });
  expect(reconnectedAt({ ...usual, lossTime: 0 }, 1e9)).toBe(1_000_005_000);
  expect(reconnectCourse({ ...usual, lossTime: 9_000 })).toMatchObject({ tries: 0, firstTry: null, removed: 14_000 });
  expect(reconnectedAt({ ...usual, lossTime: 9_000 }, 8_000)).toBeNull();
  expect(reconnectedAt({ ...usual, reconnectDelay: 0 }, 7_000)).toBe(7_000);
});

test('the words say the same', () => {
  expect(reconnectWords(usual)).toBe('Noticed after 5 s, tried again every 10 s, given up after 605 s.');
  expect(reconnectWords({ ...usual, keepAlive: 0 })).toContain('never noticed');
  expect(reconnectWords({ ...usual, lossTime: 1 })).toContain('given up before it is tried again');
  expect(reconnectWords({ ...usual, lossTime: 0 })).toContain('never given up');
});

test('never in use before it is back, nor after it was removed', () =>
  fc.assert(
    fc.property(
      fc.nat(20_000),
      fc.nat(30_000),
      fc.nat(100_000),
      fc.nat(200_000),
      (keepAlive, reconnectDelay, lossTime, back) => {
        const settings = { keepAlive, reconnectDelay, lossTime };
        const at = reconnectedAt(settings, back);
        const { removed } = reconnectCourse(settings);
        if (at === null) return;
        expect(at).toBeGreaterThanOrEqual(back);
        if (removed !== null && back > keepAlive) expect(at).toBeLessThanOrEqual(removed);
      },
    ),
  ));

test('one connection for administration, and one a queue', () =>
  expect([connectionsOf(8, 64), connectionsOf(8, 4), connectionsOf(0, 4)]).toEqual([9, 5, 2]));
