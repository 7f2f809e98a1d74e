import type { PathEventLine } from '@/core/trace/host-view';
import { outageBefore, timelineOf } from './timeline';

const event = (at: number, to: string, before: string, after: string): PathEventLine => ({
  at,
  array: 'lintel-1',
  from: 'hba0',
  to,
  before,
  after,
  reason: '',
  noticedAfter: 0,
});

test('states follow each other without a gap, from a little before the first event until now', () => {
  const line = timelineOf(
    [event(300_000, 'a0', 'down', 'optimized'), event(100_000, 'a0', 'optimized', 'down')],
    500_000,
  )!;
  expect(line.to).toBe(500_000);
  expect(line.from).toBeLessThan(100_000);
  expect(line.rows).toEqual([
    {
      path: 'hba0 to lintel-1 a0',
      spans: [
        { from: line.from, to: 100_000, state: 'optimized' },
        { from: 100_000, to: 300_000, state: 'down' },
        { from: 300_000, to: 500_000, state: 'optimized' },
      ],
    },
  ]);
});

test('each path has its row; nothing happened, nothing is drawn', () => {
  expect(timelineOf([event(1, 'b0', 'optimized', 'down'), event(1, 'a0', 'optimized', 'down')], 2)!.rows).toHaveLength(
    2,
  );
  expect(timelineOf([], 10)).toBeNull();
});

test('how long a path was down is told where it comes back', () => {
  const of = (at: number, before: string, after: string, to = 'a4') =>
    ({ at, array: 'lintel-1', from: 'eth0', to, before, after, reason: '', noticedAfter: 0 }) as never;
  const events = [
    of(900, 'down', 'optimized'),
    of(500, 'optimized', 'down', 'b4'),
    of(300, 'optimized', 'down'),
    of(100, 'down', 'optimized'),
  ];
  expect(events.map((_, k) => outageBefore(events, k))).toEqual([600, null, null, null]);
});
