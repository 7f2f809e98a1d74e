import type { z } from 'zod';
import { idFor, rowOf, rowSchemas, type Kind, type MediaClass, type Row } from '@/core/estate/entities';
import { created, type Effect } from '@/core/estate/effects';
import { hexFrom } from '@/core/estate/random';
import { makeSerial, makeWwpn } from '@/core/naming/identity';
import { proposeIqn } from '@/core/naming/iscsi';

/** Where the lab's clock begins: 14 April 2031, 06:00 UTC. */
export const LAB_START = 1_933_912_800_000;
const AUTHORITY = 'iqn.2031-04.example.skarholt';
const TB = 1e12;

/** The same seed gives the same ids, serials and port names at every start. */
export const hardwareId = (kind: Kind, name: string): string => idFor(kind, hexFrom(`skarholt ${kind} ${name}`, 12));

interface Shelf {
  media: MediaClass;
  slots: number;
  capacity: number;
  sector: 512 | 4096;
  /** Drives that differ from the rest of their shelf, by slot. */
  odd?: Record<number, Partial<Row<'drive'>>>;
}

export interface ArrayPlan {
  name: string;
  model: string;
  site: string;
  companyId: string;
  shelves: Shelf[];
  /** Ports of each controller. */
  fc: { count: number; speed: number };
  ethernet: { count: number; speed: number };
  /** Addresses of the Ethernet ports that are portals: `a4` → 10.40.1.11/24. */
  portals: Record<string, string>;
  /** Where the FC ports are plugged in: `a0` → a1:0. */
  cables: Record<string, string>;
  commandLimit: number;
}

const arrays: ArrayPlan[] = [
  {
    name: 'lintel-1',
    model: 'Lintel 40',
    site: 'Nordkai',
    companyId: '0a51c1',
    shelves: [
      { media: 'ssd-nvme', slots: 24, capacity: 3.84 * TB, sector: 4096 },
      // The last one came from an older array: it is half as large.
      { media: 'hdd-10k', slots: 24, capacity: 2.4 * TB, sector: 512, odd: { 23: { capacity: 1.2 * TB } } },
      { media: 'hdd-7k', slots: 12, capacity: 12 * TB, sector: 4096 },
    ],
    fc: { count: 4, speed: 32 },
    ethernet: { count: 4, speed: 25 },
    portals: { a4: '10.40.1.11/24', a5: '10.40.2.11/24', b4: '10.40.1.12/24', b5: '10.40.2.12/24' },
    cables: { a0: 'a1:0', b0: 'a1:1', a1: 'b1:0', b1: 'b1:1', a2: 'a1:2', b2: 'a1:3', a3: 'b1:2', b3: 'b1:3' },
    commandLimit: 2048,
  },
  {
    name: 'lintel-2',
    model: 'Lintel 40',
    site: 'Molenhaven',
    companyId: '0a51c1',
    shelves: [
      { media: 'ssd-nvme', slots: 24, capacity: 3.84 * TB, sector: 4096 },
      { media: 'hdd-10k', slots: 24, capacity: 2.4 * TB, sector: 512 },
      { media: 'hdd-7k', slots: 12, capacity: 12 * TB, sector: 4096 },
    ],
    fc: { count: 4, speed: 32 },
    ethernet: { count: 4, speed: 25 },
    portals: { a4: '10.41.1.11/24', a5: '10.41.2.11/24', b4: '10.41.1.12/24', b5: '10.41.2.12/24' },
    cables: { a0: 'a2:0', b0: 'a2:1', a1: 'b2:0', b1: 'b2:1', a2: 'a2:2', b2: 'a2:3', a3: 'b2:2', b3: 'b2:3' },
    commandLimit: 2048,
  },
  {
    name: 'purlin-1',
    model: 'Purlin 80',
    site: 'Nordkai',
    companyId: '0a77e3',
    shelves: [{ media: 'hdd-7k', slots: 60, capacity: 16 * TB, sector: 4096 }],
    fc: { count: 2, speed: 16 },
    ethernet: { count: 2, speed: 10 },
    portals: { a2: '10.40.1.21/24', a3: '10.40.2.21/24', b2: '10.40.1.22/24', b3: '10.40.2.22/24' },
    cables: { a0: 'a1:4', b0: 'a1:5', a1: 'b1:4', b1: 'b1:5' },
    commandLimit: 1024,
  },
];

/** Switches of the two fabrics, a pair in each. */
const switches = [
  { name: 'a1', fabric: 'A', site: 'Nordkai', domain: 1 },
  { name: 'a2', fabric: 'A', site: 'Molenhaven', domain: 2 },
  { name: 'b1', fabric: 'B', site: 'Nordkai', domain: 11 },
  { name: 'b2', fabric: 'B', site: 'Molenhaven', domain: 12 },
];
const KM_BETWEEN_HARBOURS = 38;

/** Servers with Fibre Channel cards, as they were plugged in: card ports by switch port. */
const servers: { name: string; ports: Record<string, string> }[] = [
  { name: 'cargo-db-1', ports: { hba0: 'a1:8', hba1: 'b1:8' } },
  { name: 'cargo-db-2', ports: { hba0: 'a1:9', hba1: 'b1:9' } },
  { name: 'deck-1', ports: { hba0: 'a1:10', hba1: 'b1:10' } },
  { name: 'deck-2', ports: { hba0: 'a1:11', hba1: 'b1:11' } },
  { name: 'deck-3', ports: { hba0: 'a2:10', hba1: 'b2:10' } },
  { name: 'deck-4', ports: { hba0: 'a2:11', hba1: 'b2:11' } },
  { name: 'ledger-1', ports: { hba0: 'a2:12', hba1: 'b2:12' } },
  { name: 'keel-backup', ports: { hba0: 'a1:12', hba1: 'b1:12' } },
  // Delivered last week and not registered yet.
  { name: 'ticket-3', ports: { hba0: 'a1:13', hba1: 'b1:13' } },
];
const SERVER_COMPANY = '0a66d4';
/** Card ports of the servers have names made from the server's, the same at every start. */
export const serverWwpn = (server: string, port: string): string => makeWwpn(SERVER_COMPANY, `${server} ${port}`);
const serverWwnn = (server: string): string => `2${makeWwpn(SERVER_COMPANY, `${server} node`).slice(1)}`;

/** Collects rows that come to be. */
const putter =
  (effects: Effect[]) =>
  <K extends Kind>(kind: K, given: z.input<(typeof rowSchemas)[K]>): string => {
    const row = rowOf(kind, given);
    effects.push(created(kind, row));
    return row.id;
  };

/** Where a cable ends: `a1:0`. */
const plug = (place: string | undefined) => {
  const [name, port] = place?.split(':') ?? [];
  return { switch: name ? hardwareId('switch', name) : null, switchPort: Number(port ?? 0) };
};

/** The machine rooms as they were delivered: sites, arrays with bare drives, ports and networks; nothing carved, no host. */
export function bareHardware(): Effect[] {
  const effects: Effect[] = [];
  const put = putter(effects);
  const site = (name: string, purpose: string) => put('site', { id: hardwareId('site', name), name, purpose });
  const sites: Record<string, string> = {
    Nordkai: site('Nordkai', 'Main harbour, machine room under the terminal'),
    Molenhaven: site('Molenhaven', 'Second harbour, 38 km of fibre away'),
    Oever: site('Oever', 'Head office'),
  };
  for (const [name, where, cidr, vlan] of [
    ['iscsi-a', 'Nordkai', '10.40.1.0/24', 401],
    ['iscsi-b', 'Nordkai', '10.40.2.0/24', 402],
    ['nvme-a', 'Nordkai', '10.40.11.0/24', 411],
    ['nvme-b', 'Nordkai', '10.40.12.0/24', 412],
    ['nvme-c', 'Molenhaven', '10.41.11.0/24', 511],
    ['nvme-d', 'Molenhaven', '10.41.12.0/24', 512],
    ['iscsi-c', 'Molenhaven', '10.41.1.0/24', 501],
    ['iscsi-d', 'Molenhaven', '10.41.2.0/24', 502],
  ] as const)
    put('network', { id: hardwareId('network', name), name, site: sites[where]!, cidr, vlan, mtu: 9000, state: 'up' });

  for (const name of ['A', 'B']) put('fabric', { id: hardwareId('fabric', name), name });
  const plugs = new Map<string, string>();
  for (const { name, fabric, site: where, domain } of switches)
    plugs.set(
      name,
      put('switch', {
        id: hardwareId('switch', name),
        name,
        fabric: hardwareId('fabric', fabric),
        site: sites[where]!,
        domain,
        ports: 48,
        speed: 32,
        state: 'up',
      }),
    );
  for (const [a, b] of [
    ['a1', 'a2'],
    ['b1', 'b2'],
  ] as const)
    for (const n of [1, 2])
      put('isl', {
        id: hardwareId('isl', `${a}-${b} ${n}`),
        name: `${a}-${b}-${n}`,
        a: plugs.get(a)!,
        aPort: 45 + n,
        b: plugs.get(b)!,
        bPort: 45 + n,
        speed: 32,
        km: KM_BETWEEN_HARBOURS,
        credits: 720,
        state: 'up',
      });
  for (const server of servers)
    for (const [name, place] of Object.entries(server.ports))
      put('interface', {
        id: hardwareId('interface', `${server.name} ${name}`),
        host: null,
        name,
        kind: 'fc',
        addresses: [],
        mtu: 2112,
        state: 'up',
        speed: 32,
        adapter: `card ${name.slice(-1)}`,
        wwpn: serverWwpn(server.name, name),
        wwnn: serverWwnn(server.name),
        ...plug(place),
      });

  for (const plan of arrays) effects.push(...arrayRows(plan));
  return effects;
}

/** An array as it was delivered: bare drives, controllers and ports. */
export function arrayRows(plan: ArrayPlan): Effect[] {
  const effects: Effect[] = [];
  const put = putter(effects);
  const array = put('array', {
    id: hardwareId('array', plan.name),
    name: plan.name,
    site: hardwareId('site', plan.site),
    model: plan.model,
    companyId: plan.companyId,
    wwnn: `2${makeWwpn(plan.companyId, `${plan.name} node`).slice(1)}`,
  });
  put('target', {
    id: hardwareId('target', plan.name),
    name: 'main',
    array,
    iqn: proposeIqn(AUTHORITY, plan.name),
    main: true,
  });
  plan.shelves.forEach((shelf, number) => {
    const enclosure = put('enclosure', {
      id: hardwareId('enclosure', `${plan.name} ${number}`),
      array,
      number,
      slots: shelf.slots,
    });
    for (let slot = 0; slot < shelf.slots; slot++) {
      const name = `${plan.name} ${number}:${slot}`;
      put('drive', {
        id: hardwareId('drive', name),
        array,
        enclosure,
        slot,
        serial: makeSerial(name),
        media: shelf.media,
        capacity: shelf.capacity,
        sector: shelf.sector,
        state: 'ok',
        raidGroup: null,
        ...shelf.odd?.[slot],
      });
    }
  });
  ['a', 'b'].forEach((name, k) => {
    const controller = put('controller', {
      id: hardwareId('controller', `${plan.name} ${name}`),
      name,
      array,
      state: 'up',
    });
    for (let n = 0; n < plan.fc.count + plan.ethernet.count; n++) {
      const port = `${name}${n}`;
      const fc = n < plan.fc.count;
      const portal = plan.portals[port];
      const [ip = '', prefix] = portal?.split('/') ?? [];
      put('port', {
        id: hardwareId('port', `${plan.name} ${port}`),
        name: port,
        array,
        controller,
        kind: fc ? 'fc' : 'ethernet',
        role: fc ? 'fc' : portal ? 'iscsi' : 'none',
        speed: fc ? plan.fc.speed : plan.ethernet.speed,
        wwpn: fc ? makeWwpn(plan.companyId, `${plan.name} ${port}`) : null,
        addresses: portal ? [{ ip, prefix: Number(prefix) }] : [],
        mtu: 9000,
        portalGroup: k + 1,
        state: 'up',
        commandLimit: plan.commandLimit,
        ...plug(plan.cables[port]),
      });
    }
  });
  return effects;
}
