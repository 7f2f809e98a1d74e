import { loadRunway } from './load-runway';

const days = (slope: number, level = 0.2) =>
  Array.from({ length: 30 }, (_, k) => ({ day: 100 + k, used: level + slope * k }));

test('what grows is used up when the mean has grown by what its worst hour has left', () => {
  // 0.226 on the mean of the last week; the worst hour has half its limit left, so it may double: from 0.229 on a hair less than 0.223 more at 0.001 a day.
  expect(loadRunway({ worst: 0.35, room: 0.5 }, days(0.001))).toBe('222 days');
  expect(loadRunway({ worst: 0.35, room: 0.5 }, days(0))).toBe('does not grow');
  expect(loadRunway({ worst: 0.35, room: 0.5 }, days(-0.001))).toBe('is falling');
});

test('what is past its limit is used up; what nobody asks never is; a day is no trend', () => {
  expect(loadRunway({ worst: 0.8, room: -0.1 }, days(0.001))).toBe('used up');
  expect(loadRunway({ worst: 0, room: 1 }, days(0.001))).toBe('never asked');
  expect(loadRunway({ worst: 0.3, room: 0.5 }, [{ day: 1, used: 0.1 }])).toBe('too few days');
  expect(loadRunway({ worst: 0.3, room: 0.5 }, [])).toBe('too few days');
  expect(loadRunway({ worst: 0.3, room: 0.5 }, days(0, 0))).toBe('never asked');
});
