import { iqn } from '../../../demo/names';
import { basis, carryOut, codesOf, estateAfter, mounted, smallChain } from '../../../demo/workbench';
import { contextFor, planChange } from '../change/plan';
import { brokenRules } from '../rules/book';
import { changed } from '../estate/effects';
import type { Estate } from '../estate/estate';
import { countAllPaths } from '../attach/paths';
import { groupHealth } from '../raid/health';
import { GIB, MIB } from '../units/bytes';
import { HOUR } from '../units/duration';
import { jobProgress } from '../job/work';
import { nextJobEnd, workJob } from '../work/scheduler';
import { writeTraffic } from './traffic';
import { faults } from './broken';
import type { FaultKind } from './fault-kinds';
import { clearFault as clear, setFault as set } from './faults';

const newId = contextFor(basis, 7, 7).newId;
const setFault = (estate: Estate, kind: FaultKind, id: string) => set(estate, kind, id, basis.now, newId);
const clearFault = (estate: Estate, kind: FaultKind, id: string) => clear(estate, kind, id, basis.now, newId);
const apply = (estate: Estate, result: ReturnType<typeof setFault>) => {
  if (!result.ok) throw new Error(result.refusals[0]!.message);
  estate.apply(result.effects);
  return result.said;
};
const first = <T>(rows: Iterable<T>): T => [...rows][0]!;

describe('a host that may only read', () => {
  const writing = () => {
    const estate = estateAfter(mounted);
    const device = first([...estate.table('hostDevice').values()].filter((row) => row.mountPoint !== null));
    estate.apply([changed('hostDevice', device, { writeRate: GIB })]);
    return { estate, device: () => estate.table('hostDevice').get(device.id)! };
  };
  const readOnly = {
    do: 'mapping.configure',
    host: 'gate-1',
    array: 'lintel-1',
    volume: 'tickets-1',
    access: 'read-only',
  };
  test('is warned of before, stops writing, shows it, and writes again once it was mounted anew', () => {
    const { estate, device } = writing();
    const [step] = planChange(estate, [readOnly], basis).steps;
    expect(step!.notes).toContain(
      'gate-1 has tickets-1 mounted at /srv/tickets and writes 1 GiB/s: its writes will fail.',
    );
    carryOut(estate, [readOnly], 'bar');
    const written = () => first([...estate.table('volume').values()].filter((row) => row.name === 'tickets-1')).written;
    const before = written();
    const { effects, said } = writeTraffic(estate, 10_000, basis.now, newId);
    estate.apply(effects);
    expect(said).toEqual([
      'gate-1 cannot write on to /srv/tickets: tickets-1 is mapped for reading only (27h/00h, write protected)',
    ]);
    expect([written(), device().writeRate, device().readOnly]).toEqual([before, 0, true]);
    // It may be read all the same, and is mounted so.
    carryOut(estate, [{ do: 'host-device.unmount', host: 'gate-1', device: 'tickets-1' }], 'off');
    const mount = { do: 'host-device.mount', host: 'gate-1', device: 'tickets-1', mountPoint: '/srv/tickets' };
    carryOut(estate, [mount], 'on');
    expect(device()).toMatchObject({ mountPoint: '/srv/tickets', readOnly: true });
    carryOut(
      estate,
      [
        { ...readOnly, access: 'read-write' },
        { do: 'host-device.unmount', host: 'gate-1', device: 'tickets-1' },
        mount,
      ],
      'again',
    );
    expect(device().readOnly).toBe(false);
    estate.apply([changed('hostDevice', device(), { writeRate: GIB })]);
    estate.apply(writeTraffic(estate, 10_000, basis.now, newId).effects);
    expect(written()).toBeGreaterThan(before);
  });
  test('also where its initiator is granted reading only', () => {
    const { estate, device } = writing();
    const grant = {
      do: 'initiator.configure',
      host: 'gate-1',
      initiator: iqn('gate-1'),
      array: 'lintel-1',
      access: 'read-only',
    };
    expect(planChange(estate, [grant], basis).steps[0]!.notes.join()).toContain('its writes will fail');
    carryOut(estate, [grant], 'grant');
    estate.apply(writeTraffic(estate, 10_000, basis.now, newId).effects);
    expect(device()).toMatchObject({ writeRate: 0, readOnly: true });
    expect(
      codesOf(estate, {
        do: 'host-device.format',
        host: 'gate-1',
        device: 'tickets-2',
        fileSystem: 'xfs',
        mountPoint: '/srv/two',
      }),
    ).toContain('read-only');
  });
});

describe('faults', () => {
  test('are set, listed and cleared; paths follow at once', () => {
    const estate = estateAfter(mounted);
    const port = [...estate.table('port').values()].find((row) => row.addresses[0]?.ip === '10.40.1.11')!;
    expect(apply(estate, setFault(estate, 'port-down', port.id))).toBe('lintel-1 port a4 is down');
    expect(faults(estate)).toEqual([
      {
        kind: 'port-down',
        component: port.id,
        name: 'lintel-1 port a4',
        state: 'down',
        says: 'is down',
        post: 'broken',
      },
    ]);
    expect(countAllPaths(estate)).toMatchObject({ usable: 6, expected: 8 });
    expect(setFault(estate, 'port-down', port.id)).toMatchObject({ ok: false, refusals: [{ code: 'fault-set' }] });
    apply(estate, clearFault(estate, 'port-down', port.id));
    expect(countAllPaths(estate)).toMatchObject({ usable: 8, expected: 8 });
    expect(clearFault(estate, 'port-down', port.id)).toMatchObject({
      ok: false,
      refusals: [{ code: 'no-fault' }],
    });
    expect(setFault(estate, 'controller-down', 'nothing')).toMatchObject({
      ok: false,
      refusals: [{ code: 'component-unknown' }],
    });
  });

  test('a drive put back is rebuilt, and only then is the group whole', () => {
    const estate = estateAfter(smallChain);
    const group = first(estate.table('raidGroup').values());
    estate.apply(
      [...estate.table('job').values()].map((job) => ({ kind: 'job' as const, id: job.id, before: job, after: null })),
    );
    const drive = group.drives[2]!;
    apply(estate, setFault(estate, 'drive-predicted', drive));
    expect(faults(estate)[0]).toMatchObject({ says: 'expects to fail', post: 'leans' });
    apply(estate, setFault(estate, 'drive-failed', drive));
    expect(faults(estate)[0]).toMatchObject({ says: 'has failed', post: 'broken' });
    expect(groupHealth(estate, group)).toMatchObject({ state: 'degraded', tolerates: 1 });
    expect(apply(estate, clearFault(estate, 'drive-failed', drive))).toContain('rebuilds');
    expect(faults(estate)[0]).toMatchObject({ says: 'is being rebuilt', post: 'in work' });
    expect(groupHealth(estate, group).state).toBe('degraded');
    const { job, at } = nextJobEnd(estate)!;
    // 3576 GiB at 60 % of 1800 MB/s
    expect((at - basis.now) / HOUR).toBeCloseTo(0.988, 2);
    expect(jobProgress(job, basis.now + (at - basis.now) / 4)).toBeCloseTo(0.25, 3);
    estate.apply(workJob(estate, job, at, newId).effects);
    expect(groupHealth(estate, group).state).toBe('ok');
    expect(nextJobEnd(estate)).toBeNull();
  });

  test('failing again while it rebuilds ends the rebuild; a drive of a lost group comes back with its data', () => {
    const estate = estateAfter(smallChain);
    const group = first(estate.table('raidGroup').values());
    const [a, b, c] = group.drives;
    apply(estate, setFault(estate, 'drive-failed', a!));
    apply(estate, clearFault(estate, 'drive-failed', a!));
    apply(estate, setFault(estate, 'drive-failed', a!));
    expect([...estate.table('job').values()].some((job) => job.kind === 'raid-rebuild')).toBe(false);
    apply(estate, setFault(estate, 'drive-failed', b!));
    apply(estate, setFault(estate, 'drive-failed', c!));
    expect(groupHealth(estate, group).state).toBe('lost');
    expect(apply(estate, clearFault(estate, 'drive-failed', c!))).toMatch(/is back$/);
    expect(groupHealth(estate, group).state).toBe('degraded');
  });
});

describe('traffic', () => {
  const writing = (rate: number) => {
    const estate = estateAfter(mounted);
    const device = [...estate.table('hostDevice').values()].find((row) => row.mountPoint)!;
    estate.apply([changed('hostDevice', device, { writeRate: rate })]);
    return { estate, device: () => estate.table('hostDevice').get(device.id)! };
  };
  const pass = (estate: Estate, span: number) => {
    const traffic = writeTraffic(estate, span, basis.now, newId);
    estate.apply(traffic.effects);
    return traffic.said;
  };

  test('fills the file system and takes extents, as fast as it is set', () => {
    const { estate, device } = writing(32 * MIB);
    const before = device().used;
    pass(estate, 60_000);
    expect(device().used).toBe(before + 32 * 60 * MIB);
    const volume = estate.table('volume').get(device().volume)!;
    expect(volume.written).toBe(device().used);
    expect(estate.occupancy.allocated(volume.id)).toBe(Math.ceil(volume.written / (64 * MIB)));
    expect(brokenRules(estate)).toEqual([]);
  });

  test('stops without a path, goes on when one is back, and ends with the file system', () => {
    const { estate, device } = writing(GIB);
    const host = estate.table('host').get(device().host)!;
    estate.apply([changed('host', host, { noPathWait: 2 * HOUR })]);
    const interfaces = [...estate.table('interface').values()].filter((row) => row.host !== null);
    interfaces.forEach((row) => apply(estate, setFault(estate, 'interface-down', row.id)));
    const before = device().used;
    pass(estate, HOUR);
    expect(device().used).toBe(before);
    apply(estate, clearFault(estate, 'interface-down', interfaces[0]!.id));
    pass(estate, HOUR);
    expect(device().used).toBe(device().size);
    expect(pass(estate, 1000)[0]).toBe('gate-1 cannot write on to /srv/tickets: the file system is full');
    expect(device().writeRate).toBe(0);
  });
});
