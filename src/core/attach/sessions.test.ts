import { iqn } from '../../../demo/names';
import { bareEstate, carryOut, estateAfter, mapped, smallChain, targetOf } from '../../../demo/workbench';
import { serverWwpn } from '../../../demo/hardware';
import { changed } from '../estate/effects';
import type { Kind, Rows } from '../estate/entities';
import type { Estate } from '../estate/estate';
import { connected } from './connected';
import { hostDevice, loggedIn } from '../fabric/devices';
import { firstBreak } from '../trace/first-break.fixture';
import { pathFinder } from './paths';

const find = <K extends Kind>(estate: Estate, kind: K, name: string): Rows[K] =>
  [...estate.table(kind).values()].find((row) => (row as { name?: string }).name === name)!;
const set = <K extends Kind>(estate: Estate, kind: K, name: string, fields: Partial<Rows[K]>) =>
  estate.apply([changed(kind, find(estate, kind, name), fields)]);
const portsOf = (estate: Estate) => estate.table('port').by('array', find(estate, 'array', 'lintel-1').id);
const setPorts = (estate: Estate, fields: Partial<Rows['port']>) => {
  for (const port of portsOf(estate)) estate.apply([changed('port', port, fields)]);
};
const pathsOf = (estate: Estate) => pathFinder(estate).paths([...estate.table('mapping').values()][0]!);
const reasons = (estate: Estate) => [...new Set(pathsOf(estate).missing.map((gap) => gap.reason))];
/** What is counted is what is listed. */
const counted = (estate: Estate) => {
  const mapping = [...estate.table('mapping').values()][0]!;
  const { usable, expected } = pathFinder(estate).count(mapping);
  expect({ usable, expected }).toEqual({ usable: pathsOf(estate).usable, expected: pathsOf(estate).expected });
  return { usable, expected };
};

describe('over IP', () => {
  test('what is nearer to the drives is named: controller, port, then the host’s side', () => {
    const estate = estateAfter(mapped);
    set(estate, 'interface', 'eth0', { state: 'down' });
    set(estate, 'interface', 'eth1', { addresses: [] });
    setPorts(estate, { state: 'down' });
    expect(reasons(estate)).toEqual(['portal-down']);
    for (const controller of estate.table('controller').values())
      estate.apply([changed('controller', controller, { state: 'down' })]);
    expect(reasons(estate)).toEqual(['controller-down']);
  });

  test('without a common subnet or a route the least is missed: one way to each controller', () => {
    const estate = estateAfter(mapped);
    set(estate, 'interface', 'eth0', { addresses: [{ ip: '10.99.1.51', prefix: 24 }] });
    set(estate, 'interface', 'eth1', { addresses: [{ ip: '10.99.2.51', prefix: 24 }] });
    expect(reasons(estate)).toEqual(['no-route']);
    expect(counted(estate)).toEqual({ usable: 0, expected: 2 });
    expect(firstBreak(estate, 'gate-1', 'tickets-1')).toEqual([8, 'no-route']);
  });

  test('a port in reach without a role is why nothing meets, not the ports out of reach', () => {
    const estate = estateAfter(mapped);
    set(estate, 'interface', 'eth1', { addresses: [] });
    for (const port of portsOf(estate))
      if (port.addresses.some(({ ip }) => ip.startsWith('10.40.1.')))
        estate.apply([changed('port', port, { role: 'none' })]);
    expect(counted(estate)).toEqual({ usable: 0, expected: 0 });
    expect(firstBreak(estate, 'gate-1', 'tickets-1')).toEqual([6, 'port-role-off']);
  });

  test('a mistyped prefix is missed as what it is', () => {
    const estate = estateAfter(mapped);
    set(estate, 'interface', 'eth0', { addresses: [{ ip: '10.40.1.51', prefix: 30 }] });
    expect(counted(estate)).toEqual({ usable: 2, expected: 4 });
    expect(reasons(estate)).toEqual(['prefix-mismatch']);
    set(estate, 'interface', 'eth1', { addresses: [{ ip: '10.40.2.51', prefix: 30 }] });
    expect(firstBreak(estate, 'gate-1', 'tickets-1')).toEqual([8, 'prefix-mismatch']);
  });

  /** Both subnets know their router, and each other. */
  const withRouter = () => {
    const estate = estateAfter(mapped);
    const networks = [...estate.table('network').values()];
    for (const network of networks)
      estate.apply([
        changed('network', network, { routes: networks.map((row) => row.id).filter((id) => id !== network.id) }),
      ]);
    setPorts(estate, { gateway: '10.40.1.1' });
    return estate;
  };
  test('two bound interfaces with gateways reach all four portals: eight sessions', () => {
    const estate = withRouter();
    for (const name of ['eth0', 'eth1']) set(estate, 'interface', name, { bound: true, gateway: '10.40.1.1' });
    expect(counted(estate)).toEqual({ usable: 8, expected: 8 });
    // One that is down is missed at every portal, near or routed.
    set(estate, 'interface', 'eth1', { state: 'down' });
    expect(counted(estate)).toEqual({ usable: 4, expected: 8 });
    set(estate, 'interface', 'eth1', { state: 'up', gateway: null });
    expect(counted(estate)).toEqual({ usable: 6, expected: 6 });
  });
  test('unbound, routing takes another way where the near interface is down', () => {
    const estate = withRouter();
    set(estate, 'interface', 'eth1', { gateway: '10.40.2.1' });
    set(estate, 'interface', 'eth0', { state: 'down' });
    expect(counted(estate)).toEqual({ usable: 4, expected: 4 });
    expect(new Set(pathsOf(estate).found.map((path) => path.interface))).toEqual(
      new Set([find(estate, 'interface', 'eth1').id]),
    );
    set(estate, 'interface', 'eth1', { gateway: null });
    expect(counted(estate)).toEqual({ usable: 2, expected: 4 });
    expect(reasons(estate)).toEqual(['interface-down']);
  });
});

describe('who the host is', () => {
  const misnamed = (more: Partial<Rows['target']> = {}) => {
    const estate = estateAfter(mapped);
    set(estate, 'host', 'gate-1', { presents: iqn('gate-l') });
    estate.apply([changed('target', targetOf(estate, 'lintel-1'), more)]);
    return estate;
  };
  test.each<[string, Partial<Rows['target']>, string]>([
    ['without CHAP', {}, '0202'],
    ['where CHAP is demanded', { auth: 'one-way' }, '0201'],
  ])('a name off by a letter is told as that, %s', (_, more, status) => {
    const estate = misnamed(more);
    const [gap] = pathsOf(estate).missing;
    expect(gap).toMatchObject({ reason: 'initiator-unknown', status });
    expect(gap!.message).toContain('one letter differs, at position 35');
    expect(firstBreak(estate, 'gate-1', 'tickets-1')).toEqual([9, 'initiator-unknown']);
  });
  test('also where the name server is asked, and where it was not told to log in', () => {
    const estate = misnamed({ isns: true });
    set(estate, 'host', 'gate-1', { discovery: 'isns' });
    expect(reasons(estate)).toEqual(['initiator-unknown']);
    set(estate, 'host', 'gate-1', { discovery: 'addresses', autoLogin: false });
    expect(reasons(estate)).toEqual(['initiator-unknown']);
    set(estate, 'host', 'gate-1', { presents: iqn('gate-1') });
    for (const login of estate.table('login').values())
      estate.apply([{ kind: 'login', id: login.id, before: login, after: null }]);
    expect(firstBreak(estate, 'gate-1', 'tickets-1')).toEqual([10, 'not-logged-in']);
  });
  test('a host that wants the target to prove itself does not log in where the target takes part in no CHAP', () => {
    const estate = estateAfter(mapped);
    set(estate, 'host', 'gate-1', { chapSecret: 'one', targetSecret: 'two' });
    expect(reasons(estate)).toEqual(['chap-mutual-failed']);
    expect(firstBreak(estate, 'gate-1', 'tickets-1')).toEqual([11, 'chap-mutual-failed']);
  });
});

describe('who logs in', () => {
  const at = (estate: Estate) => {
    const host = find(estate, 'host', 'gate-1');
    const { by, up, missing } = connected(estate, pathFinder(estate), host, find(estate, 'array', 'lintel-1').id);
    return [by, up.length, missing.length];
  };
  test('a host that was only registered logs in nowhere; a mapping or being told lets it in', () => {
    expect(at(estateAfter(smallChain))).toEqual([null, 0, 0]);
    expect(at(estateAfter(mapped))).toEqual(['mapped', 4, 0]);
    expect(
      at(
        estateAfter([
          ...smallChain,
          { do: 'host.configure', host: 'gate-1', autoLogin: false },
          { do: 'host.login', host: 'gate-1', array: 'lintel-1' },
        ]),
      ),
    ).toEqual(['told', 4, 0]);
    const told = estateAfter([...mapped, { do: 'host.configure', host: 'gate-1', autoLogin: false }]);
    expect(at(told)[0]).toBeNull();
  });
  test('a host that logs in by itself is told all the same, and then is logged in where nothing is mapped', () => {
    const estate = estateAfter(smallChain);
    carryOut(estate, [{ do: 'host.login', host: 'gate-1', array: 'lintel-1' }], 'login');
    expect(at(estate)).toEqual(['told', 4, 0]);
  });
  test('a subsystem it never asked for is not held against it', () => {
    const estate = estateAfter([
      ...mapped,
      { do: 'port.configure', array: 'lintel-1', port: 'a6', role: 'nvme-tcp', addresses: ['10.40.1.91/24'] },
      { do: 'subsystem.create', array: 'lintel-1', name: 'berths', allowed: [] },
    ]);
    const host = find(estate, 'host', 'gate-1');
    const array = find(estate, 'array', 'lintel-1').id;
    expect(
      pathFinder(estate)
        .sessions(host.id, array)
        .missing.map((gap) => gap.transport),
    ).toContain('nvme-tcp');
    expect(
      connected(estate, pathFinder(estate), host, array).missing.filter((gap) => gap.transport !== 'iscsi'),
    ).toEqual([]);
  });
});

test('a subsystem gives out no more controllers than it has: the later host waits', () => {
  const nqn = (name: string) => `nqn.2031-04.example.skarholt:${name}`;
  const berth = (name: string, last: number) => ({
    do: 'host.create',
    name,
    os: 'linux',
    site: 'Nordkai',
    initiators: [nqn(name)],
    interfaces: [{ name: 'eth0', addresses: [`10.40.11.${last}/24`] }],
  });
  const estate = estateAfter([
    ...mapped.slice(0, 3),
    ...['a6 10.40.11.11', 'b6 10.40.11.12'].map((text) => ({
      do: 'port.configure',
      array: 'lintel-1',
      port: text.slice(0, 2),
      role: 'nvme-tcp',
      addresses: [`${text.slice(3)}/24`],
    })),
    berth('berth-1', 71),
    berth('berth-2', 72),
    { do: 'subsystem.create', array: 'lintel-1', name: 'berths', allowed: ['berth-1', 'berth-2'] },
    { do: 'mapping.create', host: 'berth-1', array: 'lintel-1', volumes: ['tickets-1'] },
    { do: 'mapping.create', host: 'berth-2', array: 'lintel-1', volumes: ['tickets-2'] },
  ]);
  const of = (host: string) => {
    const { up, missing } = pathFinder(estate).sessions(
      find(estate, 'host', host).id,
      find(estate, 'array', 'lintel-1').id,
    );
    const nvme = missing.filter((gap) => gap.transport === 'nvme-tcp');
    return [up.length, nvme.map((gap) => `${gap.reason} ${gap.status}`)];
  };
  expect([of('berth-1'), of('berth-2')]).toEqual([
    [2, []],
    [2, []],
  ]);
  set(estate, 'subsystem', 'berths', { controllerLimit: 3 });
  expect([of('berth-1'), of('berth-2')]).toEqual([
    [2, []],
    [1, ['controller-limit 81h']],
  ]);
  set(estate, 'subsystem', 'berths', { controllerLimit: 1 });
  expect(of('berth-2')).toEqual([0, ['controller-limit 81h', 'controller-limit 81h']]);
  expect(firstBreak(estate, 'berth-2', 'tickets-2')).toEqual([11, 'controller-limit']);
});

describe('over Fibre Channel', () => {
  test('a port that shares no speed with its switch does not log in', () => {
    const estate = bareEstate();
    carryOut(estate, [
      {
        do: 'host.create',
        name: 'cargo-db-1',
        os: 'linux',
        site: 'Nordkai',
        initiators: ['hba0', 'hba1'].map((port) => serverWwpn('cargo-db-1', port)),
      },
    ]);
    const row = find(estate, 'interface', 'hba0');
    expect(hostDevice(estate, row)!.up).toBe(true);
    expect(hostDevice(estate, { ...row, speed: 1 })!.up).toBe(false);
    expect(loggedIn(hostDevice(estate, { ...row, speed: 1 })!)).toBe(false);
  });
  const zoned = (ports: string[], mappedPorts: string[]) => {
    const estate = bareEstate();
    carryOut(estate, [
      {
        do: 'raid-group.create',
        array: 'lintel-1',
        name: 'rg-1',
        level: 'raid6',
        drives: Array.from({ length: 10 }, (_, k) => `0:${k}`),
      },
      { do: 'pool.create', array: 'lintel-1', name: 'quay', raidGroups: ['rg-1'] },
      { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'cargo', size: '200 GiB' },
      {
        do: 'host.create',
        name: 'cargo-db-1',
        os: 'linux',
        site: 'Nordkai',
        initiators: ['hba0', 'hba1'].map((port) => serverWwpn('cargo-db-1', port)),
      },
      ...(ports.length > 0 ? [{ do: 'zoning.join', fabric: 'A', host: 'cargo-db-1', array: 'lintel-1', ports }] : []),
      { do: 'mapping.create', host: 'cargo-db-1', array: 'lintel-1', volumes: ['cargo'], ports: mappedPorts },
    ]);
    return estate;
  };
  test('a pair that is mapped and not zoned is missed though its initiator is zoned with another port', () => {
    const estate = zoned(['a0'], ['b0']);
    expect(counted(estate)).toEqual({ usable: 0, expected: 1 });
    expect(firstBreak(estate, 'cargo-db-1', 'cargo')).toEqual([8, 'not-zoned']);
  });
  test('ports that a mapping leaves out hide no pair', () => {
    const estate = zoned([], ['b0', 'b1']);
    // b0 ends in fabric A, b1 in fabric B: one initiator each.
    expect(counted(estate)).toEqual({ usable: 0, expected: 2 });
    expect(reasons(estate)).toEqual(['not-zoned']);
  });
  test('where one of the mapping’s ports is zoned the others are not wanted', () =>
    expect(counted(zoned(['a0'], ['a0', 'b0']))).toEqual({ usable: 1, expected: 1 }));
  test('an unzoned pair breaks where it breaks first', () => {
    const estate = zoned([], ['b0']);
    set(estate, 'interface', 'hba0', { state: 'down' });
    expect(firstBreak(estate, 'cargo-db-1', 'cargo')).toEqual([7, 'initiator-not-logged-in']);
  });
});
