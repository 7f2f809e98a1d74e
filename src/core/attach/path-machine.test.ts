import fc from 'fast-check';
import { failoverChoice, pathCourse, usualTimers, type PathAccess, type PathHappening } from './path-machine';

const SECOND = 1000;
/** Two fabrics, a controller's port in each: one optimized, one not, by either fabric. */
const four = [
  { id: 'a1', access: 'optimized' as const },
  { id: 'a2', access: 'non-optimized' as const },
  { id: 'b1', access: 'optimized' as const },
  { id: 'b2', access: 'non-optimized' as const },
];
const within = (until: number) => ({ from: 0, until });

test('paths stand by the access that the array tells: active, enabled, in wait; what it lost for good is failed', () => {
  const { standing, status, flow } = pathCourse(
    [
      ...four,
      { id: 'c1', access: 'standby' },
      { id: 'c2', access: 'unavailable' },
      { id: 'd1', access: 'transitioning' },
      { id: 'd2', access: 'offline' },
    ],
    [],
    within(1),
  );
  expect([...standing.values()]).toEqual([
    'active',
    'enabled',
    'active',
    'enabled',
    'standby',
    'standby',
    'standby',
    'failed',
  ]);
  expect(status).toBe('degraded');
  expect(flow).toEqual([{ at: 0, flow: 'flows' }]);
});

test('a lost path fails, is given up after the loss time, and comes back also then', () => {
  const course = pathCourse(
    four,
    [
      { at: 10 * SECOND, path: 'a1', what: 'lost' },
      { at: 700 * SECOND, path: 'a1', what: 'back' },
    ],
    within(800 * SECOND),
  );
  expect(course.turns).toEqual([
    { at: 10_000, path: 'a1', before: 'active', after: 'failed', why: 'the session ended' },
    { at: 610_000, path: 'a1', before: 'failed', after: 'removed', why: 'lost for 600 s' },
    { at: 700_000, path: 'a1', before: 'removed', after: 'active', why: 'logged in again' },
  ]);
  expect(course.status).toBe('healthy');
  const kept = pathCourse(four, [{ at: 1, path: 'a1', what: 'lost' }], {
    ...within(1e9),
    timers: { ...usualTimers, lossTime: 0 },
  });
  expect([kept.standing.get('a1'), kept.status]).toEqual(['failed', 'degraded']);
});

test('without any path I/O waits and then fails; it flows again with the first that is back', () => {
  const all = four.map(({ id }): PathHappening => ({ at: 5_000, path: id, what: 'lost' }));
  const back: PathHappening = { at: 100_000, path: 'b2', what: 'back' };
  expect(pathCourse(four, [...all, back], within(200_000)).flow).toEqual([
    { at: 0, flow: 'flows' },
    { at: 5_000, flow: 'waits' },
    { at: 65_000, flow: 'fails' },
    { at: 100_000, flow: 'flows' },
  ]);
  // Back within the wait: nothing failed.
  expect(pathCourse(four, [...all, { ...back, at: 64_999 }], within(200_000)).flow.map((one) => one.flow)).toEqual([
    'flows',
    'waits',
    'flows',
  ]);
  const impatient = { ...within(200_000), timers: { ...usualTimers, noPathWait: 0 } };
  expect(pathCourse(four, all, impatient).flow.at(-1)).toEqual({ at: 5_000, flow: 'fails' });
  expect(pathCourse(four, [...all, back], within(200_000)).status).toBe('non-optimized-only');
});

test('a transition that lasts too long fails; one that ends in time does not', () => {
  const begun: PathHappening = { at: 1_000, path: 'a1', what: 'access', access: 'transitioning' };
  expect(pathCourse(four, [begun], within(61_000)).turns.map((turn) => [turn.at, turn.after])).toEqual([
    [1_000, 'standby'],
    [61_000, 'failed'],
  ]);
  const ended: PathHappening = { at: 60_999, path: 'a1', what: 'access', access: 'non-optimized' };
  expect(pathCourse(four, [begun, ended], within(100_000)).standing.get('a1')).toBe('enabled');
});

test('so many checks in a row must fail; one that passes begins anew, or brings the path back after its hold-down', () => {
  const timers = { ...usualTimers, failedChecks: 3, holdDown: 20_000 };
  const check = (at: number, what: 'check-failed' | 'check-passed'): PathHappening => ({ at, path: 'a1', what });
  const three = [check(1, 'check-failed'), check(2, 'check-failed')];
  expect(pathCourse(four, three, { ...within(10), timers }).standing.get('a1')).toBe('active');
  expect(
    pathCourse(four, [...three, check(3, 'check-passed'), check(4, 'check-failed')], {
      ...within(10),
      timers,
    }).standing.get('a1'),
  ).toBe('active');
  const failed = [...three, check(3, 'check-failed'), check(1_000, 'check-passed')];
  expect(pathCourse(four, failed, { ...within(30_000), timers }).turns.map((turn) => [turn.at, turn.after])).toEqual([
    [3, 'failed'],
    [21_000, 'active'],
  ]);
  // Lost again while it is held down: it is not let back.
  const again: PathHappening[] = [...failed, { at: 2_000, path: 'a1', what: 'lost' }];
  expect(pathCourse(four, again, { ...within(30_000), timers }).standing.get('a1')).toBe('failed');
});

test('what the array shows no longer is gone at once, and only a login brings it back', () => {
  const gone: PathHappening[] = [
    { at: 1, path: 'a1', what: 'unmapped' },
    { at: 2, path: 'a1', what: 'access', access: 'optimized' },
  ];
  expect(pathCourse(four, gone, within(10)).standing.get('a1')).toBe('removed');
});

test('failover: the heaviest of the best, stays where it is, goes back only if told to', () => {
  const paths = [
    { id: 'a', standing: 'active' as const, weight: 1 },
    { id: 'b', standing: 'active' as const, weight: 9 },
    { id: 'c', standing: 'enabled' as const, weight: 200 },
  ];
  expect(failoverChoice(paths, null, true)).toBe('b');
  expect(failoverChoice(paths, 'a', true)).toBe('b');
  expect(failoverChoice(paths, 'a', false)).toBe('a');
  expect(failoverChoice(paths, 'c', false)).toBe('b');
  expect(failoverChoice(paths.slice(2), 'a', false)).toBe('c');
  expect(failoverChoice([{ id: 'd', standing: 'standby', weight: 1 }], null, true)).toBeNull();
  // Of equal weight it stays; a fresh choice takes the first by its id.
  const even = ['y', 'x'].map((id) => ({ id, standing: 'active' as const, weight: 5 }));
  expect([failoverChoice(even, 'y', true), failoverChoice(even, null, true)]).toEqual(['y', 'x']);
});

test('the course of failover names the path in use, over loss and return', () => {
  const heavy = [
    { id: 'a', access: 'optimized' as const, weight: 10 },
    { id: 'b', access: 'optimized' as const },
  ];
  const happenings: PathHappening[] = [
    { at: 10, path: 'a', what: 'lost' },
    { at: 20, path: 'a', what: 'back' },
  ];
  const uses = (failback: boolean) =>
    pathCourse(heavy, happenings, { ...within(100), selector: 'failover', failback }).uses.map((one) => one.path);
  expect(uses(true)).toEqual(['a', 'b', 'a']);
  expect(uses(false)).toEqual(['a', 'b']);
});

test('whatever happens: turns are in order of time, each begins where the last one ended, and I/O flows exactly while a path can be used', () => {
  const access = fc.constantFrom<PathAccess>(
    'optimized',
    'non-optimized',
    'standby',
    'unavailable',
    'offline',
    'transitioning',
  );
  const happening = fc.oneof(
    fc.record({
      gap: fc.nat(90_000),
      path: fc.constantFrom('a1', 'a2', 'b1', 'b2', 'none'),
      what: fc.constantFrom(
        'lost' as const,
        'back' as const,
        'check-failed' as const,
        'check-passed' as const,
        'unmapped' as const,
      ),
    }),
    fc.record({ gap: fc.nat(90_000), path: fc.constantFrom('a1', 'b2'), what: fc.constant('access' as const), access }),
  );
  fc.assert(
    fc.property(
      fc.array(happening, { maxLength: 30 }),
      fc.record({
        lossTime: fc.constantFrom(0, 50_000),
        noPathWait: fc.constantFrom(0, 60_000),
        transitionLimit: fc.constantFrom(0, 30_000),
        failedChecks: fc.constantFrom(1, 2),
        holdDown: fc.constantFrom(0, 10_000),
      }),
      (drawn, timers) => {
        let at = 0;
        const happenings = drawn.map(({ gap, ...one }) => ({ ...one, at: (at += gap) }));
        const course = pathCourse(four, happenings, { from: 0, until: at + 200_000, timers });
        const stood = new Map(pathCourse(four, [], within(0)).standing);
        let last = 0;
        for (const turn of course.turns) {
          expect(turn.at).toBeGreaterThanOrEqual(last);
          expect(stood.get(turn.path)).toBe(turn.before);
          expect(turn.after).not.toBe(turn.before);
          stood.set(turn.path, turn.after);
          last = turn.at;
        }
        expect(stood).toEqual(course.standing);
        const usable = [...course.standing.values()].some((one) => one === 'active' || one === 'enabled');
        expect(course.flow.at(-1)!.flow === 'flows').toBe(usable);
        expect(course.status === 'no-path').toBe(!usable);
        course.flow.forEach((one, k) => k > 0 && expect(one.flow).not.toBe(course.flow[k - 1]!.flow));
      },
    ),
  );
});
