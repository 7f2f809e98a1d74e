import fc from 'fast-check';
import { bareEstate, carryOut, codesOf } from '../../../demo/workbench';
import { serverWwpn } from '../../../demo/hardware';
import { changed, created } from '../estate/effects';
import { rowOf } from '../estate/entities';
import type { Estate } from '../estate/estate';
import { pathFinder } from '../attach/paths';
import { compareZones } from './compare';
import { deviceByWwpn, fcid } from './devices';
import { auditFabric } from './audit';
import { commonSpeed, creditShare, creditsNeeded, roundTripMs, tcpShare } from '../network/link';
import { talkers, trunkLoads } from './load';
import { parseMember, parseZoneName } from './member';
import { mergeFabrics, type MergeSide } from './merge';
import { fabricRoutes } from './routes';
import { planZones, type PlanZone, type ZoningFacts } from './zone-plan';
import { zoneBook, zonePermits } from './zoning';

const wwpn = (server: string, port: string) => serverWwpn(server, port);
const registered = (name: string) => ({
  do: 'host.create',
  name,
  os: 'linux',
  site: 'Nordkai',
  initiators: [wwpn(name, 'hba0'), wwpn(name, 'hba1')],
});
const carved = [
  {
    do: 'raid-group.create',
    array: 'lintel-1',
    name: 'rg-1',
    level: 'raid6',
    drives: Array.from({ length: 10 }, (_, k) => `0:${k}`),
  },
  { do: 'pool.create', array: 'lintel-1', name: 'quay', raidGroups: ['rg-1'] },
  { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'cargo', size: '200 GiB' },
];
const attached = [
  ...carved,
  registered('cargo-db-1'),
  { do: 'zoning.join', fabric: 'A', host: 'cargo-db-1', array: 'lintel-1' },
  { do: 'zoning.join', fabric: 'B', host: 'cargo-db-1', array: 'lintel-1' },
  { do: 'mapping.create', host: 'cargo-db-1', array: 'lintel-1', volumes: ['cargo'] },
];
const after = (operations: { do: string }[]): Estate => {
  const estate = bareEstate();
  carryOut(estate, operations);
  return estate;
};
const fabricNamed = (estate: Estate, name: string) =>
  [...estate.table('fabric').values()].find((row) => row.name === name)!;
const switchNamed = (estate: Estate, name: string) =>
  [...estate.table('switch').values()].find((row) => row.name === name)!;
const pathsOf = (estate: Estate) => pathFinder(estate).paths([...estate.table('mapping').values()][0]!);

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

describe('merging fabrics', () => {
  const zone = (...members: string[]) => ({ kind: 'ordinary' as const, members, principals: [] });
  const side = (zones: Record<string, ReturnType<typeof zone>> | null, more: Partial<MergeSide> = {}): MergeSide => ({
    zones: zones && new Map(Object.entries(zones)),
    setName: 'harbour',
    aliases: new Map(),
    defaultZone: 'deny',
    mergeControl: 'allow',
    domains: [1],
    raTov: 10_000,
    edTov: 2_000,
    ...more,
  });
  const other = (zones: Record<string, ReturnType<typeof zone>> | null, more: Partial<MergeSide> = {}) =>
    side(zones, { domains: [2], ...more });

  test('equal zones in another order merge, and others are added', () => {
    const result = mergeFabrics(side({ z1: zone('i1', 't1') }), other({ z1: zone('t1', 'I1'), z2: zone('i2', 't1') }));
    expect(result.outcome).toBe('merged');
    expect([...result.zones.keys()]).toEqual(['z1', 'z2']);
  });

  test.each<[string, MergeSide, MergeSide]>([
    ['timer-mismatch', side({}), other({}, { edTov: 4_000 })],
    ['domain-overlap', side({}), other({}, { domains: [1] })],
    ['default-zone-differs', side({}), other({}, { defaultZone: 'permit' })],
    ['merge-control-differs', side({}), other({}, { mergeControl: 'restrict' })],
    [
      'restrict-not-identical',
      side({ z: zone('i') }, { mergeControl: 'restrict' }),
      other(null, { mergeControl: 'restrict' }),
    ],
    ['zone-content-differs', side({ z1: zone('i1', 't1') }), other({ z1: zone('i1', 't2') })],
    [
      'zone-kind-differs',
      side({ z1: zone('i1') }),
      other({ z1: { kind: 'peer', members: ['i1'], principals: [] } as never }),
    ],
    [
      'alias-content-differs',
      side({}, { aliases: new Map([['x', ['1']]]) }),
      other({}, { aliases: new Map([['x', ['2']]]) }),
    ],
    ['name-kind-clash', side({ x: zone('i') }), other({}, { aliases: new Map([['x', ['2']]]) })],
  ])('%s', (kind, a, b) => {
    const result = mergeFabrics(a, b);
    expect(result.outcome).toBe('isolated');
    expect(result.conflicts.map((one) => one.kind)).toEqual([kind]);
  });

  const zones = fc.dictionary(
    fc.constantFrom('z1', 'z2', 'z3'),
    fc.uniqueArray(fc.constantFrom('a', 'b', 'c'), { minLength: 1 }).map((members) => zone(...members)),
  );
  test('it does not matter which side asks, and what is merged merges with either part', () =>
    fc.assert(
      fc.property(zones, zones, (one, two) => {
        const [a, b] = [side(one), other(two)];
        const result = mergeFabrics(a, b);
        expect(mergeFabrics(b, a).conflicts).toEqual(result.conflicts);
        if (result.outcome === 'merged')
          for (const part of [a, b])
            expect(mergeFabrics({ ...side({}), zones: result.zones, domains: [99] }, part).conflicts).toEqual([]);
      }),
    ));
});

describe('the smallest change', () => {
  /** A fabric of plain names: i1… are initiators, t1… targets. */
  const factsOf = (zones: PlanZone[]): ZoningFacts => {
    let made = 0;
    const inside = (zone: PlanZone, letter: string) =>
      [...zone.principals, ...zone.members].filter((member) => member.startsWith(letter));
    return {
      zonesOf: (device) => zones.filter((zone) => [...zone.members, ...zone.principals].includes(device)),
      formsOf: (device) => [device],
      initiatorsIn: (zone) => inside(zone, 'i'),
      targetsIn: (zone) => inside(zone, 't'),
      newName: () => `new${made++}`,
      memberFor: (device) => device,
      defaultPermits: false,
    };
  };
  const zone = (name: string, ...members: string[]): PlanZone => ({ name, kind: 'ordinary', members, principals: [] });
  const planOf = (zones: PlanZone[], want: [string, string][], managed = ['i1']) => {
    const result = planZones(factsOf(zones), want, managed);
    if (!result.ok) throw new Error(result.reason);
    return result.plan;
  };

  test('a target joins the zone the initiator has for itself', () => {
    const plan = planOf(
      [zone('z', 'i1', 't1')],
      [
        ['i1', 't1'],
        ['i1', 't2'],
      ],
    );
    expect(plan.edits.map((edit) => edit.after!.members)).toEqual([['i1', 't1', 't2']]);
    expect(plan.cost).toBe(1);
  });
  test('a zone of its own that loses its target takes the new one: two members, not four', () => {
    const plan = planOf([zone('z', 'i1', 't1')], [['i1', 't2']]);
    expect(plan.edits.map((edit) => edit.after!.members)).toEqual([['i1', 't2']]);
    expect(plan.cost).toBe(2);
  });
  test('a target leaves a shared zone where the others reach it elsewhere', () => {
    const plan = planOf([zone('z', 'i1', 'i2', 't1', 't2'), zone('y', 'i2', 't2')], [['i1', 't1']]);
    expect(plan.edits.map((edit) => edit.after)).toEqual([zone('z', 'i1', 'i2', 't1')]);
    expect(plan.cost).toBe(1);
  });
  test('what goes, goes first: the zone that one leaves becomes the other’s own', () => {
    const plan = planOf(
      [zone('z', 'i1', 'i2', 't1')],
      [
        ['i1', 't1'],
        ['i1', 't2'],
        ['i1', 't3'],
        ['i2', 't2'],
        ['i2', 't3'],
      ],
      ['i1', 'i2'],
    );
    expect(plan.cost).toBe(6);
    expect(plan.edits.map((edit) => edit.after!.members)).toEqual([
      ['i1', 't1', 't2', 't3'],
      ['i2', 't2', 't3'],
    ]);
  });
  test('an initiator never brings a target into a zone it shares', () => {
    const plan = planOf(
      [zone('z', 'i1', 'i2', 't1')],
      [
        ['i1', 't1'],
        ['i1', 't2'],
      ],
    );
    expect(plan.edits.map((edit) => edit.after)).toEqual([zone('new0', 'i1', 't2')]);
  });
  test('it leaves a zone it shares, and what it still needs becomes its own zone', () => {
    const plan = planOf([zone('z', 'i1', 'i2', 't1', 't2')], [['i1', 't1']]);
    expect(plan.edits.map((edit) => edit.after)).toEqual([zone('z', 'i2', 't1', 't2'), zone('new0', 'i1', 't1')]);
  });
  test('a zone left without a pair goes', () => {
    expect(planOf([zone('z', 'i1', 't1')], []).edits).toEqual([{ before: zone('z', 'i1', 't1'), after: null }]);
  });
  test('nothing to do costs nothing', () =>
    expect(planOf([zone('z', 'i1', 't1')], [['i1', 't1']])).toMatchObject({ cost: 0, edits: [] }));

  const initiators = ['i1', 'i2', 'i3'];
  const targets = ['t1', 't2', 't3'];
  const anyZones = fc.array(
    fc.uniqueArray(fc.constantFrom(...initiators, ...targets), { minLength: 1, maxLength: 5 }),
    { maxLength: 5 },
  );
  test('afterwards the managed pairs are just the wanted ones, and no other pair has moved', () =>
    fc.assert(
      fc.property(anyZones, fc.uniqueArray(fc.constantFrom(...targets)), (lists, wanted) => {
        const zones = lists.map((members, k) => zone(`z${k}`, ...members));
        const plan = planOf(
          zones,
          wanted.map((t): [string, string] => ['i1', t]),
        );
        const now = new Map(zones.map((one) => [one.name, one]));
        for (const edit of plan.edits) {
          if (edit.after) now.set(edit.after.name, edit.after);
          else now.delete(edit.before!.name);
        }
        const pairs = (all: PlanZone[]) =>
          initiators.flatMap((i) =>
            targets
              .filter((t) => all.some((one) => one.members.includes(i) && one.members.includes(t)))
              .map((t) => `${i} ${t}`),
          );
        const [was, is] = [pairs(zones), pairs([...now.values()])];
        expect(is.filter((pair) => pair.startsWith('i1'))).toEqual(
          targets.filter((t) => wanted.includes(t)).map((t) => `i1 ${t}`),
        );
        expect(is.filter((pair) => !pair.startsWith('i1'))).toEqual(was.filter((pair) => !pair.startsWith('i1')));
      }),
    ));
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

describe('audit', () => {
  const kindsOf = (operations: object[]) => {
    const estate = after([...attached, ...operations] as never);
    return auditFabric(estate, fabricNamed(estate, 'A')).map((line) => line.kind);
  };
  const hba = (server: string) => wwpn(server, 'hba0');
  const make = (name: string, members: string[]) => ({ do: 'zone.create', fabric: 'A', name, members });
  test('a clean fabric has nothing to mend', () => expect(kindsOf([])).toEqual([]));
  test.each<[string, object[]]>([
    ['zone-many-initiators', [make('z_two', [hba('deck-1'), hba('deck-2'), 'lintel-1_a0'])]],
    ['zone-one-member', [make('z_one', [hba('deck-1')])]],
    ['zone-no-target', [make('z_none', [hba('deck-1'), hba('deck-2')])]],
    ['zone-stale-member', [make('z_gone', [hba('deck-1'), 'lintel-1_a0', '50:00:00:00:00:00:00:01'])]],
    [
      'zone-member-near-miss',
      [make('z_near', [hba('deck-1').replace(/.$/, (digit) => (digit === '0' ? '1' : '0')), 'lintel-1_a0'])],
    ],
    ['zone-duplicate', [make('z_same', ['cargo-db-1_hba0', 'lintel-1_a0', 'lintel-1_b0'])]],
    ['zone-mixed-members', [make('z_mixed', ['cargo-db-1_hba0', '1,8', 'lintel-1_a0'])]],
    ['alias-unused', [{ do: 'alias.create', fabric: 'A', name: 'old_hba', members: [hba('deck-1')] }]],
    ['default-zone-permit', [{ do: 'fabric.configure', fabric: 'A', defaultZone: 'permit' }]],
    ['defined-differs-from-active', [make('z_new', [hba('deck-1'), 'lintel-1_a0'])]],
    [
      'zone-without-mapping',
      [registered('deck-1'), { do: 'zoning.join', fabric: 'A', host: 'deck-1', array: 'purlin-1' }],
    ],
  ])('%s appears', (kind, operations) => expect(kindsOf(operations)).toContain(kind));
});

describe('refused in words', () => {
  test.each<[string, object]>([
    ['bad-zone-name', { do: 'zone.create', fabric: 'A', name: '9z', members: ['1,0'] }],
    ['alias-undefined', { do: 'zone.create', fabric: 'A', name: 'z', members: ['nobody_hba0'] }],
    ['name-taken', { do: 'zone.create', fabric: 'A', name: 'lintel-1_a0', members: ['1,0'] }],
    ['peer-without-principal', { do: 'zone.create', fabric: 'A', name: 'z', kind: 'peer', members: ['1,0'] }],
    ['alias-nested', { do: 'alias.create', fabric: 'A', name: 'x', members: ['lintel-1_a0'] }],
    ['alias-in-use', { do: 'alias.delete', fabric: 'A', name: 'lintel-1_a0' }],
    ['zone-set-active', { do: 'zone-set.delete', fabric: 'A', name: 'set_A' }],
    ['pattern-too-poor', { do: 'fabric.configure', fabric: 'A', zonePattern: 'zone' }],
    ['zone-unknown', { do: 'zone.delete', fabric: 'A', name: 'z_nowhere' }],
  ])('%s', (code, operation) => expect(codesOf(after(attached), operation as never)).toContain(code));

  test('a node name given for a port is told whose it is', () => {
    const estate = bareEstate();
    const node = estate.table('interface').by('wwpn', wwpn('deck-1', 'hba0'))[0]!.wwnn!;
    expect(codesOf(estate, { do: 'zone.create', fabric: 'A', name: 'z', members: [node] })).toEqual([
      'node-name-not-port-name',
    ]);
    expect(
      codesOf(estate, { do: 'host.create', name: 'deck-1', os: 'hypervisor', site: 'Nordkai', initiators: [node] }),
    ).toEqual(['node-name-not-port-name']);
  });

  test('a set without a zone, and one with an empty alias, are not activated', () => {
    const estate = after([...attached, { do: 'zone-set.create', fabric: 'A', name: 'empty' }] as never);
    expect(codesOf(estate, { do: 'zone-set.activate', fabric: 'A', zoneSet: 'empty' })).toEqual(['zone-set-empty']);
    const alias = [...estate.table('alias').values()].find((row) => row.name === 'lintel-1_a0')!;
    estate.apply([changed('alias', alias, { members: [] })]);
    expect(codesOf(estate, { do: 'zone-set.activate', fabric: 'A', zoneSet: 'set_A' })).toEqual(['alias-empty']);
  });
});
