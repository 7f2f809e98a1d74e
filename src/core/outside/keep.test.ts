import { stageOf } from '../../../demo/protected';
import { differences, named, refusalsOf } from '../../../demo/workbench';
import { planChange } from '../change/plan';
import { planUndo } from '../change/undo';
import { changed, compacted, created } from '../estate/effects';
import { Overlay } from '../estate/estate';
import { newIds } from '../estate/new-ids';
import { writeFile } from '../attach/files';
import { pathFinder } from '../attach/paths';
import { checkContext, findings } from '../check/engine';
import { groupHealth } from '../raid/health';
import { writtenBeside } from '../demand/written-beside';
import { GIB, MIB, TIB } from '../units/bytes';
import { HOUR, MINUTE, SECOND } from '../units/duration';
import { volumeState } from '../volume/health';
import { outage } from '../whatif/outage';
import { oldArray, withOldArray } from '../../../demo/old-array';
import { outsideState } from './state';
import {
  look,
  inspect,
  inspectOne,
  keep,
  front,
  giveBack,
  release,
  mapBack,
  rescan,
  mount,
  moveIn,
  old,
  ours,
  mountedAt,
  lun,
  blank,
  worked,
  files,
  sound,
} from './outside.fixture';

describe('keeping the data', () => {
  it('wants hosts stopped for a minute, no mount and no reservation of others', () => {
    const of = stageOf(withOldArray());
    of.estate.apply([changed('array', named(of.estate, 'array', 'corbel-9'), { outside: true })]);
    of.run(look, inspect);
    const device = mountedAt(of);
    expect(of.codes(keep)).toEqual(['import-in-use']);
    of.pass(2 * MINUTE);
    expect(of.codes(keep)).toEqual(['import-mounted']);
    of.estate.apply([changed('hostDevice', of.estate.table('hostDevice').get(device.id)!, { writeRate: 1 })]);
    of.pass(MINUTE);
    expect(refusalsOf(of.estate, keep)[0]).toMatchObject({
      code: 'import-in-use',
      offer: { do: 'host-device.unmount', params: { host: 'keel-backup', device: device.name } },
    });
    of.run({ do: 'host-device.reserve', host: 'keel-backup', device: 'ledger-old' });
    of.run({ do: 'host-device.unmount', host: 'keel-backup', device: 'ledger-old' });
    of.pass(59 * SECOND);
    expect(refusalsOf(of.estate, keep)[0]).toMatchObject({
      code: 'import-reserved',
      message: 'corbel-9:1: Another host holds a reservation: keel-backup.',
      offer: { do: 'host-device.release' },
    });
    of.run({ do: 'host-device.release', host: 'keel-backup', device: 'ledger-old' });
    expect(of.codes(keep)).toEqual(['import-in-use']);
    of.pass(2 * SECOND);
    expect(of.codes(keep)).toEqual([]);
  });

  it('must have been inspected, and is shown to nobody else afterwards', () => {
    const of = stageOf(oldArray());
    of.run(look);
    of.pass(2 * MINUTE);
    expect(of.codes(keep)).toEqual(['import-state']);
    of.run(inspect, keep);
    expect(of.estate.table('mapping').countBy('volume', old(of).id)).toBe(0);
    expect(lun(of)).toMatchObject({ state: 'fenced', formerly: [{ lun: 0, access: 'read-write' }] });
    expect(
      of.codes({ do: 'volume.move', array: 'corbel-9', volumes: ['ledger-old'], to: 'lintel-1', pool: 'quay' }),
    ).toEqual(['outside-lun-in-use']);
    const past = { do: 'mapping.create', host: 'cargo-db-1', array: 'corbel-9', volumes: ['ledger-old'] };
    expect(refusalsOf(of.estate, past)[0]).toMatchObject({
      code: 'outside-lun-in-use',
      message: 'corbel-9:1 stands behind lintel-1: a host would write past it.',
    });
  });

  it('shows it one to one with nothing copied: hosts find their files on another device', () => {
    const of = worked();
    const before = files(of, old(of));
    expect(before).toHaveLength(2);
    of.run(keep, front, mapBack, rescan, mount);
    expect(outsideState(of.estate, lun(of)).state).toBe('fronted');
    expect(ours(of)).toMatchObject({ size: 2 * TIB, written: old(of).written, provisioning: 'thick' });
    expect(ours(of).naa).not.toBe(old(of).naa);
    expect(files(of)).toEqual(before);
    expect(mountedAt(of)).toMatchObject({ mountPoint: '/srv/ledger', fileSystem: 'xfs', naa: ours(of).naa });
    const [group] = of.estate.table('raidGroup').by('pool', ours(of).pool);
    expect(group).toMatchObject({ level: 'raid0', usable: 2 * TIB });
    sound(of);
  });

  it('is as available as the outside array: controllers, ports, zones and drives of that take it down, and it comes back', () => {
    const of = worked();
    of.run(keep, front, mapBack, rescan, mount);
    const corbel = named(of.estate, 'array', 'corbel-9').id;
    const usable = () => pathFinder(of.estate).reaches(mountedAt(of));
    const states = () => [
      volumeState(of.estate, ours(of)),
      groupHealth(of.estate, of.estate.table('raidGroup').by('pool', ours(of).pool)[0]!).state,
    ];
    expect(states()).toEqual(['ok', 'ok']);
    const hurt = outage(of.estate, [corbel]).hurt.filter(({ verdict }) => verdict === 'lost');
    expect(hurt.map(({ volume }) => volume)).toEqual(['ledger-old']);
    for (const row of of.estate.table('controller').by('array', corbel))
      of.estate.apply([changed('controller', row, { state: 'down' })]);
    expect(states()).toEqual(['lost', 'lost']);
    expect(usable()).toBe(false);
    for (const row of of.estate.table('controller').by('array', corbel))
      of.estate.apply([changed('controller', row, { state: 'up' })]);
    expect(states()).toEqual(['ok', 'ok']);
    for (const slot of [0, 1, 2])
      of.estate.apply([
        changed(
          'drive',
          of.estate
            .table('drive')
            .by('array', corbel)
            .find((drive) => drive.slot === slot)!,
          { state: 'missing' },
        ),
      ]);
    expect(states()).toEqual(['lost', 'lost']);
  });

  it('moves in while hosts work, can be given back until it is let go, and nothing is lost either way', () => {
    const of = worked();
    of.run(keep, front, mapBack, rescan, mount);
    of.run(moveIn);
    expect(of.codes(release)).toEqual(['outside-not-moved']);
    for (let hours = 0; hours < 48 && named(of.estate, 'move', 'ledger-old').state !== 'waiting'; hours++)
      of.pass(HOUR);
    expect(outsideState(of.estate, lun(of)).state).toBe('copying');
    of.run({ do: 'host-device.unmount', host: 'keel-backup', device: 'ledger-old' });
    expect(of.codes(giveBack)).toEqual(['volume-moving']);
    of.run(mount, { do: 'move.confirm', moves: ['ledger-old'] });
    of.pass(10 * SECOND);
    expect(outsideState(of.estate, lun(of)).state).toBe('moved');
    // Each write goes through to the LUN until it is let go.
    expect(writtenBeside(of.estate, ours(of)).flatMap(({ groups }) => groups.map(({ group }) => group.name))).toEqual([
      'corbel-9-lun-1',
    ]);
    expect(of.codes(release)).toEqual(['volume-moving']);
    const done = writeFile(of.estate, mountedAt(of), { path: 'after-the-cut', size: GIB }, of.now, newIds('late'));
    if (!done.ok) throw new Error(done.refusal.message);
    of.estate.apply(compacted(done.effects));
    const last = files(of);
    expect(last).toHaveLength(3);
    expect(of.codes(giveBack)).toEqual(['in-use']);
    expect(of.codes({ do: 'volume.resize', array: 'lintel-1', volumes: ['ledger-old'], size: '3 TiB' })).toContain(
      'outside-lun-in-use',
    );
    of.run({ do: 'snapshot.create', array: 'lintel-1', volume: 'ledger-old', name: 'late' });
    expect(of.codes({ do: 'host-device.unmount', host: 'keel-backup', device: 'ledger-old' }, giveBack)).toEqual([
      'outside-copies-go',
    ]);
    const unmounted = { do: 'host-device.unmount', host: 'keel-backup', device: 'ledger-old' };
    const { offer } = refusalsOf(of.estate, unmounted, giveBack)[0]!;
    of.run({ do: offer!.do, ...offer!.params });
    const replicated = created('replication', {
      id: 'r',
      name: 'Accounts',
      primaries: [ours(of).id],
      secondaries: [],
      logs: [],
      stretch: null,
      source: 'P',
    } as never);
    const elsewhere = new Overlay(of.estate);
    elsewhere.apply([replicated]);
    expect(refusalsOf(elsewhere, unmounted, giveBack)[0]).toMatchObject({
      code: 'volume-replicated',
      offer: { do: 'replication.remove', params: { replication: 'Accounts' } },
    });
    of.run({ do: 'host-device.unmount', host: 'keel-backup', device: 'ledger-old' });
    of.run(giveBack);
    expect(ours(of)).toBeUndefined();
    expect(files(of, old(of))).toEqual(last);
    expect(lun(of)).toMatchObject({ state: 'found', drive: null, front: null, formerly: [] });
    expect(of.estate.table('drive').by('lun', old(of).id)).toEqual([]);
    expect(of.estate.table('enclosure').by('outside', old(of).array)).toEqual([]);
    expect(of.estate.table('move').size).toBe(0);
    of.run(rescan, mount);
    expect(mountedAt(of)).toMatchObject({ volume: old(of).id, fileSystem: 'xfs' });
    sound(of);
  });

  it('is let go once it was moved in and accepted; its content stays as it was last written', () => {
    const of = worked();
    of.run(keep, front, mapBack, rescan, mount, moveIn);
    for (let hours = 0; hours < 48 && named(of.estate, 'move', 'ledger-old').state !== 'waiting'; hours++)
      of.pass(HOUR);
    of.run({ do: 'move.confirm', moves: ['ledger-old'] });
    of.pass(10 * SECOND);
    of.run({ do: 'move.accept', moves: ['ledger-old'] });
    of.pass(HOUR);
    const late = writeFile(of.estate, mountedAt(of), { path: 'late', size: GIB }, of.now, newIds('late'));
    if (!late.ok) throw new Error(late.refusal.message);
    of.estate.apply(compacted(late.effects));
    expect(files(of, old(of))).not.toEqual(files(of));
    // The room that the LUN was is gone, and the record of the move with it.
    expect(of.estate.table('move').size).toBe(0);
    of.run(release);
    expect(lun(of)).toMatchObject({ state: 'done', drive: null, front: null });
    expect(files(of, old(of))).toEqual(files(of));
    expect(of.codes(giveBack)).toEqual(['import-state']);
    of.run(look);
    expect(lun(of)).toMatchObject({ state: 'found' });
    sound(of);
  });

  it('what would part both sides is refused: resizing or retiring the front, retiring or moving the LUN, copies that would go', () => {
    const of = worked();
    of.run(keep, front, mapBack, rescan);
    expect(of.codes({ do: 'volume.resize', array: 'lintel-1', volumes: ['ledger-old'], size: '3 TiB' })).not.toEqual(
      [],
    );
    expect(
      of.codes({ do: 'mapping.delete', host: 'keel-backup', array: 'lintel-1', volumes: ['ledger-old'] }, rescan, {
        do: 'volume.delete',
        array: 'lintel-1',
        volumes: ['ledger-old'],
        confirm: ['ledger-old'],
      }),
    ).toEqual(['outside-lun-in-use']);
    expect(
      of.codes({ do: 'volume.delete', array: 'corbel-9', volumes: ['ledger-old'], confirm: ['ledger-old'] }),
    ).toEqual(['outside-lun-in-use']);
    const ref = `${of.estate.table('enclosure').get(of.estate.table('drive').get(lun(of).drive!)!.enclosure)!.number}:1`;
    expect(of.codes({ do: 'drive.assign-spare', array: 'lintel-1', drives: [ref] })).not.toEqual([]);
    const [group] = of.estate.table('raidGroup').by('pool', ours(of).pool);
    expect(of.codes({ do: 'raid-group.delete', array: 'lintel-1', name: group!.name })).toEqual(['in-pool']);
  });

  it('every step can be undone: the estate is as it was', () => {
    const of = worked();
    const plan = planChange(of.estate, [keep, front, mapBack], { seed: 'u', now: of.now, month: '2031-04' });
    expect(plan.refusals).toEqual([]);
    const overlay = new Overlay(of.estate);
    for (const step of plan.steps) overlay.apply(step.effects);
    expect(differences(of.estate, overlay)).not.toEqual([]);
    const undone = planUndo(overlay, plan.steps);
    expect(undone.refusals).toEqual([]);
    expect(differences(of.estate, undone.overlay)).toEqual([]);
  });

  it('is given back by another number where a host uses that of before', () => {
    const of = worked();
    of.run(keep, { do: 'mapping.create', host: 'keel-backup', array: 'corbel-9', volumes: ['rota-old'] });
    const [other] = of.estate.table('mapping').by('volume', named(of.estate, 'volume', 'rota-old').id);
    expect(other!.lun).toBe(0);
    of.run(giveBack);
    expect(of.estate.table('mapping').by('volume', old(of).id)).toMatchObject([{ lun: 1 }]);
  });

  it('is found to survive nothing unless something is declared, and moving it in is offered', () => {
    const of = worked();
    const said = () =>
      findings(of.estate, checkContext(of.estate, of.now)).filter(({ check }) => check === 'group-level-zero');
    of.run(keep, front);
    expect(said()).toMatchObject([
      {
        says: 'corbel-9-lun-1 survives no failure, and ledger-old lies straight on it.',
        mend: { do: 'volume.move', params: { volumes: ['ledger-old'] } },
      },
    ]);
    of.run(giveBack, inspectOne, keep, { ...front, declared: 1 });
    expect(said()).toEqual([]);
  });

  it('one that is no whole number of extents is shown whole, and as room without the rest', () => {
    const of = worked();
    const luns = ['corbel-9:2'];
    const size = 1_000_001 * MIB;
    of.run({ do: 'outside.keep', array: 'lintel-1', luns }, { do: 'outside.front', array: 'lintel-1', lun: luns[0] });
    expect(ours(of, 'rota-old').size).toBe(size);
    sound(of);
    of.run({ do: 'outside.give-back', array: 'lintel-1', luns }, { do: 'outside.inspect', array: 'lintel-1', luns });
    of.run(blank(of, { luns, serials: [named(of.estate, 'volume', 'rota-old').serial] }));
    expect(named(of.estate, 'raidGroup', 'corbel-9-lun-2').usable).toBe(1_000_000 * MIB);
  });

  it('given back at once, hosts have what they had', () => {
    const of = worked();
    const before = files(of, old(of));
    of.run(keep, giveBack);
    expect(lun(of).state).toBe('found');
    of.run(inspect, keep, front, giveBack);
    expect(ours(of)).toBeUndefined();
    expect(of.estate.table('mapping').by('volume', old(of).id)).toMatchObject([{ lun: 0, access: 'read-write' }]);
    expect(files(of, old(of))).toEqual(before);
    of.run(rescan, mount);
    expect(mountedAt(of).volume).toBe(old(of).id);
  });
});
