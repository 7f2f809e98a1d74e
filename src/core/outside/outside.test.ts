import { stageOf, type Stage } from '../../../demo/protected';
import { slots } from '../../../demo/names';
import { differences, named, refusalsOf } from '../../../demo/workbench';
import { planChange } from '../change/plan';
import { planUndo } from '../change/undo';
import { changed, compacted, created } from '../estate/effects';
import { Overlay } from '../estate/estate';
import { newIds } from '../estate/new-ids';
import { backWays } from '../fabric/back-ways';
import { auditFabric } from '../fabric/audit';
import { writeFile } from '../attach/files';
import { pathFinder } from '../attach/paths';
import { checkContext, findings } from '../check/engine';
import { groupHealth } from '../raid/health';
import { derivedFacts } from '../service/facts';
import { writtenBeside } from '../demand/written-beside';
import { poolUsage, tiersOf } from '../pool/usage';
import { tried } from '../rules/book';
import { GIB, MIB, TIB } from '../units/bytes';
import { HOUR, MINUTE, SECOND } from '../units/duration';
import { volumeState } from '../volume/health';
import { outage } from '../whatif/outage';
import { lunOf, oldArray, withOldArray, zoned } from '../../../demo/old-array';
import { barredByOutside } from './bar';
import { outsideState } from './state';

const look = { do: 'outside.rescan', array: 'lintel-1' };
const all = ['corbel-9:0', 'corbel-9:1', 'corbel-9:2'];
const inspect = { do: 'outside.inspect', array: 'lintel-1', luns: all };
const inspectOne = { ...inspect, luns: ['corbel-9:1'] };
const keep = { do: 'outside.keep', array: 'lintel-1', luns: ['corbel-9:1'] };
const front = { do: 'outside.front', array: 'lintel-1', lun: 'corbel-9:1' };
const giveBack = { do: 'outside.give-back', array: 'lintel-1', luns: ['corbel-9:1'] };
const release = { do: 'outside.release', array: 'lintel-1', luns: ['corbel-9:1'] };
const mapBack = { do: 'mapping.create', host: 'keel-backup', array: 'lintel-1', volumes: ['ledger-old'] };
const rescan = { do: 'host.rescan', host: 'keel-backup' };
const mount = { do: 'host-device.mount', host: 'keel-backup', device: 'ledger-old', mountPoint: '/srv/ledger' };
const moveIn = { do: 'volume.move', array: 'lintel-1', volumes: ['ledger-old'], pool: 'quay' };

const old = (of: Stage) =>
  of.estate
    .table('volume')
    .by('array', named(of.estate, 'array', 'corbel-9').id)
    .find(({ name }) => name === 'ledger-old')!;
const ours = (of: Stage, name = 'ledger-old') =>
  of.estate
    .table('volume')
    .by('array', named(of.estate, 'array', 'lintel-1').id)
    .find((row) => row.name === name)!;
const mountedAt = (of: Stage) => [...of.estate.table('hostDevice').values()].find((row) => row.mountPoint !== null)!;
const lun = (of: Stage, name = 'corbel-9:1') => named(of.estate, 'outsideLun', name);
const blank = (of: Stage, more: Record<string, unknown> = {}) => ({
  do: 'outside.blank',
  array: 'lintel-1',
  luns: ['corbel-9:0'],
  serials: [named(of.estate, 'volume', 'hollow').serial],
  ...more,
});

/** A day's work on the old disk, then it is left: files of known content. */
function worked(): Stage {
  const of = stageOf(withOldArray());
  const device = mountedAt(of);
  const newId = newIds('files');
  for (const path of ['journal-2029', 'journal-2030']) {
    const done = writeFile(
      of.estate,
      of.estate.table('hostDevice').get(device.id)!,
      { path, size: 30 * GIB },
      of.now,
      newId,
    );
    if (!done.ok) throw new Error(done.refusal.message);
    of.estate.apply(compacted(done.effects));
  }
  of.run({ do: 'host-device.unmount', host: 'keel-backup', device: 'ledger-old' });
  of.estate.apply([changed('array', named(of.estate, 'array', 'corbel-9'), { outside: true })]);
  of.pass(5 * MINUTE);
  of.run(look, inspect);
  return of;
}
const files = (of: Stage, volume = ours(of)) => volume.files.map(({ path, checksum }) => `${path} ${checksum}`);
const sound = (of: Stage) => expect(tried(of.estate, []).broken).toEqual([]);

describe('finding', () => {
  it('looks over the fabric and names what is shown, once', () => {
    const of = stageOf(oldArray());
    of.run(look);
    expect([...of.estate.table('outsideLun').values()].map(({ name, state }) => `${name} ${state}`)).toEqual(
      all.map((name) => `${name} found`),
    );
    expect(lunOf(of.estate, 'rota-old').name).toBe('corbel-9:2');
    expect(of.codes(look)).toEqual(['nothing-new']);
  });

  it('needs a zone that joins both arrays, and says which is missing', () => {
    const estate = oldArray();
    const look = { do: 'outside.rescan', array: 'purlin-1' };
    const [refusal] = refusalsOf(estate, look);
    const { do: kind, params } = refusal!.offer!;
    expect(
      refusalsOf(estate, { do: kind, ...params }, { do: 'zone-set.activate', fabric: 'A', zoneSet: 'set_A' }, look),
    ).toEqual([]);
    expect(refusal).toMatchObject({
      code: 'outside-unseen',
      message: expect.stringContaining('sees nothing of corbel-9') as string,
    });
    expect(
      refusalsOf(
        estate,
        ...zoned(estate, ['A'], 'purlin-1'),
        { do: 'zone-set.activate', fabric: 'A', zoneSet: 'set_A' },
        look,
      ),
    ).toEqual([]);
  });

  it('counts every pair of ports that is zoned, logged in and joined by a route', () => {
    const estate = oldArray();
    const [own, outside] = ['lintel-1', 'corbel-9'].map((name) => named(estate, 'array', name).id) as [string, string];
    expect(backWays(estate, own, outside)).toHaveLength(8);
    const port = [...estate.table('port').by('array', outside)].find(({ name }) => name === 'a0')!;
    estate.apply([changed('port', port, { state: 'down' })]);
    expect(backWays(estate, own, outside)).toHaveLength(6);
    expect(backWays(estate, named(estate, 'array', 'purlin-1').id, outside)).toEqual([]);
  });

  it('forgets what is gone, and what is no longer shown and nothing of which is in use', () => {
    const of = stageOf(oldArray());
    const names = () => [...of.estate.table('outsideLun').values()].map(({ name }) => name);
    of.run(look);
    of.pass(2 * MINUTE);
    of.run({ do: 'volume.delete', array: 'corbel-9', volumes: ['rota-old'], keepDays: 0 });
    expect(names()).toEqual(['corbel-9:0', 'corbel-9:1']);
    of.run(inspectOne, keep);
    for (const row of of.estate.table('activeZone').values())
      of.estate.apply([changed('activeZone', row, { members: [], principals: [] })]);
    of.run(look);
    expect(names()).toEqual(['corbel-9:1']);
  });

  it('an outside array does not look itself', () => {
    expect(refusalsOf(oldArray(), { do: 'outside.rescan', array: 'corbel-9' })[0]!.code).toBe('array-outside');
  });

  it('a zone of both arrays is not idle to those who audit zones', () => {
    const estate = oldArray();
    const fabric = named(estate, 'fabric', 'A');
    expect(auditFabric(estate, fabric).filter(({ subject }) => subject.name === 'old_lintel-1_A')).toEqual([]);
    estate.apply([changed('array', named(estate, 'array', 'corbel-9'), { outside: false })]);
    expect(auditFabric(estate, fabric).map(({ kind, subject }) => `${kind} ${subject.name}`)).toContain(
      'zone-no-target old_lintel-1_A',
    );
  });
});

describe('inspecting', () => {
  it('reads size, serial, sectors, what lies there, who wrote last', () => {
    const of = worked();
    expect(lun(of)).toMatchObject({
      state: 'inspected',
      size: 2 * TIB,
      serial: old(of).serial,
      sector: 512,
      holds: expect.stringMatching(/^xfs file system, 6\d(\.\d+)? GiB used$/) as string,
      writtenAt: of.now - 5 * MINUTE,
      reservedBy: null,
    });
    expect(lun(of, 'corbel-9:0')).toMatchObject({ holds: null, writtenAt: null });
  });

  it('is refused where no way leads there, and where the outside array has lost it', () => {
    const of = stageOf(oldArray());
    of.run(look);
    for (const controller of of.estate.table('controller').by('array', named(of.estate, 'array', 'corbel-9').id))
      of.estate.apply([changed('controller', controller, { state: 'down' })]);
    expect(of.codes({ ...inspect, luns: ['corbel-9:1'] })).toEqual(['import-unreadable']);
  });
});

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
