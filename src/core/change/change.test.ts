import fc from 'fast-check';
import type { ZodObject } from 'zod';
import { iqn, slots } from '../../../demo/names';
import {
  bareEstate,
  basis,
  carryOut,
  codesOf,
  differences,
  estateAfter,
  mapped,
  mounted,
  refusalsOf,
  smallChain,
  snapshot,
} from '../../../demo/workbench';
import { brokenRules } from '../rules/book';
import { changed, compacted, type Effect } from '../estate/effects';
import { kinds, type Kind } from '../estate/entities';
import { Overlay, type Estate } from '../estate/estate';
import { setFault } from '../lab/faults';
import { nextJobEnd, workJob } from '../work/scheduler';
import { nightly } from '../lab/nightly';
import { writeTraffic } from '../lab/traffic';
import { deleteFiles } from '../attach/file-places';
import { DAY } from '../units/duration';
import { writeUpTo } from '../volume/grow';
import { contextFor, planChange } from './plan';
import { previewChange } from './preview';
import { operationTypes, readOperation, type OperationDocument } from './registry';
import { planUndo } from './undo';

describe('the registry', () => {
  test('every operation has what forms, files and the API need', () => {
    expect(operationTypes.map((type) => type.kind)).toEqual(
      expect.arrayContaining([
        'raid-group.create',
        'pool.create',
        'volume.create',
        'host.create',
        'port.configure',
        'mapping.create',
        'host.rescan',
        'host-device.format',
        'host-device.unmount',
      ]),
    );
    for (const type of operationTypes) {
      expect(type.verb).not.toBe('');
      expect(type.summary).toMatch(/\.$/);
      // A form that is still empty, or full of nonsense, is answered all the same.
      // What it foretells is about parameters that it takes.
      const taken = Object.keys((type.schema as ZodObject).shape);
      for (const draft of [{}, { array: 7, host: null, drives: 'x', volumes: {}, count: 'many' }]) {
        const { fields } = type.foretell(bareEstate(), draft, contextFor(basis, 0, 0));
        expect([type.kind, Object.keys(fields).filter((field) => !taken.includes(field))]).toEqual([type.kind, []]);
        expect(Object.keys(fields)).not.toEqual([]);
      }
    }
  });
  test('an unknown operation is refused, with the one that may be meant', () => {
    expect(readOperation({ do: 'volume.creat' })).toMatchObject({
      ok: false,
      refusals: [{ code: 'operation-unknown', mend: 'Perhaps volume.create is meant.' }],
    });
    expect(readOperation({ do: 'volume.create', sise: '1 GiB' })).toMatchObject({
      ok: false,
      refusals: [{ code: 'parameter-unknown', mend: 'Perhaps size is meant.' }],
    });
  });
});

describe('planning', () => {
  test('later operations see what earlier ones make, and the estate stays as it is', () => {
    const estate = bareEstate();
    const before = snapshot(estate);
    const plan = planChange(estate, mounted, basis);
    expect(plan.refusals).toEqual([]);
    expect(plan.steps).toHaveLength(9);
    expect(snapshot(estate)).toBe(before);
  });

  test('what rests on a refused operation is not refused a second time', () => {
    const refusals = refusalsOf(
      bareEstate(),
      { do: 'raid-group.create', array: 'lintel-1', name: 'rg-1', level: 'raid6', drives: slots(0, 0, 1) },
      { do: 'pool.create', array: 'lintel-1', name: 'quay', raidGroups: ['rg-1'] },
    );
    expect(refusals.map((refusal) => [refusal.code, refusal.operation])).toEqual([['too-few-drives', 0]]);
  });

  test('the same seed makes the same ids', () => {
    const ids = () =>
      planChange(bareEstate(), smallChain, basis).steps.flatMap((step) => step.effects.map((effect) => effect.id));
    expect(ids()).toEqual(ids());
  });
});

describe('preview', () => {
  test('names steps, duration and the figures that move', () => {
    const preview = previewChange(estateAfter(smallChain), mapped.slice(4), basis);
    expect(preview.steps.map((step) => step.title)).toEqual([
      'Map tickets-1 to gate-1 as LUN 0: 4 of 4 paths',
      'Map tickets-2 to gate-1 as LUN 1: 4 of 4 paths',
    ]);
    expect(preview.takes).toBe(4000);
    expect(preview.figures).toEqual(
      expect.arrayContaining([
        expect.objectContaining({ label: 'Paths', before: '0/0', after: '8/8' }),
        expect.objectContaining({ label: 'Mappings', before: '0', after: '2' }),
      ]),
    );
  });
  test('follows logins that move, and only then works them out again', () => {
    const paths = (operation: OperationDocument) =>
      previewChange(estateAfter(mapped), [operation], basis).figures.find((figure) => figure.label === 'Paths');
    const portal = { do: 'port.configure', array: 'lintel-1', port: 'a6', addresses: ['10.40.1.13/24'], role: 'iscsi' };
    expect(paths(portal)).toMatchObject({ before: '8/8', after: '10/10', subject: { name: 'gate-1' } });
    expect(paths({ do: 'mapping.delete', host: 'gate-1', array: 'lintel-1', volumes: ['tickets-2'] })).toMatchObject({
      before: '8/8',
      after: '4/4',
    });
  });

  test('says what is lost for good', () => {
    const estate = estateAfter(smallChain);
    const volume = [...estate.table('volume').values()][0]!;
    estate.apply(writeUpTo(estate, volume, 2 ** 30, contextFor(basis, 5, 5).newId, basis.now).effects);
    expect(
      previewChange(
        estate,
        [{ do: 'volume.delete', array: 'lintel-1', volumes: ['tickets-1'], confirm: ['tickets-1'], keepDays: 0 }],
        basis,
      ).destroys,
    ).toEqual(['1 GiB written to tickets-1']);
  });
});

describe('undo', () => {
  const stepsOf = (operations: readonly OperationDocument[]) => {
    const estate = bareEstate();
    const steps = carryOut(estate, operations);
    return { estate, steps };
  };

  test('takes a whole change back', () => {
    const { estate, steps } = stepsOf(mapped);
    const undo = planUndo(estate, steps);
    expect(undo.refusals).toEqual([]);
    expect(differences(undo.overlay, bareEstate())).toEqual([]);
  });

  test('is refused by what has been written since', () => {
    const { estate, steps } = stepsOf(smallChain);
    const volume = [...estate.table('volume').values()].find((row) => row.name === 'tickets-1')!;
    estate.apply(writeUpTo(estate, volume, 2 ** 30, contextFor(basis, 5, 5).newId, basis.now).effects);
    expect(planUndo(estate, steps).refusals[0]).toMatchObject({
      code: 'undo-conflict',
      message: 'Volume tickets-1 holds data written since.',
    });
  });

  test('is refused by what others have built on it, and by a later change of the same field', () => {
    const { estate, steps } = stepsOf(smallChain.slice(0, 1));
    carryOut(estate, smallChain.slice(1, 2), 'later');
    expect(planUndo(estate, steps).refusals[0]!.message).toBe('RAID group rg-1 carries a pool by now.');
    const other = stepsOf(mounted);
    const device = [...other.estate.table('hostDevice').values()].find((row) => row.mountPoint)!;
    other.estate.apply([changed('hostDevice', device, { used: device.used + 1 })]);
    expect(planUndo(other.estate, other.steps).refusals[0]!.message).toContain('has another used by now');
  });

  test('leaves alone what moved on elsewhere in a row', () => {
    const { estate, steps } = stepsOf([
      ...smallChain,
      { do: 'port.configure', array: 'lintel-1', port: 'a6', addresses: ['10.40.1.13/24'], role: 'iscsi' },
    ]);
    const port = [...estate.table('port').values()].find((row) => row.addresses[0]?.ip === '10.40.1.13')!;
    estate.apply([changed('port', port, { state: 'down' })]);
    const { overlay } = planUndo(estate, steps.slice(-1));
    expect(overlay.table('port').get(port.id)).toMatchObject({ state: 'down', role: 'none', addresses: [] });
  });

  test('a job that has ended meanwhile is no obstacle', () => {
    const { estate, steps } = stepsOf(smallChain.slice(0, 1));
    const job = [...estate.table('job').values()][0]!;
    estate.apply([{ kind: 'job', id: job.id, before: job, after: null }]);
    expect(planUndo(estate, steps).refusals).toEqual([]);
  });

  test('what was destroyed stays destroyed', () => {
    const { estate } = stepsOf(smallChain);
    const volume = [...estate.table('volume').values()].find((row) => row.name === 'tickets-1')!;
    estate.apply(writeUpTo(estate, volume, 2 ** 30, contextFor(basis, 5, 5).newId, basis.now).effects);
    const steps = carryOut(
      estate,
      [{ do: 'volume.delete', array: 'lintel-1', volumes: ['tickets-1'], confirm: ['tickets-1'], keepDays: 0 }],
      'gone',
    );
    expect(planUndo(estate, steps).refusals[0]!.code).toBe('destroyed');
  });
});

/** Random operations, most of which make sense on the bare machines. */
const operation: fc.Arbitrary<OperationDocument> = (() => {
  const array = fc.constant('lintel-1');
  const name = (stem: string) => fc.integer({ min: 1, max: 3 }).map((n) => `${stem}${n}`);
  const host = name('gate-');
  const volume = name('vol-');
  const slot = fc.tuple(fc.integer({ min: 0, max: 1 }), fc.nat(8)).map(([e, k]) => [`${e}:${k}`]);
  const record = <T extends object>(kind: string, fields: { [K in keyof T]: fc.Arbitrary<T[K]> }) =>
    fc.record(fields).map((params): OperationDocument => ({ do: kind, ...params }));
  return fc.oneof(
    record('raid-group.create', {
      array,
      name: name('rg-'),
      level: fc.constantFrom('raid0', 'raid1', 'raid10', 'raid5', 'raid6'),
      drives: fc
        .tuple(fc.integer({ min: 0, max: 2 }), fc.nat(14), fc.integer({ min: 2, max: 8 }))
        .map(([e, from, n]) => slots(e, from, from + n - 1)),
    }),
    record('raid-group.delete', { array, name: name('rg-') }),
    record('pool.create', {
      array,
      name: name('pool-'),
      raidGroups: fc.uniqueArray(name('rg-'), { minLength: 1, maxLength: 2 }),
    }),
    record('pool.delete', { array, name: name('pool-') }),
    record('volume.create', {
      array,
      pool: name('pool-'),
      name: fc.constant('vol'),
      size: fc.constantFrom('10 GiB', '3 TiB', '102400 B', '40 TiB'),
      count: fc.integer({ min: 2, max: 3 }),
      provisioning: fc.constantFrom('thin', 'thick'),
    }),
    record('volume.delete', {
      array,
      volumes: fc.uniqueArray(volume, { minLength: 1, maxLength: 2 }),
      confirm: fc.constant(['vol-1', 'vol-2']),
      keepDays: fc.constantFrom(0, 7),
    }),
    fc.integer({ min: 1, max: 3 }).map((n): OperationDocument => ({
      do: 'host.create',
      name: `gate-${n}`,
      os: 'linux',
      site: 'Nordkai',
      initiators: [iqn(`gate-${n}`)],
      interfaces: [{ name: 'eth0', addresses: [`10.40.1.${50 + n}/24`] }],
    })),
    record('host.delete', { host }),
    record('port.configure', {
      array,
      port: fc.constantFrom('a4', 'a6', 'b7'),
      addresses: fc.integer({ min: 11, max: 16 }).map((n) => [`10.40.1.${n}/24`]),
      role: fc.constantFrom('iscsi', 'none'),
    }),
    record('mapping.create', {
      host,
      array,
      volumes: fc.uniqueArray(volume, { minLength: 1, maxLength: 2 }),
      lun: fc.oneof(fc.constant('next' as const), fc.nat(3)),
    }),
    record('mapping.delete', { host, array, volumes: volume.map((one) => [one]) }),
    record('host.rescan', { host }),
    record('host-device.format', {
      host,
      device: volume,
      fileSystem: fc.constant('xfs'),
      mountPoint: volume.map((one) => `/srv/${one}`),
    }),
    record('host-device.unmount', { host, device: volume }),
    record('host-device.grow', { host, device: volume }),
    record('host-device.shrink', { host, device: volume, size: fc.constantFrom('8 GiB', '100 MiB') }),
    record('drive.assign-spare', { array, drives: slot }),
    record('drive.release-spare', { array, drives: slot }),
    record('drive.replace', { array, drives: slot }),
    record('drive.copy-to-spare', { array, drives: slot }),
    record('drive.erase', { array, drives: slot }),
    record('raid-group.expand', {
      array,
      name: name('rg-'),
      drives: fc.integer({ min: 5, max: 14 }).map((n) => slots(1, n, n + 1)),
    }),
    record('raid-group.configure', { array, name: name('rg-'), priority: fc.constantFrom('low', 'high') }),
    record('raid-group.scrub', { array, name: name('rg-') }),
    record('pool.configure', {
      array,
      name: name('pool-'),
      dedupe: fc.constantFrom('off', 'inline', 'scheduled'),
      compression: fc.boolean(),
      subscriptionLimit: fc.constantFrom('none', '150'),
    }),
    record('pool.extend', {
      array,
      name: name('pool-'),
      raidGroups: name('rg-').map((one) => [one]),
      weaker: fc.boolean(),
    }),
    record('pool.remove-group', { array, name: name('pool-'), raidGroup: name('rg-') }),
    record('pool.rebalance', { array, name: name('pool-') }),
    record('pool.reduce', { array, name: name('pool-') }),
    record('volume.resize', {
      array,
      volumes: volume.map((one) => [one]),
      size: fc.constantFrom('8 GiB', '30 GiB', '1 GiB'),
    }),
    record('volume.convert', { array, volumes: volume.map((one) => [one]), to: fc.constantFrom('thin', 'thick') }),
    record('volume.reclaim', { array, volumes: volume.map((one) => [one]) }),
    record('volume.configure', {
      array,
      volumes: volume.map((one) => [one]),
      owner: fc.constantFrom('a', 'b'),
      reduction: fc.boolean(),
    }),
    record('volume.restore', { array, volumes: volume.map((one) => [one]) }),
    record('volume.purge', { array, volumes: volume.map((one) => [one]) }),
  );
})();

/** Hosts write, drives fail now and then, and what takes long comes to an end. */
const time: OperationDocument = { do: '#time' };

/** A chain that stands, then whatever comes. */
const story = fc
  .array(fc.oneof({ weight: 5, arbitrary: operation }, fc.constant(time)), { maxLength: 30 })
  .map((rest): OperationDocument[] => [
    { do: 'raid-group.create', array: 'lintel-1', name: 'rg-1', level: 'raid5', drives: slots(1, 0, 4) },
    { do: 'pool.create', array: 'lintel-1', name: 'pool-1', raidGroups: ['rg-1'] },
    { do: 'volume.create', array: 'lintel-1', pool: 'pool-1', name: 'vol', size: '20 GiB', count: 2 },
    {
      do: 'host.create',
      name: 'gate-1',
      os: 'linux',
      site: 'Nordkai',
      initiators: [iqn('gate-1')],
      interfaces: [{ name: 'eth0', addresses: ['10.40.1.51/24'] }],
    },
    ...rest,
  ]);

function pass(estate: Estate, k: number): void {
  const { newId } = contextFor({ ...basis, seed: `time ${k}` }, 0, 0);
  const put = (effects: Effect[]) => estate.apply(compacted(effects));
  for (const device of [...estate.table('hostDevice').values()])
    if (device.mountPoint) put([changed('hostDevice', device, { writeRate: 2 ** 28 })]);
  put(writeTraffic(estate, 10_000, basis.now, newId).effects);
  for (const device of [...estate.table('hostDevice').values()])
    if (device.mountPoint) put(deleteFiles(device, 2 ** 25, 2 ** 30));
  const member = [...estate.table('raidGroup').values()][k % 3]?.drives[k % 4];
  const fault = member ? setFault(estate, 'drive-failed', member, basis.now, newId) : undefined;
  if (fault?.ok) put(fault.effects);
  for (let next = nextJobEnd(estate); next; next = nextJobEnd(estate))
    put(workJob(estate, next.job, next.at, newId).effects);
  put(nightly(estate, (Math.floor(basis.now / DAY) + k) * DAY, newId).effects);
}

/** Carries out what is not refused, one operation at a time. */
function live(estate: Estate, operations: readonly OperationDocument[]): { effects: Effect[]; destroyed: boolean } {
  const done = { effects: [] as Effect[], destroyed: false };
  operations.forEach((one, k) => {
    if (one === time) return pass(estate, k);
    const plan = planChange(estate, [one], { ...basis, seed: `s${k}` });
    if (plan.refusals.length > 0) return;
    for (const step of plan.steps) {
      estate.apply(step.effects);
      done.effects.push(...step.effects);
      if (step.destroys) done.destroyed = true;
    }
  });
  return done;
}

describe('whatever is asked for', () => {
  test('the invariants hold', () =>
    fc.assert(
      fc.property(story, (operations) => {
        const estate = bareEstate();
        live(estate, operations);
        expect(brokenRules(estate)).toEqual([]);
      }),
      { numRuns: 60 },
    ));

  test('planning then undoing gives the estate back', () =>
    fc.assert(
      fc.property(story, fc.array(operation, { minLength: 1, maxLength: 6 }), (past, change) => {
        const estate = bareEstate();
        live(estate, past);
        const overlay = new Overlay(estate);
        const steps = change.flatMap((one, k) => {
          const plan = planChange(overlay, [one], { ...basis, seed: `c${k}` });
          if (plan.refusals.length > 0) return [];
          for (const step of plan.steps) overlay.apply(step.effects);
          return plan.steps;
        });
        const undo = planUndo(overlay, steps);
        if (steps.some((step) => step.destroys)) expect(undo.refusals[0]?.code).toBe('destroyed');
        else {
          expect(undo.refusals).toEqual([]);
          expect(differences(undo.overlay, estate)).toEqual([]);
        }
      }),
      { numRuns: 60 },
    ));

  test('the preview of a change is what comes out of carrying it out', () =>
    fc.assert(
      fc.property(story, fc.array(operation, { minLength: 1, maxLength: 5 }), (past, change) => {
        const estate = bareEstate();
        live(estate, past);
        const plan = planChange(estate, change, basis);
        if (plan.refusals.length > 0) return;
        carryOut(estate, change);
        expect(differences(plan.overlay, estate)).toEqual([]);
      }),
      { numRuns: 80 },
    ));

  test('a refusal names the thing, the reason and the mend', () =>
    fc.assert(
      fc.property(story, operation, (past, one) => {
        const estate = bareEstate();
        live(estate, past);
        for (const refusal of refusalsOf(estate, one)) {
          expect(refusal.message).toMatch(/\.$/);
          expect(refusal.mend).toMatch(/\.$/);
          expect(refusal.code).toMatch(/^[a-z0-9-]+$/);
          // Whatever it names by id is there.
          const { kind, id } = refusal.subject;
          if (id && kinds.includes(kind as Kind)) expect(estate.table(kind as Kind).get(id)?.id).toBe(id);
        }
      }),
      { numRuns: 60 },
    ));
});

test('codes of a good chain are none', () => expect(codesOf(bareEstate(), ...mounted)).toEqual([]));
