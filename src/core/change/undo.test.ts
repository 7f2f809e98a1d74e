import { iqn, slots } from '../../../demo/names';
import { carryOut, differences, estateAfter, mapped, mounted, smallChain, named } from '../../../demo/workbench';
import { changed, compacted } from '../estate/effects';
import type { Estate } from '../estate/estate';
import { newIds } from '../estate/new-ids';
import { setFault } from '../lab/faults';
import { nextJobEnd, workJob } from '../work/scheduler';
import { writeTraffic } from '../lab/traffic';
import { lookUp } from '../operation/inquiry';
import { writeUpTo } from '../volume/grow';
import type { OperationDocument } from './registry';
import { planUndo, type CommittedStep } from './undo';

const NOW = 1_930_000_000_000;
const GIB = 2 ** 30;
/** Does something, then whatever comes, and says why the first cannot be taken back; an empty list where it can. */
function undoing(
  past: readonly OperationDocument[],
  done: readonly OperationDocument[],
  ...then: ((estate: Estate) => void)[]
): { codes: string[]; says: string; offers: unknown[]; estate: Estate; steps: CommittedStep[] } {
  const estate = estateAfter(past);
  const steps = carryOut(estate, done, 'done');
  for (const one of then) one(estate);
  const { refusals } = planUndo(estate, steps);
  return {
    codes: refusals.map((refusal) => refusal.code),
    says: refusals.map((refusal) => refusal.message).join(' '),
    offers: refusals.map((refusal) => refusal.offer),
    estate,
    steps,
  };
}
const next =
  (...operations: OperationDocument[]) =>
  (estate: Estate): void =>
    void carryOut(estate, operations, 'next');
const finish = (estate: Estate): void => {
  const newId = newIds('finish');
  for (let due = nextJobEnd(estate); due; due = nextJobEnd(estate))
    estate.apply(compacted(workJob(estate, due.job, due.at, newId).effects));
};
const unmap = (volume: string): OperationDocument => ({
  do: 'mapping.delete',
  host: 'gate-1',
  array: 'lintel-1',
  volumes: [volume],
});
const gate9: OperationDocument = {
  do: 'host.create',
  name: 'gate-9',
  os: 'linux',
  site: 'Nordkai',
  initiators: [iqn('gate-9')],
  interfaces: [{ name: 'eth0', addresses: ['10.40.1.99/24'] }],
};

describe('what comes back must still be free', () => {
  test('a LUN that another volume has by now', () => {
    const { codes, says, offers } = undoing(
      [...mapped, { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'late', size: '1 GiB' }],
      [unmap('tickets-1')],
      next({ do: 'mapping.create', host: 'gate-1', array: 'lintel-1', volumes: ['late'], lun: 0 }),
    );
    expect(codes).toEqual(['breaks-lun-taken']);
    expect(says).toBe('gate-1 sees late as LUN 0; tickets-1 cannot have it too.');
    expect(offers).toMatchObject([{ do: 'mapping.configure', params: { host: 'gate-1', volume: 'late' } }]);
  });

  test('the name of a host that was renamed, and of one that was retired', () => {
    const renamed = undoing(
      [gate9],
      [{ do: 'host.configure', host: 'gate-9', newName: 'gate-8' }],
      next({ ...gate9, initiators: [iqn('other')], interfaces: [] }),
    );
    expect(renamed.codes).toEqual(['breaks-taken-twice']);
    expect(renamed.says).toBe('There would be two of host gate-9.');
    const retired = undoing([gate9], [{ do: 'host.delete', host: 'gate-9' }], next(gate9));
    expect(retired.codes).toContain('breaks-taken-twice');
    expect(retired.codes).toContain('breaks-interface-fits');
    expect(retired.says).toContain('10.40.1.99 belongs to eth0 of gate-9 by now');
  });

  test('an address of a port', () => {
    const address = (port: string, ip: string): OperationDocument => ({
      do: 'port.configure',
      array: 'lintel-1',
      port,
      addresses: [`${ip}/24`],
      role: 'iscsi',
    });
    const { codes, says } = undoing(
      [address('a6', '10.40.1.13')],
      [address('a6', '10.40.1.14')],
      next(address('b7', '10.40.1.13')),
    );
    expect(codes).toEqual(['breaks-port-fits']);
    expect(says).toContain('10.40.1.13 belongs to port b7 of lintel-1 by now');
  });

  test('a drive that was a spare and is a member again', () => {
    const { codes, says } = undoing(
      [{ do: 'drive.assign-spare', array: 'lintel-1', drives: ['0:20'] }],
      [{ do: 'drive.release-spare', array: 'lintel-1', drives: ['0:20'] }],
      next({ do: 'raid-group.create', array: 'lintel-1', name: 'rg-9', level: 'raid5', drives: slots(0, 18, 20) }),
    );
    expect(codes).toEqual(['undo-conflict']);
    expect(says).toBe('Drive slot 20 is at work in RAID group rg-9 by now.');
  });
});

describe('what it refers to must still be there', () => {
  test.each<[string, OperationDocument[], OperationDocument[], OperationDocument[]]>([
    [
      'a mapping of a volume that is gone',
      mapped,
      [unmap('tickets-1')],
      [{ do: 'volume.delete', array: 'lintel-1', volumes: ['tickets-1'], keepDays: 0 }],
    ],
    [
      'a device of a volume that is gone',
      [...mapped, { do: 'host.rescan', host: 'gate-1' }, unmap('tickets-1')],
      [{ do: 'host-device.remove', host: 'gate-1', device: 'tickets-1' }],
      [{ do: 'volume.delete', array: 'lintel-1', volumes: ['tickets-1'], keepDays: 0 }],
    ],
    [
      'a volume of a pool that is gone',
      smallChain,
      [{ do: 'volume.delete', array: 'lintel-1', volumes: ['tickets-1'], keepDays: 0 }],
      [
        { do: 'volume.delete', array: 'lintel-1', volumes: ['tickets-2'], keepDays: 0 },
        { do: 'pool.delete', array: 'lintel-1', name: 'quay' },
      ],
    ],
    [
      'a mapping of a host that is gone',
      mapped,
      [unmap('tickets-1'), unmap('tickets-2')],
      [{ do: 'host.delete', host: 'gate-1' }],
    ],
  ])('%s', (_, past, done, then) => {
    const { codes, says } = undoing(past, done, next(...then));
    expect(codes).toContain('breaks-refers-to-nothing');
    expect(says).toMatch(/that is gone/);
  });
});

describe('what has been built on it keeps it', () => {
  const convert: OperationDocument = { do: 'volume.convert', array: 'lintel-1', volumes: ['tickets-1'], to: 'thick' };
  const write = (bytes: number) => (estate: Estate) => {
    const volume = named(estate, 'volume', 'tickets-1');
    estate.apply(writeUpTo(estate, volume, bytes, newIds('write'), NOW).effects);
  };

  test('extents of a volume that became thick, and data in them', () => {
    const whole = undoing(smallChain, [convert], finish);
    expect(whole.codes).toEqual(['undo-conflict']);
    expect(whole.says).toBe('Volume tickets-1 has come out of the work this step began, which is over.');
    const written = undoing(smallChain, [convert], write(5 * GIB));
    expect(written.codes).toEqual(['breaks-volume-extents']);
    expect(written.says).toBe('5 GiB of what is written to volume tickets-1 would lie in no extent.');
    expect(undoing(smallChain, [convert]).codes).toEqual([]);
  });

  test('a group of a pool that carries extents by now', () => {
    const group = (name: string, from: number): OperationDocument => ({
      do: 'raid-group.create',
      array: 'lintel-1',
      name,
      level: 'raid6',
      drives: slots(1, from, from + 5),
    });
    const { codes, says, offers } = undoing(
      [...smallChain, group('rg-2', 0)],
      [{ do: 'pool.extend', array: 'lintel-1', name: 'quay', raidGroups: ['rg-2'], weaker: true }],
      next({
        do: 'volume.create',
        array: 'lintel-1',
        pool: 'quay',
        name: 'late',
        size: '100 GiB',
        provisioning: 'thick',
        tier: 'hdd-10k',
      }),
    );
    expect(codes).toContain('breaks-group-extents');
    expect(says).toContain('extents lie in rg-2 by now');
    expect(offers[0]).toMatchObject({ do: 'pool.remove-group', params: { name: 'quay', raidGroup: 'rg-2' } });
  });

  test('a mapping of what is mounted', () => {
    const { codes, says, offers } = undoing(smallChain, mapped.slice(4), next(...mounted.slice(5)));
    expect(codes).toEqual(['breaks-mounted-unmapped']);
    expect(says).toContain('gate-1 has tickets-1 mounted at /srv/tickets');
    expect(offers).toMatchObject([{ do: 'host-device.unmount' }]);
  });

  test('the last path to what is mounted', () => {
    const only = estateAfter(mapped);
    // One portal is left: the one whose role is taken back below.
    for (const port of [...only.table('port').values()])
      if (port.role === 'iscsi') only.apply([changed('port', port, { state: 'down' })]);
    const lintel = lookUp(only, 'array', 'lintel-1')!.id;
    const free = [...only.table('port').values()].find(
      (port) => port.array === lintel && port.role === 'none' && port.kind === 'ethernet',
    )!;
    const steps = carryOut(
      only,
      [{ do: 'port.configure', array: 'lintel-1', port: free.name, addresses: ['10.40.1.77/24'], role: 'iscsi' }],
      'portal',
    );
    carryOut(only, mounted.slice(5), 'mount');
    const { refusals } = planUndo(only, steps);
    expect(refusals).toMatchObject([{ code: 'in-use', subject: { name: 'gate-1' } }]);
    expect(refusals[0]!.message).toContain('would lose its last path to tickets-1');
  });

  test('a file system that was made as large as the volume', () => {
    const { codes, says } = undoing(
      mounted,
      [{ do: 'volume.resize', array: 'lintel-1', volumes: ['tickets-1'], size: '300 GiB' }],
      next({ do: 'host.rescan', host: 'gate-1' }, { do: 'host-device.grow', host: 'gate-1', device: 'tickets-1' }),
    );
    expect(codes).toEqual(['breaks-file-system-cut']);
    expect(says).toContain('reaches to 300 GiB');
  });
});

describe('work that is over', () => {
  test('cannot be taken back by the step that began it, unless it left nothing', () => {
    const estate = estateAfter(smallChain);
    finish(estate);
    const scrub = carryOut(estate, [{ do: 'raid-group.scrub', array: 'lintel-1', name: 'rg-1' }], 'scrub');
    finish(estate);
    expect(planUndo(estate, scrub).refusals).toEqual([]);
    const expand: OperationDocument = {
      do: 'raid-group.expand',
      array: 'lintel-1',
      name: 'rg-1',
      drives: ['0:10', '0:11'],
    };
    const steps = carryOut(estate, [expand], 'expand');
    finish(estate);
    expect(planUndo(estate, steps).refusals).toMatchObject([{ code: 'undo-conflict', subject: { name: 'rg-1' } }]);
  });
});

describe('the preview of an undo', () => {
  test('says step by step what it takes back, which figures move, and how long it takes', () => {
    const { estate, steps } = undoing(smallChain, mapped.slice(4));
    const plan = planUndo(estate, steps);
    expect(plan.steps.map((step) => step.title)).toEqual([
      'Map tickets-2 to gate-1 as LUN 1: 4 of 4 paths',
      'Map tickets-1 to gate-1 as LUN 0: 4 of 4 paths',
    ]);
    expect(plan.steps[0]!.says).toEqual(['Goes: mapping LUN 1.']);
    expect(plan.takes).toBe(4000);
    expect(plan.figures).toEqual(
      expect.arrayContaining([expect.objectContaining({ label: 'Paths', before: '8/8', after: '0/0' })]),
    );
    expect(differences(plan.overlay, estateAfter(smallChain))).toEqual([]);
  });

  test('says which fields are as before', () => {
    const { estate, steps } = undoing(smallChain, [
      { do: 'pool.configure', array: 'lintel-1', name: 'quay', notice: 60, newName: 'wharf' },
    ]);
    expect(planUndo(estate, steps).steps[0]!.says).toEqual(['As before: pool quay (notice, name).']);
  });

  test('stops at the first step that cannot be taken back, and asks the stand-in of each', () => {
    const { estate, steps } = undoing(smallChain, mapped.slice(4));
    const asked: string[] = [];
    const plan = planUndo(estate, steps, (_view, step) => {
      asked.push(`${step.device.name}: ${step.title}`);
      return asked.length < 2
        ? { ok: true }
        : {
            ok: false,
            refusal: {
              code: 'no',
              subject: { kind: 'array', name: 'lintel-1' },
              message: 'It is silent.',
              mend: 'Wait.',
            },
          };
    });
    expect(plan.steps).toHaveLength(1);
    expect(plan.refusals).toMatchObject([{ code: 'no' }]);
    expect(asked).toEqual([
      'lintel-1: Undo: Map tickets-2 to gate-1 as LUN 1: 4 of 4 paths',
      'lintel-1: Undo: Map tickets-1 to gate-1 as LUN 0: 4 of 4 paths',
    ]);
  });
});

test('hosts that write and drives that fail in between do not let an undo take what is theirs', () => {
  const { estate, steps } = undoing(mounted, [{ do: 'drive.assign-spare', array: 'lintel-1', drives: ['0:20'] }]);
  const device = [...estate.table('hostDevice').values()].find((row) => row.mountPoint)!;
  estate.apply([changed('hostDevice', device, { writeRate: 2 ** 26 })]);
  estate.apply(compacted(writeTraffic(estate, 60_000, NOW, newIds('traffic')).effects));
  const member = named(estate, 'raidGroup', 'rg-1').drives[0]!;
  const fault = setFault(estate, 'drive-failed', member, NOW, newIds('fault'));
  if (fault.ok) estate.apply(compacted(fault.effects));
  expect(planUndo(estate, steps).refusals).toMatchObject([{ code: 'undo-conflict' }]);
});
