import fc from 'fast-check';
import { iqn, slots } from '../../../demo/names';
import { bareEstate, carryOut } from '../../../demo/workbench';
import { serverWwpn } from '../../../demo/hardware';
import { changed, created } from '../estate/effects';
import { rowOf, type Mapping } from '../estate/entities';
import { Overlay, type Estate } from '../estate/estate';
import { pathFinder } from '../attach/paths';
import { componentsOf, type Component } from './components';
import { effectsOfFailure } from './outage';
import { pairFinder, spofFinder } from './spof';

/** Whether the mapping has no usable path once the components have failed, tried out on the estate itself. */
function lost(estate: Estate, mapping: Mapping, failed: readonly Component[]): boolean {
  const overlay = new Overlay(estate);
  overlay.apply(effectsOfFailure(estate, failed));
  return pathFinder(overlay).count(mapping).usable === 0;
}

/** Single points of failure and minimal pairs among the components of the paths, by trying every one and every two. */
function byTrying(estate: Estate, mapping: Mapping) {
  const all = [...componentsOf(estate).values()].filter(
    (one) =>
      one.class !== 'enclosure' &&
      (['switch', 'isl', 'network', 'site-link', 'site'].includes(one.class) ||
        /^lintel-1($| )/.test(one.name) ||
        one.name.startsWith('trial ')),
  );
  const alone = all.filter((one) => lost(estate, mapping, [one]));
  const rest = all.filter((one) => !alone.includes(one));
  const cuts = new Set<string>();
  rest.forEach((a, k) => {
    for (const b of rest.slice(k + 1)) if (lost(estate, mapping, [a, b])) cuts.add([a.id, b.id].sort().join('|'));
  });
  const parts = (id: string) => rest.filter((one) => one.within.includes(id)).map((one) => one.id);
  const cut = (a: string, b: string) => a !== b && cuts.has([a, b].sort().join('|'));
  const pairs = [...cuts].filter((pair) => {
    const [a, b] = pair.split('|') as [string, string];
    return !parts(a).some((part) => cut(part, b)) && !parts(b).some((part) => cut(part, a));
  });
  return { alone: alone.map((one) => one.id).sort(), pairs: pairs.sort() };
}

function found(estate: Estate, mapping: Mapping) {
  const spofs = spofFinder(estate)(mapping);
  const enclosures = new Set([...estate.table('enclosure').values()].map((row) => row.id));
  return {
    alone: [...spofs.design, ...spofs.inherent].filter((id) => !enclosures.has(id)).sort(),
    pairs: pairFinder(estate)(mapping)
      .map((pair) => [...pair].sort().join('|'))
      .sort(),
  };
}

function agrees(estate: Estate): void {
  for (const mapping of estate.table('mapping').values()) {
    if (pathFinder(estate).count(mapping).usable === 0) continue;
    expect(found(estate, mapping)).toEqual(byTrying(estate, mapping));
  }
}

const carved = [
  { do: 'raid-group.create', array: 'lintel-1', name: 'rg-1', level: 'raid6', drives: slots(0, 0, 9) },
  { do: 'pool.create', array: 'lintel-1', name: 'quay', raidGroups: ['rg-1'] },
  { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'cargo', size: '100 GiB' },
];
const lintel = (estate: Estate) => [...estate.table('array').values()].find((row) => row.name === 'lintel-1')!;
const one = (estate: Estate, kind: 'volume' | 'host') => [...estate.table(kind).values()].at(-1)!;

const upDown = fc.constantFrom<'up' | 'down'>('up', 'up', 'up', 'up', 'down');
const address = (last: number) =>
  fc
    .tuple(fc.constantFrom('10.40.1', '10.40.2', '10.41.1', '10.99.1'), fc.constantFrom(24, 24, 24, 24, 30))
    .map(([net, prefix]) => ({ ip: `${net}.${last}`, prefix }));

const ipHost = fc.record({
  interfaces: fc
    .tuple(
      ...[0, 1, 2, 3].map((k) =>
        fc.record({
          addresses: fc
            .array(address(100 + k), { minLength: 1, maxLength: 2 })
            .map((all) => all.map((one_, j) => ({ ...one_, ip: one_.ip.replace(/\d+$/, String(100 + k * 10 + j)) }))),
          adapter: fc.constantFrom('', 'card 0', 'card 1'),
          gateway: fc.constantFrom(null, '10.40.1.1'),
          state: upDown,
          vlan: fc.constantFrom(null, null, null, 7),
        }),
      ),
    )
    .chain((all) => fc.integer({ min: 1, max: 4 }).map((count) => all.slice(0, count))),
  bound: fc.constantFrom(0, 0, 1, 2),
  portGateway: fc.constantFrom(null, '10.40.1.1'),
  routed: fc.boolean(),
  ports: fc.array(upDown, { minLength: 4, maxLength: 4 }),
  networks: fc.array(upDown, { minLength: 3, maxLength: 3 }),
  nvme: fc.boolean(),
  some: fc.boolean(),
  /** The host at the other site, with lines that carry some networks there. */
  lines: fc.option(fc.array(fc.record({ carries: fc.subarray([0, 1, 2]), state: upDown }), { maxLength: 3 })),
});
type IpHost = typeof ipHost extends fc.Arbitrary<infer T> ? T : never;

const lineTo = (id: string, sites: string[], state: 'up' | 'down', carries: { isls?: string[]; networks?: string[] }) =>
  created('siteLink', rowOf('siteLink', { id, name: id, sites, bitsPerS: 1e9, rtt: 1, state, ...carries }));

function ipEstate(plan: IpHost): Estate {
  const estate = bareEstate();
  carryOut(estate, carved);
  const array = lintel(estate);
  const elsewhere = [...estate.table('site').values()].find((row) => row.id !== array.site)!;
  const nqn = 'nqn.2014-08.org.nvmexpress:uuid:00000000-0000-4000-8000-000000000001';
  const host = rowOf('host', {
    id: 'host_trial',
    name: 'trial',
    os: 'linux',
    site: plan.lines ? elsewhere.id : array.site,
    presents: iqn('trial'),
    nqn,
    createdAt: 0,
  } as never);
  estate.apply([
    created('host', host),
    created('initiator', rowOf('initiator', { id: 'ini_trial', host: host.id, name: iqn('trial') })),
    ...plan.interfaces.map((row, k) =>
      created(
        'interface',
        rowOf('interface', {
          ...row,
          id: `if_${k}`,
          host: host.id,
          name: `eth${k}`,
          mtu: 1500,
          bound: k < plan.bound,
        }),
      ),
    ),
  ]);
  const portals = estate
    .table('port')
    .by('array', array.id)
    .filter((row) => row.addresses.length > 0);
  portals.forEach((row, k) =>
    estate.apply([
      changed('port', row, {
        state: plan.ports[k] ?? 'up',
        gateway: plan.portGateway,
        role: plan.nvme ? 'nvme-tcp' : 'iscsi',
      }),
    ]),
  );
  const networks = [...estate.table('network').values()];
  networks.forEach((row, k) =>
    estate.apply([
      changed('network', row, {
        state: plan.networks[k] ?? 'up',
        routes: plan.routed ? networks.map((other) => other.id).filter((id) => id !== row.id) : [],
      }),
    ]),
  );
  plan.lines?.forEach(({ carries, state }, k) =>
    estate.apply([
      lineTo(`line_${k}`, [array.site, elsewhere.id], state, { networks: carries.map((n) => networks[n]!.id) }),
    ]),
  );
  if (plan.nvme)
    estate.apply([
      created(
        'subsystem',
        rowOf('subsystem', {
          id: 'sub_trial',
          name: 'berths',
          array: array.id,
          nqn: 'nqn.2031-04.example.skarholt:berths',
          allowed: [nqn],
        }),
      ),
    ]);
  estate.apply([
    created(
      'mapping',
      rowOf('mapping', {
        id: 'map_trial',
        host: host.id,
        volume: one(estate, 'volume').id,
        lun: 1,
        access: 'read-write',
        ports: plan.some ? portals.slice(0, 3).map((row) => row.id) : null,
        subsystem: plan.nvme ? 'sub_trial' : null,
      } as never),
    ),
  ]);
  return estate;
}

test(
  'over IP, bound and unbound, routed and not: single points and pairs are those found by trying',
  () =>
    fc.assert(
      fc.property(ipHost, (plan) => agrees(ipEstate(plan))),
      { numRuns: 60, seed: 20310428 },
    ),
  120_000,
);

test(
  'over Fibre Channel, with links between switches and some of everything down',
  () =>
    fc.assert(
      fc.property(
        fc.record({
          zonedA: fc.constantFrom(['a0'], ['a0', 'b0'], ['b0']),
          zonedB: fc.constantFrom(null, ['a1'], ['a1', 'b1']),
          card: fc.boolean(),
          isls: fc.array(upDown, { minLength: 4, maxLength: 4 }),
          away: fc.boolean(),
          over: fc.array(fc.subarray([0, 1, 2, 3]), { maxLength: 2 }),
        }),
        ({ zonedA, zonedB, card, isls, away, over }) => {
          const estate = bareEstate();
          carryOut(estate, [
            ...carved,
            {
              do: 'host.create',
              name: 'cargo-db-1',
              os: 'linux',
              site: 'Nordkai',
              initiators: ['hba0', 'hba1'].map((port) => serverWwpn('cargo-db-1', port)),
            },
            { do: 'zoning.join', fabric: 'A', host: 'cargo-db-1', array: 'lintel-1', ports: zonedA },
            ...(zonedB
              ? [{ do: 'zoning.join', fabric: 'B', host: 'cargo-db-1', array: 'lintel-1', ports: zonedB }]
              : []),
            { do: 'mapping.create', host: 'cargo-db-1', array: 'lintel-1', volumes: ['cargo'] },
          ]);
          const host = one(estate, 'host');
          estate.apply([changed('host', host as never, { name: 'trial' })]);
          const own = [...estate.table('interface').by('host', host.id)];
          for (const row of own) if (card) estate.apply([changed('interface', row, { adapter: 'card 0' })]);
          // Across the links: the host's first port moves to another switch of its fabric.
          const first = own.find((row) => row.switch !== null)!;
          const fabric = estate.table('switch').get(first.switch!)!.fabric;
          const other = [...estate.table('switch').by('fabric', fabric)].find((row) => row.id !== first.switch);
          if (away && other)
            estate.apply([
              changed('interface', estate.table('interface').get(first.id)!, { switch: other.id, switchPort: 30 }),
            ]);
          [...estate.table('isl').values()].forEach((row, k) =>
            estate.apply([changed('isl', row, { state: isls[k] ?? 'up' })]),
          );
          const all = [...estate.table('isl').values()];
          const sites = [...estate.table('site').values()].slice(0, 2).map(({ id }) => id);
          const taken = new Set<number>();
          over.forEach((places, k) => {
            const own = places.filter((place) => !taken.has(place) && all[place]);
            own.forEach((place) => taken.add(place));
            estate.apply([lineTo(`line_${k}`, sites, 'up', { isls: own.map((place) => all[place]!.id) })]);
          });
          agrees(estate);
        },
      ),
      { numRuns: 16, seed: 20310428 },
    ),
  120_000,
);
