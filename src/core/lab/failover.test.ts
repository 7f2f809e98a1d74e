import { basis, carryOut, codesOf, estateAfter, mounted, named } from '../../../demo/workbench';
import { mappingOf, pathFinder } from '../attach/paths';
import { deviceShares } from '../attach/selector';
import { contextFor } from '../change/plan';
import { changed } from '../estate/effects';
import type { Estate } from '../estate/estate';
import { deviceCourse } from '../trace/device-course';
import { pathEvents } from '../attach/path-events';
import { failovers } from './failover';
import { writeTraffic } from './traffic';

const newId = contextFor(basis, 7, 7).newId;
const one = { do: 'host-device.configure', host: 'gate-1', device: 'tickets-1' };
const hostOf = (estate: Estate) => named(estate, 'host', 'gate-1');
const deviceOf = (estate: Estate) =>
  estate.table('hostDevice').by('volume', named(estate, 'volume', 'tickets-1').id)[0]!;
const pathsOf = (estate: Estate) =>
  pathFinder(estate).paths(mappingOf(estate, hostOf(estate).id, deviceOf(estate).volume)!);
/** The path that carries the device's I/O, by names. */
const inUse = (estate: Estate): string => {
  const { found } = pathsOf(estate);
  const at = deviceShares(found, hostOf(estate), deviceOf(estate)).indexOf(1);
  const path = found[at];
  return path
    ? `${estate.table('interface').get(path.interface)!.name} ${estate.table('port').get(path.port)!.name}`
    : 'none';
};
const watch = (estate: Estate): string[] => {
  const { effects, said } = failovers(estate);
  estate.apply(effects);
  return said;
};
const portState = (estate: Estate, name: string, state: 'up' | 'down') => {
  const port = [...estate.table('port').values()].find(
    (row) => row.name === name && row.array === named(estate, 'array', 'lintel-1').id,
  )!;
  estate.apply([changed('port', port, { state })]);
};

describe('failover by weight', () => {
  const weighed = () => {
    const estate = estateAfter(mounted);
    const optimized = pathsOf(estate).found.filter((path) => path.state === 'optimized');
    const names = optimized.map((path) => [
      estate.table('interface').get(path.interface)!.name,
      estate.table('port').get(path.port)!.name,
    ]);
    const [light, heavy] = names as [string[], string[]];
    carryOut(estate, [{ ...one, selector: 'failover', weights: [`${heavy.join(' ')} 50`] }], 'weights');
    watch(estate);
    return { estate, light, heavy };
  };

  test('the heaviest of the best carries all; where it is lost another does, and it is gone back to', () => {
    const { estate, light, heavy } = weighed();
    expect(inUse(estate)).toBe(heavy.join(' '));
    portState(estate, heavy[1]!, 'down');
    expect(watch(estate)).toEqual([`gate-1 goes on by ${light.join(' to ')} for disk1`]);
    expect(inUse(estate)).toBe(light.join(' '));
    portState(estate, heavy[1]!, 'up');
    expect(watch(estate)).toEqual([`gate-1 goes on by ${heavy.join(' to ')} for disk1`]);
  });

  test('without failback it stays where it is, and where nothing is left it remembers', () => {
    const { estate, light, heavy } = weighed();
    carryOut(estate, [{ do: 'host.configure', host: 'gate-1', failback: false }], 'stay');
    portState(estate, heavy[1]!, 'down');
    watch(estate);
    portState(estate, heavy[1]!, 'up');
    expect(watch(estate)).toEqual([]);
    expect(inUse(estate)).toBe(light.join(' '));
    for (const { port } of pathsOf(estate).found)
      estate.apply([changed('port', estate.table('port').get(port)!, { state: 'down' })]);
    expect(watch(estate)).toEqual([]);
    expect(inUse(estate)).toBe('none');
    expect(deviceOf(estate).current).not.toBeNull();
  });

  test('lines that are no path, no weight or twice the same are refused', () => {
    const { estate, heavy } = weighed();
    const codes = (...weights: string[]) => codesOf(estate, { ...one, weights });
    expect(codes('eth0')).toEqual(['weight-unreadable']);
    expect(codes(`${heavy.join(' ')} 256`)).toEqual(['weight-unreadable']);
    expect(codes('eth9 a4 5')).toEqual(['path-unknown']);
    expect(codes(`${heavy.join(' ')} 5`, `${heavy.join(' ')} 6`)).toEqual(['weight-twice']);
    expect(codes(`${heavy.join(' ')} 255`)).toEqual([]);
    expect(codes()).toEqual([]);
  });
});

describe('writing without a path', () => {
  test('waits, goes on where a path returns in time, and else leaves the file system read-only', () => {
    const estate = estateAfter(mounted);
    const cut = (state: 'up' | 'down') =>
      [...estate.table('interface').by('host', hostOf(estate).id)].forEach((row) =>
        estate.apply([changed('interface', row, { state })]),
      );
    const write = (now: number) => {
      const { effects, said } = writeTraffic(estate, 30_000, now, newId);
      estate.apply(effects);
      return said;
    };
    estate.apply([changed('hostDevice', deviceOf(estate), { writeRate: 4096 })]);
    cut('down');
    expect(write(30_000)).toEqual([]);
    expect(deviceOf(estate)).toMatchObject({ noPathSince: 0, writeRate: 4096, readOnly: false });
    cut('up');
    write(60_000);
    expect(deviceOf(estate)).toMatchObject({ noPathSince: null, writeRate: 4096 });
    cut('down');
    expect(write(90_000)).toEqual([]);
    expect(write(120_000)).toEqual(['gate-1 cannot write on to /srv/tickets: no path led to tickets-1 for 1 min']);
    expect(deviceOf(estate)).toMatchObject({ noPathSince: null, writeRate: 0, readOnly: true });
  });
});

describe('what a host makes of its paths', () => {
  test('follows what happened and the timers: failed, given up, and I/O that waits and then fails', () => {
    const before = estateAfter(mounted);
    const after = estateAfter(mounted);
    for (const row of after.table('interface').by('host', hostOf(after).id))
      after.apply([changed('interface', row, { state: 'down' })]);
    const lostAt = 1_000_000;
    const events = pathEvents(before, after, lostAt);
    expect(events).toHaveLength(4);
    const at = (now: number) => {
      const course = deviceCourse(
        hostOf(after),
        deviceOf(after),
        named(after, 'array', 'lintel-1').id,
        pathsOf(after),
        { events, now },
      );
      return { ...course.of(events[0]!), ...course.io };
    };
    expect(at(lostAt + 1_000)).toEqual({
      standing: 'failed',
      since: lostAt,
      removedAt: lostAt + 600_000,
      at: lostAt,
      flow: 'waits',
      failsAt: lostAt + 60_000,
    });
    expect(at(lostAt + 60_000)).toMatchObject({ flow: 'fails', at: lostAt + 60_000, failsAt: null });
    expect(at(lostAt + 600_000)).toMatchObject({ standing: 'removed', since: lostAt + 600_000, removedAt: null });
  });

  test('what is not noticed yet has not happened, and what was never there was not lost', () => {
    const before = estateAfter(mounted);
    const after = estateAfter(mounted);
    const port = pathsOf(before).found[0]!.port;
    after.apply([changed('port', after.table('port').get(port)!, { state: 'down' })]);
    const events = pathEvents(before, after, 0);
    const course = (now: number, past = events) =>
      deviceCourse(hostOf(after), deviceOf(after), named(after, 'array', 'lintel-1').id, pathsOf(after), {
        events: past,
        now,
      });
    expect(course(14_999).of(events[0]!)).toEqual({ standing: 'unnoticed', since: 15_000, removedAt: null });
    expect(course(15_000).of(events[0]!)).toMatchObject({ standing: 'failed', since: 15_000 });
    expect(course(15_000, []).of(events[0]!)).toEqual({ standing: 'absent', since: null, removedAt: null });
  });
});
