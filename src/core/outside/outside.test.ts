import { stageOf } from '../../../demo/protected';
import { named, refusalsOf } from '../../../demo/workbench';
import { changed } from '../estate/effects';
import { backWays } from '../fabric/back-ways';
import { auditFabric } from '../fabric/audit';
import { TIB } from '../units/bytes';
import { MINUTE } from '../units/duration';
import { lunOf, oldArray, zoned } from '../../../demo/old-array';
import { look, all, inspect, inspectOne, keep, old, lun, worked } from './outside.fixture';

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
