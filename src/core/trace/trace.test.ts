import { stretched } from '../../../demo/stretched';
import { lookUp } from '../operation/inquiry';
import { bareEstate, carryOut, mounted, targetOf, named } from '../../../demo/workbench';
import { serverWwpn } from '../../../demo/hardware';
import { changed } from '../estate/effects';
import type { Kind, Rows } from '../estate/entities';
import type { Estate } from '../estate/estate';
import { readOperation, type OperationDocument } from '../change/registry';
import { fabricModels } from './matrix';
import { trace } from './trace';

const after = (operations: readonly OperationDocument[]): Estate => {
  const estate = bareEstate();
  carryOut(estate, operations);
  return estate;
};
const set = <K extends Kind>(estate: Estate, kind: K, row: Rows[K], fields: Partial<Rows[K]>) =>
  estate.apply([changed(kind, row, fields)]);
const of = (estate: Estate, host = 'gate-1', volume = 'tickets-1') =>
  trace(estate, named(estate, 'host', host), named(estate, 'volume', volume));
const firstBreak = (estate: Estate, host?: string, volume?: string) => {
  const hop = of(estate, host, volume).hops.find((one) => one.state === 'fail');
  return hop ? [hop.number, hop.reason] : null;
};

const cargo: OperationDocument[] = [
  ...mounted.slice(0, 3),
  {
    do: 'host.create',
    name: 'cargo-db-1',
    os: 'linux',
    site: 'Nordkai',
    initiators: ['hba0', 'hba1'].map((port) => serverWwpn('cargo-db-1', port)),
  },
];
const joined: OperationDocument[] = ['A', 'B'].map((fabric) => ({
  do: 'zoning.join',
  fabric,
  host: 'cargo-db-1',
  array: 'lintel-1',
}));
const given: OperationDocument = {
  do: 'mapping.create',
  host: 'cargo-db-1',
  array: 'lintel-1',
  volumes: ['tickets-1'],
};

test('a chain that holds passes at every hop', () => {
  const whole = of(after(mounted));
  expect(whole.whole).toBe(true);
  expect(whole.hops.map((hop) => hop.state)).toEqual(Array(14).fill('pass'));
  expect(whole.pairs).toHaveLength(4);
});

describe('the first break, and what comes after it', () => {
  const breaks: [string, [number, string], (estate: Estate) => void][] = [
    [
      'three drives lost',
      [1, 'drives-lost'],
      (estate) =>
        named(estate, 'raidGroup', 'rg-1')
          .drives.slice(0, 3)
          .forEach((id) => set(estate, 'drive', estate.table('drive').get(id)!, { state: 'failed' })),
    ],
    [
      'both controllers down',
      [6, 'controller-down'],
      (estate) =>
        [...estate.table('controller').values()].forEach((row) => set(estate, 'controller', row, { state: 'down' })),
    ],
    [
      'interfaces down',
      [7, 'interface-down'],
      (estate) =>
        ['eth0', 'eth1'].forEach((name) =>
          set(estate, 'interface', named(estate, 'interface', name), { state: 'down' }),
        ),
    ],
    [
      'networks that drop frames',
      [8, 'mtu-black-hole'],
      (estate) =>
        ['iscsi-a', 'iscsi-b'].forEach((name) => set(estate, 'network', named(estate, 'network', name), { mtu: 1500 })),
    ],
    [
      'a name off by a letter',
      [9, 'initiator-unknown'],
      (estate) =>
        set(estate, 'host', named(estate, 'host', 'gate-1'), { presents: 'iqn.2031-04.example.skarholt:gate-l' }),
    ],
    [
      'a host that was told to log in nowhere',
      [10, 'not-logged-in'],
      (estate) => set(estate, 'host', named(estate, 'host', 'gate-1'), { autoLogin: false }),
    ],
    [
      'no name server',
      [10, 'not-discovered'],
      (estate) => set(estate, 'host', named(estate, 'host', 'gate-1'), { discovery: 'isns' }),
    ],
    [
      'CHAP demanded, no secret',
      [11, 'chap-failed'],
      (estate) => set(estate, 'target', targetOf(estate, 'lintel-1'), { auth: 'one-way' }),
    ],
    [
      'no digest in common',
      [11, 'digest-none-common'],
      (estate) => {
        set(estate, 'target', targetOf(estate, 'lintel-1'), { headerDigest: 'none' });
        set(estate, 'host', named(estate, 'host', 'gate-1'), { headerDigest: 'crc32c' });
      },
    ],
  ];
  test.each(breaks)('%s', (_, expected, hurt) => {
    const estate = after(mounted);
    hurt(estate);
    const result = of(estate);
    expect(firstBreak(estate)).toEqual(expected);
    expect(result.hops.slice(expected[0]).every((hop) => hop.state === 'not-reached')).toBe(true);
    for (const { mend } of result.hops)
      if (mend)
        expect([mend.do, readOperation({ ...mend.params, do: mend.do })]).toMatchObject([mend.do, { ok: true }]);
  });

  test('mapped and not looked for; not mapped at all', () => {
    expect(firstBreak(after(mounted.slice(0, 5)))).toEqual([13, 'rescan-needed']);
    expect(firstBreak(after(mounted.slice(0, 4)))).toEqual([5, 'not-mapped']);
  });
});

describe('over Fibre Channel', () => {
  test('not zoned, then joined by the mends the trace offers, fabric by fabric', () => {
    const estate = after([...cargo, given]);
    expect(firstBreak(estate, 'cargo-db-1')).toEqual([8, 'not-zoned']);
    const { mend } = of(estate, 'cargo-db-1').hops[7]!;
    expect(mend!.do).toBe('zoning.join');
    carryOut(
      estate,
      [
        { ...mend!.params, do: mend!.do },
        { do: 'host.rescan', host: 'cargo-db-1' },
      ],
      'mend',
    );
    const now = of(estate, 'cargo-db-1');
    expect(now.whole).toBe(true);
    expect(now.hops[7]).toMatchObject({ state: 'warn', reason: 'not-zoned' });
    expect(now.pairs.filter((pair) => pair.state === 'missing')).toHaveLength(2);
  });

  test('a zone that is only defined is activated', () => {
    const estate = after([
      ...cargo,
      { do: 'zone.create', fabric: 'A', name: 'z_cargo', members: [serverWwpn('cargo-db-1', 'hba0'), '1,0'] },
      given,
    ]);
    expect(of(estate, 'cargo-db-1').hops[7]!.mend).toMatchObject({
      do: expect.stringMatching(/zone-set.activate|zoning.join/) as string,
    });
  });

  test('a port name on record that is off by a digit', () => {
    const estate = after([...cargo, ...joined, given]);
    for (const row of estate.table('initiator').by('host', named(estate, 'host', 'cargo-db-1').id))
      set(estate, 'initiator', row, { name: row.name.replace(/.$/, (digit) => (digit === '0' ? '1' : '0')) });
    expect(firstBreak(estate, 'cargo-db-1')).toEqual([9, 'initiator-unknown']);
    expect(of(estate, 'cargo-db-1').hops[8]!.mend).toMatchObject({ do: 'initiator.configure' });
  });

  test('the matrix tells what is joined, what should meet, and what could be joined', () => {
    const estate = after([...cargo, joined[0]!, given]);
    const [a, b] = fabricModels(estate);
    const states = (fabric: typeof a) => {
      const own = fabric!.logins.find((login) => login.owner === 'cargo-db-1')!;
      return fabric!.cells
        .filter((cell) => cell.initiator === own.id)
        .map((cell) => cell.state)
        .sort();
    };
    expect(states(a).filter((state) => state === 'joined')).toHaveLength(2);
    expect(states(b).filter((state) => state === 'missing')).toHaveLength(2);
    expect(a!.logins.filter((login) => login.owner === '').length).toBeGreaterThan(0);
  });
});

describe('over NVMe/TCP', () => {
  const berth: OperationDocument[] = [
    ...mounted.slice(0, 3),
    { do: 'port.configure', array: 'lintel-1', port: 'a6', role: 'nvme-tcp', addresses: ['10.40.11.11/24'] },
    {
      do: 'host.create',
      name: 'berth-sim',
      os: 'linux',
      site: 'Nordkai',
      initiators: ['nqn.2031-04.example.skarholt:berth-sim'],
      interfaces: [{ name: 'eth0', addresses: ['10.40.11.71/24'] }],
    },
    { do: 'subsystem.create', array: 'lintel-1', name: 'berths', allowed: ['berth-sim'] },
    { do: 'mapping.create', host: 'berth-sim', array: 'lintel-1', volumes: ['tickets-1'] },
  ];
  test('a namespace appears without a rescan, with one identity on both sides', () => {
    const result = of(after(berth), 'berth-sim');
    expect(result.whole).toBe(true);
    expect(result.hops[12]).toMatchObject({ hop: 'Host device', reason: 'single-path' });
  });
  test('capitals count in an NQN', () => {
    const estate = after(berth);
    set(estate, 'host', named(estate, 'host', 'berth-sim'), { nqn: 'nqn.2031-04.example.skarholt:Berth-sim' });
    expect(firstBreak(estate, 'berth-sim')).toEqual([11, 'nqn-not-allowed']);
    expect(of(estate, 'berth-sim').hops[10]!.evidence).toContain('capitals count');
  });
});

test('a stretched path: the leg beside the host is traced, paths to both are listed, and one identity is read', () => {
  const at = stretched();
  at.run({ do: 'host.rescan', host: 'deck-3' });
  const of = (name: string) => lookUp(at.estate, 'host', name)!;
  const stores = lookUp(at.estate, 'volume', 'stores', lookUp(at.estate, 'array', 'lintel-1')!.id)!;
  const far = trace(at.estate, of('deck-3'), stores);
  expect(far).toMatchObject({
    volume: 'stores-leg',
    array: 'lintel-2',
    whole: true,
    stretched: { name: 'Virtual deck', site: 'Molenhaven', says: 'Nordkai serves, Molenhaven serves' },
  });
  expect(far.pairs).toHaveLength(8);
  expect(new Set(far.pairs.map(({ to }) => to.split(' ')[0]))).toEqual(new Set(['lintel-1', 'lintel-2']));
  expect(far.hops.find(({ hop }) => hop === 'LUN')!.evidence).toBe('8 of 8 paths: 2 optimized, 6 non-optimized.');
  expect(trace(at.estate, of('deck-1'), stores).volume).toBe('stores');
});
