import { stageOf } from '../../../demo/protected';
import { slots } from '../../../demo/names';
import { differences, named, refusalsOf } from '../../../demo/workbench';
import { planChange } from '../change/plan';
import { planUndo } from '../change/undo';
import { changed, created } from '../estate/effects';
import { Overlay } from '../estate/estate';
import { newIds } from '../estate/new-ids';
import { writeFile } from '../attach/files';
import { derivedFacts } from '../service/facts';
import { poolUsage, tiersOf } from '../pool/usage';
import { GIB, TIB } from '../units/bytes';
import { volumeState } from '../volume/health';
import { oldArray, withOldArray, zoned } from '../../../demo/old-array';
import { barredByOutside } from './bar';
import { look, inspect, keep, old, ours, mountedAt, lun, blank, worked, sound } from './outside.fixture';

describe('blank room', () => {
  const pool = { do: 'pool.extend', array: 'lintel-1', name: 'quay', raidGroups: ['corbel-9-lun-0'], weaker: true };

  it('wants the serial typed, nobody to see it, what was found accepted, and nobody else to have it', () => {
    const of = worked();
    expect(of.codes(blank(of, { serials: ['0000'] }))).toEqual(['import-serial-differs']);
    const wrong = { luns: ['corbel-9:1'], serials: [old(of).serial] };
    expect(of.codes(blank(of, wrong))).toEqual(['import-mapped']);
    of.run({ do: 'mapping.delete', host: 'keel-backup', array: 'corbel-9', volumes: ['ledger-old'] });
    expect(refusalsOf(of.estate, blank(of, wrong))[0]).toMatchObject({
      code: 'import-signature-not-accepted',
      field: 'accept',
      message: expect.stringMatching(
        /^corbel-9:1: It holds xfs file system, .* last written .*; everything would be erased\.$/,
      ) as string,
    });
    of.run(blank(of, { ...wrong, accept: true }));
    expect(old(of)).toMatchObject({ written: 0, files: [], image: null });
    // A host that has not looked again finds nothing on its device any more.
    expect(of.estate.table('hostDevice').by('volume', old(of).id)).toMatchObject([{ fileSystem: null }]);
    expect(of.codes(keep)).toEqual(['import-state']);
  });

  it('is not erased while a host holds a reservation on it', () => {
    const of = worked();
    const hollow = named(of.estate, 'volume', 'hollow');
    of.estate.apply([changed('volume', hollow, { reservedBy: named(of.estate, 'host', 'cargo-db-1').id })]);
    expect(of.codes(blank(of))).toEqual(['import-reserved']);
  });

  it('becomes the slowest tier of a pool, which is as safe as what is declared of it', () => {
    const of = worked();
    const quay = () => named(of.estate, 'pool', 'quay');
    const before = poolUsage(of.estate, quay()).size;
    expect(derivedFacts(of.estate, quay()).protection?.value).toBe(2);
    of.run(blank(of, { declared: 1 }), pool);
    const usage = poolUsage(of.estate, quay());
    expect(usage.size).toBe(before + 2 * TIB);
    expect(tiersOf(usage).at(-1)!.media).toBe('hdd-7k');
    expect(derivedFacts(of.estate, quay())).toMatchObject({ protection: { value: 1 }, media: { value: 'hdd-7k' } });
    expect(of.codes({ do: 'outside.release', array: 'lintel-1', luns: ['corbel-9:0'] })).toEqual([
      'import-in-other-pool',
    ]);
    of.run({ do: 'pool.remove-group', array: 'lintel-1', name: 'quay', raidGroup: 'corbel-9-lun-0' });
    of.run({ do: 'outside.release', array: 'lintel-1', luns: ['corbel-9:0'] });
    expect(lun(of, 'corbel-9:0').state).toBe('done');
    expect(of.estate.table('raidGroup').by('array', named(of.estate, 'array', 'lintel-1').id)).toHaveLength(1);
    sound(of);
  });

  it('takes its pool down with the outside array', () => {
    const of = worked();
    of.run(blank(of), pool);
    of.run({ do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'charts', size: '100 GiB' });
    expect(volumeState(of.estate, ours(of, 'charts'))).toBe('ok');
    for (const row of of.estate.table('activeZone').values())
      of.estate.apply([changed('activeZone', row, { members: [], principals: [] })]);
    expect(volumeState(of.estate, ours(of, 'charts'))).toBe('lost');
  });

  it('is room that two arrays never share', () => {
    const of = worked();
    const zones = zoned(of.estate, ['A'], 'purlin-1');
    of.run(...zones, { do: 'zone-set.activate', fabric: 'A', zoneSet: 'set_A' });
    const there = { array: 'purlin-1' };
    of.run({ ...look, ...there }, { ...inspect, ...there });
    of.run(blank(of));
    expect(of.codes(blank(of, there))).toEqual(['import-in-other-pool']);
    expect(of.codes({ ...keep, ...there, luns: ['corbel-9:0'] })).toEqual(['import-in-other-pool']);
  });

  it('cannot be taken back once something was erased', () => {
    const of = worked();
    of.run({ do: 'mapping.delete', host: 'keel-backup', array: 'corbel-9', volumes: ['ledger-old'] });
    const plan = planChange(of.estate, [blank(of, { luns: ['corbel-9:1'], serials: [old(of).serial], accept: true })], {
      seed: 'd',
      now: of.now,
      month: '2031-04',
    });
    expect(plan.steps[0]!.destroys).toBe('what lies on corbel-9:1');
  });
});

describe('the outside array itself', () => {
  it('is not carved on from here', () => {
    const of = stageOf(oldArray());
    expect(of.codes({ do: 'volume.create', array: 'corbel-9', pool: 'old', name: 'new', size: '1 GiB' })).toEqual([
      'array-outside',
    ]);
    expect(
      of.codes({ do: 'raid-group.create', array: 'corbel-9', name: 'rg', level: 'raid5', drives: slots(0, 8, 12) }),
    ).toEqual(['array-outside']);
    expect(of.codes({ do: 'snapshot.create', array: 'corbel-9', volume: 'ledger-old' })).toEqual(['array-outside']);
  });

  it('gets back what was retired on it, and nothing else', () => {
    const of = stageOf(oldArray());
    const before = new Overlay(of.estate);
    const retire = { do: 'volume.delete', array: 'corbel-9', volumes: ['hollow'], confirm: ['hollow'] };
    const { steps, refusals, overlay } = planChange(before, [retire], { seed: 'r', now: of.now, month: '2031-04' });
    expect(refusals).toEqual([]);
    const volume = named(of.estate, 'volume', 'hollow');
    expect(overlay.table('volume').get(volume.id)).toBeUndefined();
    const undone = planUndo(overlay, steps);
    expect(undone.refusals).toEqual([]);
    expect(differences(of.estate, undone.overlay)).toEqual([]);
    const other = created('volume', { ...volume, id: 'vol_other', name: 'other' });
    expect(barredByOutside(overlay, [other], steps[0]!.effects)).toMatchObject([{ code: 'array-outside' }]);
  });

  it('copies nothing to others', () => {
    const estate = oldArray();
    const primaries = [named(estate, 'volume', 'ledger-old').id];
    const replication = created('replication', { id: 'r', primaries, secondaries: [], logs: [] } as never);
    expect(barredByOutside(estate, [replication])).toMatchObject([
      { code: 'array-outside', message: 'corbel-9 is an outside array: it copies nothing to others.' },
    ]);
  });

  it('a reservation keeps other hosts from writing, those of its cluster not', () => {
    const of = stageOf(withOldArray());
    of.run({ do: 'mapping.create', host: 'cargo-db-1', array: 'corbel-9', volumes: ['rota-old'] });
    of.run({ do: 'host.rescan', host: 'cargo-db-1' });
    of.run({ do: 'host-device.reserve', host: 'cargo-db-1', device: 'rota-old' });
    expect(of.codes({ do: 'host-device.reserve', host: 'cargo-db-1', device: 'rota-old' })).toEqual([
      'reservation-conflict',
    ]);
    expect(of.codes({ do: 'host-device.release', host: 'keel-backup', device: 'ledger-old' })).toEqual([
      'not-reserved',
    ]);
    const device = mountedAt(of);
    const write = () => writeFile(of.estate, device, { path: 'x', size: GIB }, of.now, newIds('w'));
    expect(write().ok).toBe(true);
    const ledger = named(of.estate, 'volume', 'ledger-old');
    of.estate.apply([changed('volume', ledger, { reservedBy: named(of.estate, 'host', 'cargo-db-1').id })]);
    expect(write()).toMatchObject({
      ok: false,
      refusal: { message: expect.stringContaining('cargo-db-1 holds a reservation on it') as string },
    });
    for (const host of ['keel-backup', 'cargo-db-1']) of.run({ do: 'host.configure', host, cluster: 'ledger' });
    expect(write().ok).toBe(true);
  });
});
