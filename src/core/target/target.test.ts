import { iqn } from '../../../demo/names';
import { bareEstate, carryOut, codesOf, mapped, mounted, refusalsOf, named } from '../../../demo/workbench';
import { mappingOf, pathFinder } from '../attach/paths';
import { ioShares, nextPath } from '../attach/selector';
import type { OperationDocument } from '../change/registry';
import type { Estate } from '../estate/estate';
import { discoveryLog } from '../nvme/connect';

const after = (operations: readonly OperationDocument[]): Estate => {
  const estate = bareEstate();
  carryOut(estate, operations);
  return estate;
};
const pathsOf = (estate: Estate, host = 'gate-1', volume = 'tickets-1') =>
  pathFinder(estate).paths(mappingOf(estate, named(estate, 'host', host).id, named(estate, 'volume', volume).id)!);
const usable = (estate: Estate) => pathsOf(estate).usable;
const firstReason = (estate: Estate) => pathsOf(estate).missing[0]?.reason;
const ONE = 'sealed:00112233445566778899aabbccddeeff';
const OTHER = 'sealed:ffeeddccbbaa99887766554433221100';

describe('CHAP', () => {
  const demand: OperationDocument = { do: 'target.configure', array: 'lintel-1', auth: 'one-way' };
  const onRecord = (secret: string): OperationDocument => ({
    do: 'initiator.configure',
    host: 'gate-1',
    initiator: iqn('gate-1'),
    chapSecret: secret,
  });
  const atHost = (secret: string): OperationDocument => ({ do: 'host.configure', host: 'gate-1', chapSecret: secret });

  test('the same secret on both sides logs in; another, or none, is 0201', () => {
    expect(firstReason(after([...mapped, demand]))).toBe('chap-failed');
    expect(usable(after([...mapped, onRecord(ONE), atHost(ONE), demand]))).toBe(4);
    const wrong = after([...mapped, onRecord(ONE), atHost(OTHER), demand]);
    expect(pathsOf(wrong).missing[0]).toMatchObject({ reason: 'chap-failed', status: '0201' });
  });

  test('both ways: the host turns away an array that cannot prove itself', () => {
    const mutual: OperationDocument = { do: 'target.configure', array: 'lintel-1', auth: 'mutual', chapSecret: OTHER };
    expect(firstReason(after([...mapped, onRecord(ONE), atHost(ONE), mutual]))).toBe('chap-mutual-failed');
    expect(usable(after([...mapped, onRecord(ONE), { ...atHost(ONE), targetSecret: OTHER }, mutual]))).toBe(4);
  });

  test('an authentication server judges by its accounts, and nobody gets in while it is silent', () => {
    const server: OperationDocument = {
      do: 'auth-server.configure',
      name: 'harbour-auth',
      ip: '10.40.1.6',
      account: iqn('gate-1'),
      secret: ONE,
    };
    const estate = after([...mapped, server, atHost(ONE), { ...demand, authServer: 'harbour-auth' }]);
    expect(usable(estate)).toBe(4);
    const row = named(estate, 'authServer', 'harbour-auth');
    estate.apply([{ kind: 'authServer', id: row.id, before: row, after: { ...row, state: 'down' } }]);
    expect(firstReason(estate)).toBe('auth-server-down');
  });

  test.each<[string, OperationDocument]>([
    ['secret-too-short', { do: 'target.configure', array: 'lintel-1', chapSecret: 'unfit:secret-too-short:7' }],
    ['secret-open', { do: 'target.configure', array: 'lintel-1', chapSecret: 'in-the-open-1234' }],
    ['chap-secret-missing', { do: 'target.configure', array: 'lintel-1', auth: 'mutual' }],
    ['secret-too-short', { do: 'host.configure', host: 'gate-1', chapSecret: 'unfit:secret-too-short:7' }],
    ['initiator-unknown', { do: 'initiator.configure', host: 'gate-1', initiator: iqn('nobody') }],
    ['parameter-missing', { do: 'initiator.configure', host: 'gate-1', initiator: iqn('gate-1'), access: 'none' }],
    ['authServer-unknown', { do: 'target.configure', array: 'lintel-1', authServer: 'nowhere' }],
  ])('is refused: %s', (code, operation) =>
    expect(codesOf(after(mapped), operation).map((one) => one.replace('auth-server', 'authServer'))).toContain(code),
  );

  test('one secret for both ways is refused', () => {
    const estate = after([...mapped, onRecord(ONE)]);
    expect(codesOf(estate, { do: 'target.configure', array: 'lintel-1', auth: 'mutual', chapSecret: ONE })).toEqual([
      'secret-same-both-ways',
    ]);
  });

  test.each<[string, OperationDocument[], OperationDocument]>([
    [
      'of an account at a server, for the target',
      [{ do: 'auth-server.configure', name: 'quay-auth', ip: '10.40.1.6', account: 'gate', secret: ONE }],
      { do: 'target.configure', array: 'lintel-1', chapSecret: ONE },
    ],
    [
      'of the target, for an account at a server',
      [{ do: 'target.configure', array: 'lintel-1', chapSecret: ONE }],
      { do: 'auth-server.configure', name: 'quay-auth', ip: '10.40.1.6', account: 'gate', secret: ONE },
    ],
    [
      'of a host, for the target',
      [{ do: 'host.configure', host: 'gate-1', chapSecret: ONE }],
      { do: 'target.configure', array: 'lintel-1', chapSecret: ONE },
    ],
    [
      'of the target, for an initiator',
      [{ do: 'target.configure', array: 'lintel-1', chapSecret: ONE }],
      onRecord(ONE),
    ],
    [
      'that a host expects, for itself',
      [{ do: 'host.configure', host: 'gate-1', targetSecret: ONE }],
      { do: 'host.configure', host: 'gate-1', chapSecret: ONE },
    ],
    ['for both fields of a host', [], { do: 'host.configure', host: 'gate-1', chapSecret: ONE, targetSecret: ONE }],
  ])('the secret %s, is refused both ways', (_, before, operation) =>
    expect(codesOf(after([...mapped, ...before]), operation)).toEqual(['secret-same-both-ways']),
  );
  test('the secret a host expects is the target’s own', () => {
    const estate = after([...mapped, { do: 'target.configure', array: 'lintel-1', chapSecret: ONE }]);
    expect(codesOf(estate, { do: 'host.configure', host: 'gate-1', targetSecret: ONE })).toEqual([]);
  });

  test('who has a volume mounted is not shut out', () => expect(codesOf(after(mounted), demand)).toEqual(['in-use']));
});

describe('access and names', () => {
  test('an initiator that is kept out is 0202', () => {
    const estate = after([
      ...mapped,
      { do: 'initiator.configure', host: 'gate-1', initiator: iqn('gate-1'), array: 'lintel-1', access: 'none' },
    ]);
    expect(pathsOf(estate).missing[0]).toMatchObject({ reason: 'access-none', status: '0202' });
    carryOut(
      estate,
      [
        {
          do: 'initiator.configure',
          host: 'gate-1',
          initiator: iqn('gate-1'),
          array: 'lintel-1',
          access: 'read-write',
        },
      ],
      'back',
    );
    expect(usable(estate)).toBe(4);
  });

  test('a name on record is corrected to what the host sends', () => {
    const estate = after([...mapped, { do: 'host.configure', host: 'gate-1', presents: iqn('gate-l') }]);
    expect(firstReason(estate)).toBe('initiator-unknown');
    carryOut(
      estate,
      [{ do: 'initiator.configure', host: 'gate-1', initiator: iqn('gate-1'), newName: iqn('gate-l') }],
      'mend',
    );
    expect(usable(estate)).toBe(4);
  });
});

describe('discovery over iSNS', () => {
  const asks: OperationDocument[] = [
    ...mapped,
    { do: 'name-server.configure', name: 'harbour-names', ip: '10.40.1.5' },
    { do: 'host.configure', host: 'gate-1', discovery: 'isns' },
  ];
  const domain: OperationDocument = { do: 'discovery-domain.create', name: 'gates', members: ['gate-1', 'lintel-1'] };
  test('a domain counts within an enabled set only', () => {
    expect(firstReason(after(asks))).toBe('not-discovered');
    expect(firstReason(after([...asks, domain]))).toBe('not-discovered');
    const off = after([...asks, domain, { do: 'domain-set.create', name: 'day', domains: ['gates'], enabled: false }]);
    expect(pathsOf(off).missing[0]!.message).toContain('domain gates does, and its set day is off');
    carryOut(off, [{ do: 'domain-set.configure', name: 'day', enabled: true }], 'on');
    expect(usable(off)).toBe(4);
  });
  test('a domain that names portals offers only those', () => {
    const estate = after([
      ...asks,
      { ...domain, portals: ['10.40.1.11:3260'] },
      { do: 'domain-set.create', name: 'day', domains: ['gates'] },
    ]);
    expect(pathsOf(estate)).toMatchObject({ usable: 1, expected: 1 });
  });
  test('nodes in no domain see each other where the default domain is on', () =>
    expect(usable(after([...asks, { do: 'name-server.configure', name: 'harbour-names', defaultDomain: true }]))).toBe(
      4,
    ));
});

describe('logging in and out', () => {
  test('a host that logs out stays out until it is told to log in again', () => {
    const estate = after([...mapped, { do: 'host.logout', host: 'gate-1', array: 'lintel-1' }]);
    expect(firstReason(estate)).toBe('not-logged-in');
    carryOut(estate, [{ do: 'host.login', host: 'gate-1', address: '10.40.2.11' }], 'in');
    expect(usable(estate)).toBe(4);
  });
  test('a login that would fail is refused with the reason, and a wrong address is told', () => {
    const estate = after([...mapped, { do: 'host.configure', host: 'gate-1', presents: iqn('gate-l') }]);
    expect(refusalsOf(estate, { do: 'host.login', host: 'gate-1', array: 'lintel-1' })[0]).toMatchObject({
      code: 'initiator-unknown',
      message: expect.stringContaining('one letter differs') as string,
    });
    expect(codesOf(estate, { do: 'host.login', host: 'gate-1', address: '10.40.9.9' })).toEqual(['portal-unreachable']);
  });
  test('a bound interface takes exactly one active uplink; each bound one makes its own sessions', () => {
    const estate = after(mapped);
    expect(
      codesOf(estate, {
        do: 'interface.configure',
        host: 'gate-1',
        interface: 'eth0',
        bound: true,
        uplinks: ['up1', 'up2'],
      }),
    ).toEqual(['many-active-uplinks']);
    expect(
      codesOf(estate, {
        do: 'interface.configure',
        host: 'gate-1',
        interface: 'eth0',
        bound: true,
        uplinks: ['up1 standby'],
      }),
    ).toEqual(['no-active-uplink']);
    carryOut(
      estate,
      [{ do: 'interface.configure', host: 'gate-1', interface: 'eth0', bound: true, uplinks: ['up1', 'up2 unused'] }],
      'bind',
    );
    expect(usable(estate)).toBe(2);
  });
});

describe('clusters', () => {
  const cluster: OperationDocument[] = [
    ...mapped.slice(0, 3),
    ...[1, 2].map((n) => ({
      do: 'host.create',
      name: `gate-${n}`,
      os: 'linux',
      site: 'Nordkai',
      cluster: 'gates',
      initiators: [iqn(`gate-${n}`)],
      interfaces: [{ name: 'eth0', addresses: [`10.40.1.5${n}/24`] }],
    })),
    { do: 'mapping.create', cluster: 'gates', array: 'lintel-1', volumes: ['tickets-1', 'tickets-2'] },
  ];
  const lunsOf = (estate: Estate, host: string) =>
    estate
      .table('mapping')
      .by('host', named(estate, 'host', host).id)
      .map((row) => row.lun)
      .sort();

  test('a mapping to a cluster gives each member the same LUN', () => {
    const estate = after(cluster);
    expect([lunsOf(estate, 'gate-1'), lunsOf(estate, 'gate-2')]).toEqual([
      [0, 1],
      [0, 1],
    ]);
  });
  test('who leaves loses what came by the cluster, who joins gains it', () => {
    const estate = after([...cluster, { do: 'host.configure', host: 'gate-2', cluster: 'none' }]);
    expect(lunsOf(estate, 'gate-2')).toEqual([]);
    const steps = carryOut(estate, [{ do: 'host.configure', host: 'gate-2', cluster: 'gates' }], 'back');
    expect(lunsOf(estate, 'gate-2')).toEqual([0, 1]);
    expect(steps[0]!.notes.join()).toContain('It gains tickets-1, tickets-2.');
  });
  test('a LUN that is taken on one member is refused, with the next free on all', () => {
    const estate = after([
      ...cluster,
      { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'own', size: '1 GiB', count: 2 },
      { do: 'mapping.create', host: 'gate-2', array: 'lintel-1', volumes: ['own-1'] },
    ]);
    const [refusal] = refusalsOf(estate, {
      do: 'mapping.create',
      cluster: 'gates',
      array: 'lintel-1',
      volumes: ['own-2'],
      lun: 2,
    });
    expect(refusal).toMatchObject({ code: 'lun-taken', mend: 'Use 3, the next free one on every member.' });
  });
  test('taken away from the cluster, no member sees it', () => {
    const estate = after([
      ...cluster,
      { do: 'mapping.delete', cluster: 'gates', array: 'lintel-1', volumes: ['tickets-1'] },
    ]);
    expect(lunsOf(estate, 'gate-1')).toEqual([1]);
    expect(
      codesOf(estate, { do: 'mapping.configure', host: 'gate-1', array: 'lintel-1', volume: 'tickets-1', lun: 4 }),
    ).toEqual(['not-mapped']);
  });
});

describe('NVMe/TCP', () => {
  const nqn = 'nqn.2031-04.example.skarholt:berth-sim';
  const berth: OperationDocument[] = [
    ...mapped.slice(0, 3),
    ...['a6 10.40.11.11', 'b6 10.40.11.12'].map((text) => ({
      do: 'port.configure',
      array: 'lintel-1',
      port: text.slice(0, 2),
      role: 'nvme-tcp',
      addresses: [`${text.slice(3)}/24`],
    })),
    {
      do: 'host.create',
      name: 'berth-sim',
      os: 'linux',
      site: 'Nordkai',
      initiators: [nqn],
      interfaces: [{ name: 'eth0', addresses: ['10.40.11.71/24'] }],
    },
    { do: 'subsystem.create', array: 'lintel-1', name: 'berths', allowed: ['berth-sim'] },
  ];
  test('a namespace ID is one volume’s at every host; the log tells only who may connect', () => {
    const estate = after([
      ...berth,
      { do: 'mapping.create', host: 'berth-sim', array: 'lintel-1', volumes: ['tickets-1', 'tickets-2'] },
    ]);
    expect(pathsOf(estate, 'berth-sim')).toMatchObject({ usable: 2, optimized: 1 });
    const array = named(estate, 'array', 'lintel-1');
    const host = named(estate, 'host', 'berth-sim');
    expect(discoveryLog(estate, host, array).map((entry) => [entry.address, entry.service])).toEqual([
      ['10.40.11.11', 4420],
      ['10.40.11.12', 4420],
    ]);
    expect(discoveryLog(estate, { ...host, nqn: `${nqn}x` }, array)).toEqual([]);
    expect(
      codesOf(estate, { do: 'mapping.create', host: 'berth-sim', array: 'lintel-1', volumes: ['tickets-1'] }),
    ).toEqual(['volume-mapped-twice']);
    expect(codesOf(estate, { do: 'subsystem.delete', array: 'lintel-1', name: 'berths' })).toEqual(['still-mapped']);
  });
  test('a number that is another volume’s is refused', () => {
    const estate = after([
      ...berth,
      { do: 'mapping.create', host: 'berth-sim', array: 'lintel-1', volumes: ['tickets-1'] },
    ]);
    expect(
      codesOf(estate, { do: 'mapping.create', host: 'berth-sim', array: 'lintel-1', volumes: ['tickets-2'], lun: 1 }),
    ).toEqual(['nsid-taken']);
  });
  test('a name that differs in capitals is taken with a warning', () => {
    const steps = carryOut(
      after(berth),
      [{ do: 'subsystem.configure', array: 'lintel-1', name: 'berths', allowed: [nqn.replace('berth', 'Berth')] }],
      'caps',
    );
    expect(steps[0]!.notes.join()).toContain('capitals count');
  });
});

describe('devices and path policy', () => {
  test('offline, not persistent, removed: each as real hosts do it', () => {
    const estate = after(mounted);
    expect(
      codesOf(estate, { do: 'host-device.configure', host: 'gate-1', device: 'tickets-1', state: 'offline' }),
    ).toEqual(['in-use']);
    expect(codesOf(estate, { do: 'host-device.remove', host: 'gate-1', device: 'tickets-1' })).toEqual(['in-use']);
    carryOut(
      estate,
      [
        { do: 'host-device.configure', host: 'gate-1', device: 'tickets-1', persistent: false, selector: 'failover' },
        { do: 'host.restart', host: 'gate-1' },
      ],
      'restart',
    );
    const device = estate.table('hostDevice').by('volume', named(estate, 'volume', 'tickets-1').id)[0]!;
    expect(device).toMatchObject({ mountPoint: null, selector: 'failover', initialised: true });
  });

  test('shares of I/O sum to one over the best paths, whatever the selector', () => {
    const { found } = pathsOf(after(mapped));
    for (const selector of ['failover', 'round-robin', 'queue-depth', 'service-time'] as const) {
      const shares = ioShares(found, selector, (path) => (path.interface < found[1]!.interface ? 1 : 3));
      expect(shares.reduce((sum, share) => sum + share, 0)).toBeCloseTo(1);
      found.forEach((path, k) => path.state !== 'optimized' && expect(shares[k]).toBe(0));
    }
    expect(ioShares([], 'round-robin')).toEqual([]);
  });

  test('the next command goes in turn, to the least busy, or to the quickest', () => {
    const found = pathsOf(after(mapped)).found.map((path) => ({ ...path, state: 'optimized' as const }));
    const loads = found.map((_, k) => ({ outstanding: [5, 2, 9, 2][k]!, throughput: [1, 1, 10, 1][k]! }));
    expect([0, 1, 4].map((turn) => nextPath(found, 'round-robin', turn, loads))).toEqual([0, 1, 0]);
    expect(nextPath(found, 'queue-depth', 0, loads)).toBe(1);
    expect(nextPath(found, 'service-time', 0, loads, 1)).toBe(2);
    expect(nextPath([], 'failover', 0, [])).toBeNull();
    const even = loads.map((load, k) => ({ ...load, outstanding: 4, usedAt: [7, 5, 9, 8][k] ?? 0 }));
    expect(nextPath(found, 'queue-depth', 9, even)).toBe(1);
    expect(
      nextPath(
        found,
        'queue-depth',
        9,
        even.map((load) => ({ ...load, usedAt: 3 })),
      ),
    ).toBe(0);
  });
});

test('a host that is let in hears of its namespaces by itself', () => {
  const estate = after(mapped);
  carryOut(
    estate,
    [
      { do: 'port.configure', array: 'lintel-1', port: 'a6', role: 'nvme-tcp', addresses: ['10.40.11.11/24'] },
      {
        do: 'host.create',
        name: 'tide-1',
        os: 'linux',
        site: 'Nordkai',
        initiators: ['nqn.2031-04.example.skarholt:tide-1'],
        interfaces: [{ name: 'eth0', addresses: ['10.40.11.90/24'] }],
      },
      { do: 'subsystem.create', array: 'lintel-1', name: 'tides' },
      { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'tide', size: '1 GiB' },
      { do: 'mapping.create', host: 'tide-1', array: 'lintel-1', volumes: ['tide'], subsystem: 'tides' },
    ],
    'tide',
  );
  const host = [...estate.table('host').values()].find((row) => row.name === 'tide-1')!;
  expect(estate.table('hostDevice').by('host', host.id)).toEqual([]);
  const steps = carryOut(
    estate,
    [{ do: 'subsystem.configure', array: 'lintel-1', name: 'tides', allowed: ['tide-1'] }],
    'let in',
  );
  expect(steps[0]!.notes).toContain('tide-1 sees disk1 (tide) at once.');
  expect(estate.table('hostDevice').by('host', host.id)).toHaveLength(1);
});
