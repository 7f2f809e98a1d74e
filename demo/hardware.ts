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
const idOf = (kind: Kind, name: string): string => idFor(kind, hexFrom(`skarholt ${kind} ${name}`, 12));

interface Shelf {
  media: MediaClass;
  slots: number;
  capacity: number;
  sector: 512 | 4096;
  /** Drives that differ from the rest of their shelf, by slot. */
  odd?: Record<number, Partial<Row<'drive'>>>;
}

interface ArrayPlan {
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
  },
];

/** The machine rooms as they were delivered: sites, arrays with bare drives, ports and networks; nothing carved, no host. */
export function bareHardware(): Effect[] {
  const effects: Effect[] = [];
  const put = <K extends Kind>(kind: K, given: z.input<(typeof rowSchemas)[K]>) => {
    const row = rowOf(kind, given);
    effects.push(created(kind, row));
    return row.id;
  };
  const site = (name: string, purpose: string) => put('site', { id: idOf('site', name), name, purpose });
  const sites: Record<string, string> = {
    Nordkai: site('Nordkai', 'Main harbour, machine room under the terminal'),
    Molenhaven: site('Molenhaven', 'Second harbour, 38 km of fibre away'),
    Oever: site('Oever', 'Head office'),
  };
  for (const [name, cidr] of [
    ['iscsi-a', '10.40.1.0/24'],
    ['iscsi-b', '10.40.2.0/24'],
  ] as const)
    put('network', { id: idOf('network', name), name, site: sites.Nordkai!, cidr, mtu: 9000, state: 'up' });

  for (const plan of arrays) {
    const array = put('array', {
      id: idOf('array', plan.name),
      name: plan.name,
      site: sites[plan.site]!,
      model: plan.model,
      iqn: proposeIqn(AUTHORITY, plan.name),
      companyId: plan.companyId,
    });
    plan.shelves.forEach((shelf, number) => {
      const enclosure = put('enclosure', {
        id: idOf('enclosure', `${plan.name} ${number}`),
        array,
        number,
        slots: shelf.slots,
      });
      for (let slot = 0; slot < shelf.slots; slot++) {
        const name = `${plan.name} ${number}:${slot}`;
        put('drive', {
          id: idOf('drive', name),
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
        id: idOf('controller', `${plan.name} ${name}`),
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
          id: idOf('port', `${plan.name} ${port}`),
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
        });
      }
    });
  }
  return effects;
}
