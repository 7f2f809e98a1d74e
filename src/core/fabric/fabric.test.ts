import { bareEstate, carryOut, codesOf } from '../../../demo/workbench';
import { changed, created } from '../estate/effects';
import { rowOf } from '../estate/entities';
import type { Estate } from '../estate/estate';
import { compareZones } from './compare';
import { deviceByWwpn, fcid } from './devices';
import { commonSpeed, creditShare, creditsNeeded, roundTripMs, tcpShare } from '../network/link';
import { talkers, trunkLoads } from './load';
import { parseMember, parseZoneName } from './member';
import { fabricRoutes } from './routes';
import { zoneBook, zonePermits } from './zoning';
import { wwpn, registered, carved, attached, after, fabricNamed, switchNamed, pathsOf } from './fabric.fixture';

describe('names and members', () => {
  test.each([
    ['cargo_hba0', 'ok'],
    ['9cargo', 'bad-zone-name'],
    ['cargo.hba0', 'bad-zone-name'],
    ['', 'name-missing'],
    ['a'.repeat(65), 'bad-zone-name'],
  ])('%s: %s', (text, why) => {
    const result = parseZoneName(text, 'zone');
    expect(result.ok ? 'ok' : result.reason).toBe(why);
  });
  test.each([
    ['50:00:05:e0:05:30:00:01', 'wwpn:500005e005300001'],
    ['node 20:00:05:e0:05:30:00:01', 'wwnn:200005e005300001'],
    ['1,4', 'port:1,4'],
    ['port 1, 4', 'port:1,4'],
    ['cargo_hba0', 'alias:cargo_hba0'],
    ['wwpn:500005e005300001', 'wwpn:500005e005300001'],
  ])('%s is kept as %s', (text, kept) => expect(parseMember(text)).toMatchObject({ ok: true, value: kept }));
  test.each([
    ['50:00:05:e0:05:30:00', 'too-short'],
    ['240,1', 'bad-domain'],
    ['', 'empty'],
  ])('%s is refused: %s', (text, reason) => expect(parseMember(text)).toMatchObject({ ok: false, reason }));
});

describe('joining a host', () => {
  test('dual fabric, one port a fabric, both controllers: four paths, half of them optimized', () => {
    const paths = pathsOf(after(attached));
    expect(paths).toMatchObject({ expected: 4, usable: 4, optimized: 2, missing: [] });
    expect(new Set(paths.found.map((path) => path.transport))).toEqual(new Set(['fc']));
  });

  test('zones hold one initiator, are named by the pattern, and use aliases made for it', () => {
    const estate = after(attached);
    const zones = estate.table('zone').by('fabric', fabricNamed(estate, 'A').id);
    expect(zones.map((zone) => [zone.name, [...zone.members].sort()])).toEqual([
      ['cargo-db-1_hba0__lintel-1', ['alias:cargo-db-1_hba0', 'alias:lintel-1_a0', 'alias:lintel-1_b0']],
    ]);
    const set = estate.table('zoneSet').by('fabric', fabricNamed(estate, 'A').id)[0]!;
    expect(compareZones(estate, set)).toEqual([]);
  });

  test('parting from one array leaves what else its alias stands for in the defined zone', () => {
    const estate = after(attached);
    const name = 'cargo-db-1_hba0__lintel-1';
    const fabric = fabricNamed(estate, 'A');
    const lintel = [...estate.table('array').values()].find((row) => row.name === 'lintel-1')!;
    const inFabric = [...estate.table('port').values()].filter(
      (row) => row.switch !== null && estate.table('switch').get(row.switch)!.fabric === fabric.id,
    );
    const own = inFabric.find((row) => row.array === lintel.id && row.name === 'a0')!.wwpn!;
    const other = inFabric.find((row) => row.array !== lintel.id)!.wwpn!;
    const activate = { do: 'zone-set.activate', fabric: 'A', zoneSet: fabric.activeSet! };
    carryOut(
      estate,
      [
        { do: 'alias.create', fabric: 'A', name: 'both_arrays', members: [own, other] },
        { do: 'zone.configure', fabric: 'A', name, members: ['cargo-db-1_hba0', 'both_arrays'] },
        activate,
      ],
      'alias',
    );
    carryOut(estate, [{ do: 'zoning.part', fabric: 'A', host: 'cargo-db-1', array: 'lintel-1' }], 'part');
    carryOut(estate, [activate], 'again');
    const active = estate
      .table('activeZone')
      .by('fabric', fabric.id)
      .find((zone) => zone.name === name)!;
    expect([active.members.includes(`wwpn:${other}`), active.members.includes(`wwpn:${own}`)]).toEqual([true, false]);
  });

  test('joining again changes nothing; parting takes zones, and is refused while a volume is mounted', () => {
    const estate = after(attached);
    const again = carryOut(
      estate,
      [{ do: 'zoning.join', fabric: 'A', host: 'cargo-db-1', array: 'lintel-1', ports: ['a0', 'b0'] }],
      'again',
    );
    expect(again[0]!.effects).toEqual([]);
    carryOut(estate, [{ do: 'zoning.part', fabric: 'A', host: 'cargo-db-1', array: 'lintel-1' }], 'part');
    expect(estate.table('activeZone').by('fabric', fabricNamed(estate, 'A').id)).toEqual([]);
    carryOut(
      estate,
      [
        { do: 'host.rescan', host: 'cargo-db-1' },
        { do: 'host-device.format', host: 'cargo-db-1', device: 'cargo', fileSystem: 'xfs', mountPoint: '/srv/cargo' },
      ],
      'mount',
    );
    expect(codesOf(estate, { do: 'zoning.part', fabric: 'B', host: 'cargo-db-1', array: 'lintel-1' })).toEqual([
      'in-use',
    ]);
  });

  test.each([
    ['no-port-in-fabric', { host: 'gate-1' }],
    ['fabric-unknown', { host: 'cargo-db-1', fabric: 'C' }],
    ['host-unknown', { host: 'cargo-db-9' }],
  ])('is refused: %s', (code, more) => {
    const estate = after([...attached, { do: 'host.create', name: 'gate-1', os: 'linux', site: 'Nordkai' } as never]);
    expect(codesOf(estate, { do: 'zoning.join', fabric: 'A', array: 'lintel-1', ...more })).toContain(code);
  });
});

describe('who reaches whom', () => {
  const set = (estate: Estate, name: string, state: 'up' | 'down') =>
    estate.apply([changed('switch', switchNamed(estate, name), { state })]);

  test('reasons in their order', () => {
    const estate = after(attached);
    const hba0 = estate.table('interface').by('wwpn', wwpn('cargo-db-1', 'hba0'))[0]!;
    estate.apply([changed('interface', hba0, { state: 'down' })]);
    expect(pathsOf(estate).missing.map((gap) => gap.reason)).toEqual([
      'initiator-not-logged-in',
      'initiator-not-logged-in',
    ]);
    set(estate, 'a1', 'down');
    expect(pathsOf(estate).missing[0]!.reason).toBe('initiator-not-logged-in');
    estate.apply([changed('interface', estate.table('interface').get(hba0.id)!, { state: 'up' })]);
    expect(pathsOf(estate).missing[0]!.reason).toBe('switch-down');
    set(estate, 'b1', 'down');
    expect(pathsOf(estate)).toMatchObject({ usable: 0, expected: 4 });
    // What is nearer to the drives is named, whatever else is broken.
    for (const controller of estate.table('controller').values())
      estate.apply([changed('controller', controller, { state: 'down' })]);
    expect(new Set(pathsOf(estate).missing.map((gap) => gap.reason))).toEqual(new Set(['controller-down']));
  });

  test('a zone that is defined and not active lets nobody through', () => {
    const estate = after([
      ...carved,
      registered('cargo-db-1'),
      { do: 'zone.create', fabric: 'A', name: 'z_cargo', members: [wwpn('cargo-db-1', 'hba0'), '1,0'] },
      { do: 'mapping.create', host: 'cargo-db-1', array: 'lintel-1', volumes: ['cargo'] },
    ] as never);
    expect(pathsOf(estate).missing.map((gap) => gap.reason)).toContain('not-zoned');
    const { activeSet, name } = fabricNamed(estate, 'A');
    expect([activeSet, name]).toEqual([null, 'A']);
    carryOut(estate, [{ do: 'zone-set.activate', fabric: 'A', zoneSet: 'set_A' }], 'on');
    expect(pathsOf(estate)).toMatchObject({ usable: 1 });
  });

  test('FCIDs begin with the domain of the switch', () => {
    const estate = bareEstate();
    expect(fcid(deviceByWwpn(estate, wwpn('deck-3', 'hba0'))!)).toBe('020a00');
  });

  test('the default zone joins whoever is in no active zone, as long as it permits', () => {
    const estate = bareEstate();
    const [i, t] = [
      deviceByWwpn(estate, wwpn('deck-1', 'hba0'))!,
      deviceByWwpn(
        estate,
        [...estate.table('port').values()].find(
          (port) => port.switchPort === 0 && port.switch === switchNamed(estate, 'a1').id,
        )!.wwpn!,
      )!,
    ];
    expect(zoneBook(estate, i.fabric!).mayTalk(i, t)).toBe(false);
    estate.apply([changed('fabric', fabricNamed(estate, 'A'), { defaultZone: 'permit' })]);
    expect(zoneBook(estate, i.fabric!).mayTalk(i, t)).toBe(true);
    estate.apply([
      created(
        'activeZone',
        rowOf('activeZone', { id: 'act_x', fabric: i.fabric!, name: 'x', members: [`wwpn:${i.wwpn}`] }),
      ),
    ]);
    expect(zoneBook(estate, i.fabric!).mayTalk(i, t)).toBe(false);
  });

  test('in a peer zone principals meet peers and nobody else', () => {
    const zone = { kind: 'peer' as const, members: ['wwpn:1', 'wwpn:2'], principals: ['wwpn:9'] };
    expect(zonePermits(zone, ['wwpn:1'], ['wwpn:9'])).toBe(true);
    expect(zonePermits(zone, ['wwpn:9'], ['wwpn:2'])).toBe(true);
    expect(zonePermits(zone, ['wwpn:1'], ['wwpn:2'])).toBe(false);
    expect(zonePermits({ ...zone, kind: 'ordinary' }, ['wwpn:1'], ['wwpn:2'])).toBe(true);
  });
});

describe('routes', () => {
  test('hops, cuts and what one link more changes', () => {
    const estate = bareEstate();
    const [a1, a2] = [switchNamed(estate, 'a1').id, switchNamed(estate, 'a2').id];
    const isls = [...estate.table('isl').values()].filter((isl) => isl.a === a1);
    expect(fabricRoutes(estate).hops(a1, a2)).toBe(1);
    expect(fabricRoutes(estate).hops(a1, switchNamed(estate, 'b1').id)).toBeNull();
    expect(fabricRoutes(estate).cuts(a1, a2)).toEqual([a1, a2].sort());
    expect(fabricRoutes(estate, new Set([isls[0]!.id])).cuts(a1, a2)).toContain(isls[1]!.id);
    expect(fabricRoutes(estate, new Set(isls.map((isl) => isl.id))).hops(a1, a2)).toBeNull();
  });

  test('what crosses between switches, over what carries it', () => {
    const estate = after([
      ...carved,
      registered('deck-3'),
      { do: 'zoning.join', fabric: 'A', host: 'deck-3', array: 'lintel-1' },
    ] as never);
    expect(talkers(estate).pairs).toHaveLength(2);
    const trunk = trunkLoads(estate).find((one) => one.a.name === 'a1')!;
    expect(trunk).toMatchObject({ crossing: 32, carries: 64, ratio: 0.5 });
  });
});

describe('links', () => {
  test('credits for distance', () => {
    expect(creditsNeeded(100, 8)).toBe(393);
    expect(creditsNeeded(10, 16)).toBe(80);
    expect(creditsNeeded(10, 32)).toBe(158);
    expect(creditsNeeded(0, 32)).toBe(2);
    expect(creditShare(393, 100, 8)).toBe(1);
    expect(creditShare(196, 100, 8)).toBeCloseTo(0.5, 2);
  });
  test('speeds and shares', () => {
    expect(commonSpeed(32, 8)).toBe(8);
    expect(commonSpeed(32, 4)).toBeNull();
    expect(tcpShare(1500)).toBeCloseTo(0.9493, 4);
    expect(tcpShare(9000)).toBeCloseTo(0.9914, 4);
    expect(roundTripMs(38)).toBeCloseTo(0.38);
  });
});
