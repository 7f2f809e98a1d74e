import { iqn, slots } from '../../../demo/names';
import {
  bareEstate,
  basis,
  carryOut,
  codesOf,
  estateAfter,
  mapped,
  mounted,
  refusalsOf,
  smallChain,
  targetOf,
} from '../../../demo/workbench';
import { contextFor } from '../change/plan';
import { changed } from '../estate/effects';
import type { Kind, Rows } from '../estate/entities';
import type { Estate } from '../estate/estate';
import { hostCreate } from './host-create';
import { nextFreeLun } from './luns';
import { mappingCreate } from './mapping-create';
import { countAllPaths, mappingOf, pathFinder } from './paths';
import { portConfigure } from './port-configure';
import { loginRefusal } from '../iscsi/login';

const context = contextFor(basis, 0, 0);
const find = <K extends Kind>(estate: Estate, kind: K, name: string): Rows[K] =>
  [...estate.table(kind).values()].find((row) => (row as { name?: string }).name === name)!;
const portOf = (estate: Estate, name: string) =>
  estate
    .table('port')
    .by('array', find(estate, 'array', 'lintel-1').id)
    .find((row) => row.name === name)!;
const set = <K extends Kind>(estate: Estate, kind: K, row: Rows[K], fields: Partial<Rows[K]>) =>
  estate.apply([changed(kind, row, fields)]);
const pathsOf = (estate: Estate, host = 'gate-1', volume = 'tickets-1') =>
  pathFinder(estate).paths(mappingOf(estate, find(estate, 'host', host).id, find(estate, 'volume', volume).id)!);

describe('sessions and paths', () => {
  test('host interfaces × portals that reach each other: two subnets with one interface and two portals each give four', () => {
    const paths = pathsOf(estateAfter(mapped));
    expect(paths).toMatchObject({ expected: 4, usable: 4, optimized: 2, missing: [] });
    expect(countAllPaths(estateAfter(mapped))).toEqual({ usable: 8, expected: 8, mappings: 2 });
  });

  test('an array port down loses its path at once, with the reason', () => {
    const estate = estateAfter(mapped);
    set(estate, 'port', portOf(estate, 'a4'), { state: 'down' });
    const paths = pathsOf(estate);
    expect(paths).toMatchObject({ expected: 4, usable: 3 });
    expect(paths.missing[0]).toMatchObject({ reason: 'portal-down', message: 'eth0 to a4: the array port is down' });
  });

  test('the owner’s controller down: its paths are lost, the partner’s become optimized', () => {
    const estate = estateAfter(mapped);
    const owner = estate.table('controller').get(find(estate, 'volume', 'tickets-1').owner)!;
    set(estate, 'controller', owner, { state: 'down' });
    expect(pathsOf(estate)).toMatchObject({ expected: 4, usable: 2, optimized: 2 });
    expect(pathsOf(estate).missing.map((gap) => gap.reason)).toEqual(['controller-down', 'controller-down']);
  });

  test('a host interface down loses half', () => {
    const estate = estateAfter(mapped);
    set(estate, 'interface', find(estate, 'interface', 'eth1'), { state: 'down' });
    expect(pathsOf(estate)).toMatchObject({ expected: 4, usable: 2, optimized: 1 });
  });

  test('data lost: the paths are there but nothing can be read', () => {
    const estate = estateAfter(mapped);
    for (const id of find(estate, 'raidGroup', 'rg-1').drives.slice(0, 3))
      set(estate, 'drive', estate.table('drive').get(id)!, { state: 'failed' });
    expect(pathsOf(estate)).toMatchObject({ usable: 0, expected: 4 });
    expect(pathsOf(estate).found[0]!.state).toBe('unavailable');
  });

  test('a name that differs by a letter is turned away with 0202, and the slip is named', () => {
    const estate = bareEstate();
    carryOut(estate, [
      ...smallChain.slice(0, 3),
      { ...smallChain[3], do: 'host.create', presents: iqn('gate-l') },
      { do: 'mapping.create', host: 'gate-1', array: 'lintel-1', volumes: ['tickets-1'] },
    ]);
    const paths = pathsOf(estate);
    expect(paths).toMatchObject({ usable: 0, expected: 4 });
    expect(paths.missing[0]).toMatchObject({ status: '0202', reason: 'initiator-unknown' });
    expect(loginRefusal(estate, find(estate, 'host', 'gate-1'), targetOf(estate, 'lintel-1'))!.message).toContain(
      'one letter differs, at position 35',
    );
  });

  test('a mapping through some ports shows no others', () => {
    const estate = estateAfter([
      ...smallChain,
      { do: 'mapping.create', host: 'gate-1', array: 'lintel-1', volumes: ['tickets-1'], ports: ['a4', 'b5'] },
    ]);
    expect(pathsOf(estate)).toMatchObject({ usable: 2, expected: 2 });
  });
});

describe('host.create', () => {
  const host = (more: Record<string, unknown>) => ({
    do: 'host.create',
    name: 'gate-2',
    os: 'linux',
    site: 'Nordkai',
    initiators: [iqn('gate-2')],
    interfaces: [{ name: 'eth0', addresses: ['10.40.1.52/24'] }],
    ...more,
  });
  test.each([
    ['name-taken', { name: 'gate-1' }],
    ['site-unknown', { site: 'Nordkap' }],
    ['parameter-wrong', { os: 'mainframe' }],
    ['bad-char', { initiators: ['iqn.2031-04.example.skarholt:gate_2'] }],
    ['date-in-future', { initiators: ['iqn.2031-05.example.skarholt:gate-2'] }],
    ['duplicate-host-name', { initiators: [iqn('gate-1')] }],
    ['role-swapped', { initiators: [iqn('lintel-1')] }],
    ['initiator-twice', { initiators: [iqn('gate-2'), iqn('GATE-2')] }],
    ['duplicate-ip', { interfaces: [{ name: 'eth0', addresses: ['10.40.1.51/24'] }] }],
    ['duplicate-ip', { interfaces: [{ name: 'eth0', addresses: ['10.40.1.11/24'] }] }],
    [
      'duplicate-ip',
      {
        interfaces: [
          { name: 'eth0', addresses: ['10.40.1.60/24'] },
          { name: 'eth1', addresses: ['10.40.1.60/24'] },
        ],
      },
    ],
    ['prefix-missing', { interfaces: [{ name: 'eth0', addresses: ['10.40.1.52'] }] }],
    [
      'interface-twice',
      {
        interfaces: [
          { name: 'eth0', addresses: [] },
          { name: 'eth0', addresses: [] },
        ],
      },
    ],
    ['parameter-wrong', { interfaces: [{ name: 'eth0', mtu: 100 }] }],
  ])('is refused: %s', (code, more) => expect(codesOf(estateAfter(smallChain), host(more))).toContain(code));

  test('makes a cluster that is not there yet, and finds one that is', () => {
    const estate = estateAfter([
      ...smallChain,
      host({ cluster: 'gates' }),
      { ...host({ cluster: 'Gates' }), name: 'gate-3', initiators: [iqn('gate-3')], interfaces: [] },
    ]);
    expect(estate.table('cluster').size).toBe(1);
  });

  test('foretells which network an address lies in and how many portals are there', () => {
    const told = hostCreate.foretell(
      estateAfter(smallChain),
      { name: 'gate-9', os: 'linux', initiators: [iqn('gate-9')], interfaces: [{ addresses: ['10.40.2.99/24'] }] },
      context,
    );
    expect(told.fields.interfaces!.says).toBe('10.40.2.99/24: iscsi-b; 4 portals in it.');
    expect(told.fields.initiators!.suggested).toEqual([iqn('gate-9')]);
    expect(told.fields.os!.says).toContain('LUNs up to 16383');
  });
});

describe('host.delete', () => {
  test('is refused while volumes are mapped; takes initiators, interfaces and an empty cluster along', () => {
    expect(refusalsOf(estateAfter(mapped), { do: 'host.delete', host: 'gate-1' })[0]!.message).toBe(
      'gate-1 has 2 volumes mapped: tickets-1, tickets-2.',
    );
    const estate = estateAfter([
      { ...smallChain[3], do: 'host.create', cluster: 'gates' },
      { do: 'host.delete', host: 'gate-1' },
    ]);
    for (const kind of ['host', 'initiator', 'cluster'] as const) expect(estate.table(kind).size).toBe(0);
    expect([...estate.table('interface').values()].filter((row) => row.kind === 'ethernet' || row.host)).toEqual([]);
  });
});

describe('mapping.create', () => {
  const map = (more: Record<string, unknown> = {}) => ({
    do: 'mapping.create',
    host: 'gate-1',
    array: 'lintel-1',
    volumes: ['tickets-1'],
    ...more,
  });
  test.each([
    ['volume-unknown', { volumes: ['nothing'] }],
    ['host-unknown', { host: 'gate-7' }],
    ['port-unknown', { ports: ['z9'] }],
    ['port-role-off', { ports: ['a6'] }],
    ['lun-out-of-range', { lun: 99_999 }],
    ['parameter-wrong', { lun: -1 }],
    ['parameter-wrong', { volumes: [] }],
  ])('is refused: %s', (code, more) => expect(codesOf(estateAfter(smallChain), map(more))).toContain(code));

  test('a LUN that is taken is refused with the next free one', () => {
    const estate = estateAfter([...smallChain, map({ lun: 4 })]);
    expect(refusalsOf(estate, map({ volumes: ['tickets-2'], lun: 4 }))[0]).toMatchObject({
      code: 'lun-taken',
      message: 'LUN 4 shows tickets-1 to gate-1 already.',
      mend: 'Use 0, the next free one.',
    });
    expect(codesOf(estate, map())).toEqual(['volume-mapped-twice']);
  });

  test('LUNs are given in series, or the next free one for each', () => {
    const luns = (more: Record<string, unknown>) =>
      [
        ...estateAfter([...smallChain, map({ volumes: ['tickets-1', 'tickets-2'], ...more })])
          .table('mapping')
          .values(),
      ].map((row) => row.lun);
    expect(luns({ lun: 7 })).toEqual([7, 8]);
    expect(luns({})).toEqual([0, 1]);
  });

  test('the same LUN may be used through ports apart', () => {
    const estate = estateAfter([...smallChain, map({ lun: 3, ports: ['a4'] })]);
    const host = find(estate, 'host', 'gate-1');
    const array = find(estate, 'array', 'lintel-1').id;
    expect(codesOf(estate, map({ volumes: ['tickets-2'], lun: 3, ports: ['b4'] }))).toEqual([]);
    expect(nextFreeLun(estate, host, array, null, 3)).toBe(4);
    expect(nextFreeLun(estate, host, array, [portOf(estate, 'b4').id], 3)).toBe(3);
  });

  test('two hosts that are no cluster may not both write', () => {
    const second = { ...smallChain[3], do: 'host.create', name: 'gate-2', initiators: [iqn('gate-2')], interfaces: [] };
    const apart = estateAfter([...smallChain, second, map()]);
    expect(refusalsOf(apart, map({ host: 'gate-2' }))[0]).toMatchObject({
      code: 'shared-unclustered',
      field: 'access',
    });
    expect(codesOf(apart, map({ host: 'gate-2', access: 'read-only' }))).toEqual([]);
    const together = estateAfter([
      ...smallChain.slice(0, 3),
      { ...smallChain[3], do: 'host.create', cluster: 'gates' },
      { ...second, cluster: 'gates' },
      map(),
    ]);
    expect(codesOf(together, map({ host: 'gate-2' }))).toEqual([]);
  });

  test('a host no array would let in is refused; one without a path is warned about', () => {
    const bare = estateAfter([
      ...smallChain.slice(0, 3),
      { do: 'host.create', name: 'x', os: 'linux', site: 'Nordkai' },
    ]);
    expect(codesOf(bare, map({ host: 'x' }))).toEqual(['no-initiator']);
    const far = estateAfter([
      ...smallChain.slice(0, 3),
      { do: 'host.create', name: 'x', os: 'linux', site: 'Nordkai', initiators: [iqn('x')] },
    ]);
    expect(carryOut(far, [map({ host: 'x' })], 'm')[0]!.notes[0]).toContain('shares neither a subnet nor a fabric');
  });

  test('foretells paths and the next LUN', () => {
    const told = mappingCreate.foretell(estateAfter(mapped), { host: 'gate-1', array: 'lintel-1' }, context);
    expect(told.fields.ports!.says).toBe('4 of 4 paths to each volume: 2 optimized, 2 non-optimized.');
    expect(told.fields.lun!.says).toBe('Next free on every initiator of gate-1: 2.');
    expect(told.fields.volumes!.choices![0]!.unfit).toBe('is LUN 0 there already');
  });
});

describe('port.configure', () => {
  const port = (more: Record<string, unknown>) => ({ do: 'port.configure', array: 'lintel-1', port: 'a6', ...more });
  test.each([
    ['port-is-fc', { port: 'a0' }],
    ['portal-without-address', { role: 'iscsi' }],
    ['duplicate-ip', { addresses: ['10.40.1.12/24'] }],
    ['bad-address', { addresses: ['10.40.1/24'] }],
    ['parameter-wrong', { mtu: 100 }],
    ['parameter-wrong', { role: 'fc' }],
  ])('is refused: %s', (code, more) => expect(codesOf(bareEstate(), port(more))).toContain(code));

  test('a new portal adds paths to what is mapped through all ports', () => {
    const estate = estateAfter(mapped);
    carryOut(estate, [port({ addresses: ['10.40.1.13/24'], role: 'iscsi' })], 'p');
    expect(pathsOf(estate)).toMatchObject({ usable: 5, expected: 5 });
    const told = portConfigure.foretell(estate, { array: 'lintel-1', port: 'a4', role: 'none' }, context);
    expect(told.fields.role!.says).toBe('Paths 10 → 8 on lintel-1; fewer for gate-1.');
  });

  test('the last path of a mounted device is not taken away', () => {
    const estate = estateAfter([
      ...smallChain,
      { do: 'mapping.create', host: 'gate-1', array: 'lintel-1', volumes: ['tickets-1'], ports: ['a4'] },
      ...mounted.slice(5),
    ]);
    expect(refusalsOf(estate, port({ port: 'a4', role: 'none' }))[0]).toMatchObject({
      code: 'in-use',
      message: 'gate-1 would lose its last path to tickets-1, which is mounted.',
    });
  });
});

describe('the host’s side', () => {
  const format = (more: Record<string, unknown> = {}) => ({
    do: 'host-device.format',
    host: 'gate-1',
    device: 'tickets-1',
    fileSystem: 'xfs',
    mountPoint: '/srv/tickets',
    ...more,
  });
  const found = [...mapped, { do: 'host.rescan', host: 'gate-1' }];

  test('a mapped volume is not seen until the host looks', () => {
    const estate = estateAfter(mapped);
    expect(estate.table('hostDevice').size).toBe(0);
    expect(refusalsOf(estate, format())[0]).toMatchObject({ code: 'rescan-needed', mend: 'Rescan gate-1 first.' });
    carryOut(estate, [{ do: 'host.rescan', host: 'gate-1' }], 'r');
    expect(
      [...estate.table('hostDevice').values()].map((row) => [
        row.name,
        row.lun,
        row.naa === estate.table('volume').get(row.volume)!.naa,
      ]),
    ).toEqual([
      ['disk1', 0, true],
      ['disk2', 1, true],
    ]);
  });

  test('what it cannot reach it does not find, and says why', () => {
    const estate = estateAfter(mapped);
    for (const name of ['eth0', 'eth1']) set(estate, 'interface', find(estate, 'interface', name), { state: 'down' });
    const [step] = carryOut(estate, [{ do: 'host.rescan', host: 'gate-1' }], 'r');
    expect(estate.table('hostDevice').size).toBe(0);
    expect(step!.notes[0]).toMatch(/^tickets-1 is not seen: eth\d to [ab]\d: the interface is down\.$/);
  });

  test.each([
    ['file-system-unknown', { fileSystem: 'ufs' }],
    ['bad-mount-point', { mountPoint: 'srv' }],
    ['device-unknown', { device: 'disk9' }],
    ['host-unknown', { host: 'gate-x' }],
  ])('format is refused: %s', (code, more) => expect(codesOf(estateAfter(found), format(more))).toContain(code));

  test('formatting writes tables, so a thin volume takes its first extents', () => {
    const estate = estateAfter([...found, format()]);
    const device = find(estate, 'hostDevice', 'disk1');
    expect(device).toMatchObject({ fileSystem: 'xfs', mountPoint: '/srv/tickets', used: (200 * 2 ** 30) / 512 });
    expect(estate.occupancy.allocated(device.volume)).toBe(7);
    expect(codesOf(estate, format({ device: 'tickets-2' }))).toEqual(['mount-point-taken']);
    expect(codesOf(estate, format())).toContain('in-use');
  });

  test('unmount, mount again, and format anew says what is lost', () => {
    const estate = estateAfter([...found, format(), { do: 'host-device.unmount', host: 'gate-1', device: 'disk1' }]);
    expect(codesOf(estate, { do: 'host-device.unmount', host: 'gate-1', device: 'disk1' })).toEqual(['not-mounted']);
    expect(codesOf(estate, { do: 'host-device.mount', host: 'gate-1', device: 'disk2', mountPoint: '/srv/x' })).toEqual(
      ['no-file-system'],
    );
    const [again] = carryOut(
      estate,
      [
        { do: 'host-device.mount', host: 'gate-1', device: 'disk1', mountPoint: '/srv/y' },
        { do: 'host-device.unmount', host: 'gate-1', device: 'disk1' },
      ],
      'm',
    );
    expect(again!.destroys).toBeNull();
    const [anew] = carryOut(estate, [format()], 'f');
    expect(anew!.destroys).toBe('the xfs file system on disk1 with 400 MiB');
  });

  test('a mounted device keeps its mapping; once unmapped and looked again it goes', () => {
    const estate = estateAfter([...found, format()]);
    const unmap = { do: 'mapping.delete', host: 'gate-1', array: 'lintel-1', volumes: ['tickets-1'] };
    expect(refusalsOf(estate, unmap)[0]).toMatchObject({ code: 'in-use', mend: 'Unmount disk1 at gate-1 first.' });
    carryOut(
      estate,
      [{ do: 'host-device.unmount', host: 'gate-1', device: 'disk1' }, unmap, { do: 'host.rescan', host: 'gate-1' }],
      'u',
    );
    expect([...estate.table('hostDevice').values()].map((row) => row.name)).toEqual(['disk2']);
    expect(codesOf(estate, unmap)).toEqual(['not-mapped']);
  });

  test('a read-only mapping is not formatted', () => {
    const estate = estateAfter([
      ...smallChain,
      { do: 'mapping.create', host: 'gate-1', array: 'lintel-1', volumes: ['tickets-1'], access: 'read-only' },
      { do: 'host.rescan', host: 'gate-1' },
    ]);
    expect(codesOf(estate, format())).toEqual(['read-only']);
    expect(slots(0, 1, 2)).toEqual(['0:1', '0:2']);
  });
});
