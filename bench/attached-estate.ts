import type { z } from 'zod';
import { created, type Effect } from '@/core/estate/effects';
import { idFor, rowOf, rowSchemas, type Kind } from '@/core/estate/entities';
import { hexFrom } from '@/core/estate/random';
import { makeNaa, makeSerial } from '@/core/naming/identity';
import { geometry, shapeFields } from '@/core/raid/geometry';
import { GIB, KIB, MIB } from '@/core/units/bytes';

/** How large an estate over Fibre Channel is made. */
export interface AttachedScale {
  arrays: number;
  portsPerArray: number;
  hosts: number;
  volumes: number;
  seed: string;
}

const SIDES = ['A', 'B'] as const;
const EDGES = 20;
const CORES = 2;
const DRIVES = 24;
const EXTENT = 64 * MIB;

/**
 * Two fabrics of core and edge switches; every host has one port in each and is zoned, by one zone a side, with two ports of each of the two
 * arrays it has volumes on; every volume is mapped to one host. The same for the same seed.
 */
export function attachedEstate({ arrays, portsPerArray, hosts, volumes, seed }: AttachedScale): Effect[] {
  const effects: Effect[] = [];
  const put = <K extends Kind>(kind: K, given: z.input<(typeof rowSchemas)[K]>) => {
    const row = rowOf(kind, given);
    effects.push(created(kind, row));
    return row.id;
  };
  const id = (kind: Kind, name: string) => idFor(kind, hexFrom(`${seed} ${kind} ${name}`, 12));
  const site = put('site', { id: id('site', 's'), name: 'Nordkai', purpose: 'Generated' });
  const fabrics = SIDES.map((name) =>
    put('fabric', { id: id('fabric', name), name, activeSet: `set_${name}`, activatedAt: 0 }),
  );
  const edges = SIDES.map((side, s) => {
    const make = (name: string, domain: number) =>
      put('switch', {
        id: id('switch', name),
        name,
        fabric: fabrics[s]!,
        site,
        domain,
        ports: 512,
        speed: 32,
        state: 'up',
      });
    const cores = Array.from({ length: CORES }, (_, k) => make(`${side.toLowerCase()}-core-${k + 1}`, k + 1));
    return Array.from({ length: EDGES }, (_, k) => {
      const edge = make(`${side.toLowerCase()}-edge-${k + 1}`, 10 + k);
      cores.forEach((core, c) =>
        put('isl', {
          id: id('isl', `${side} ${k} ${c}`),
          name: `${side.toLowerCase()}-edge-${k + 1}-core-${c + 1}`,
          a: edge,
          aPort: 500 + c,
          b: core,
          bPort: k,
          speed: 32,
          credits: 64,
          state: 'up',
        }),
      );
      return edge;
    });
  });
  const sockets = new Map<string, number>();
  /** The next socket of a switch that nobody has. */
  const nextSocket = (at: string): number => {
    const socket = sockets.get(at) ?? 0;
    sockets.set(at, socket + 1);
    return socket;
  };
  const wwpn = (of: number, n: number): string => `5000a${of.toString(16)}${n.toString(16).padStart(10, '0')}`;

  interface Home {
    array: string;
    name: string;
    controllers: string[];
    companyId: string;
    pool: string;
    groups: { id: string; next: number }[];
    /** By side: ports of controller a and of controller b. */
    ports: { id: string; wwpn: string }[][][];
  }
  const homes = Array.from({ length: arrays }, (_, a): Home => {
    const companyId = hexFrom(`company ${a}`, 6);
    const name = `lintel-${a + 1}`;
    const array = put('array', {
      id: id('array', `${a}`),
      name,
      site,
      model: 'Lintel 40',
      companyId,
      wwnn: `2000a00${String(a).padStart(9, '0')}`,
    });
    put('target', {
      id: id('target', `${a}`),
      name: 'main',
      array,
      iqn: `iqn.2031-04.example.skarholt:${name}`,
      main: true,
    });
    const controllers = ['a', 'b'].map((controller) =>
      put('controller', { id: id('controller', `${a}${controller}`), name: controller, array, state: 'up' }),
    );
    const ports: Home['ports'] = SIDES.map(() => [[], []]);
    for (let p = 0; p < portsPerArray; p++) {
      const c = p % 2;
      const s = Math.floor(p / 2) % 2;
      const own = wwpn(1, a * 1000 + p);
      const port = put('port', {
        id: id('port', `${a} ${p}`),
        name: `${c === 0 ? 'a' : 'b'}${Math.floor(p / 2)}`,
        array,
        controller: controllers[c]!,
        kind: 'fc',
        role: 'fc',
        speed: 32,
        wwpn: own,
        addresses: [],
        mtu: 2112,
        portalGroup: c + 1,
        state: 'up',
        switch: edges[s]![(a * 3 + p) % EDGES]!,
        switchPort: nextSocket(edges[s]![(a * 3 + p) % EDGES]!),
      });
      ports[s]![c]!.push({ id: port, wwpn: own });
    }
    const pool = id('pool', `${a}`);
    const enclosure = put('enclosure', { id: id('enclosure', `${a}`), array, number: 0, slots: DRIVES });
    const groups = [0, 1].map((g) => {
      const group = id('raidGroup', `${a} ${g}`);
      const drives = Array.from({ length: DRIVES / 2 }, (_, k) => {
        const slot = g * (DRIVES / 2) + k;
        return put('drive', {
          id: id('drive', `${a} ${slot}`),
          array,
          enclosure,
          slot,
          serial: makeSerial(`${seed} ${a} ${slot}`),
          media: 'ssd-nvme',
          capacity: 30e12,
          sector: 4096,
          state: 'ok',
          raidGroup: group,
        });
      });
      const shape = geometry('raid6', Array<number>(DRIVES / 2).fill(30e12), 64 * KIB);
      if (typeof shape === 'string') throw new Error(shape);
      put('raidGroup', {
        id: group,
        name: `rg-${g + 1}`,
        array,
        level: 'raid6',
        chunk: 64 * KIB,
        drives,
        memberSize: shape.memberSize,
        usable: shape.usable,
        pool,
        ...shapeFields(shape),
      });
      return { id: group, next: 0 };
    });
    put('pool', { id: pool, name: 'vault', array, extentSize: EXTENT });
    return { array, name, controllers, companyId, pool, groups, ports };
  });

  const zonesIn: string[][] = SIDES.map(() => []);
  const hostIds = Array.from({ length: hosts }, (_, h) => {
    const name = `host-${h + 1}`;
    const host = put('host', { id: id('host', `${h}`), name, site, cluster: null, os: 'linux', presents: null });
    SIDES.forEach((side, s) => {
      const own = wwpn(2, h * 2 + s);
      put('initiator', { id: id('initiator', `${h} ${s}`), host, name: own });
      put('interface', {
        id: id('interface', `${h} ${s}`),
        host,
        name: `hba${s}`,
        kind: 'fc',
        addresses: [],
        mtu: 2112,
        state: 'up',
        speed: 32,
        adapter: `card ${s}`,
        wwpn: own,
        wwnn: `2000b0000${String(h).padStart(7, '0')}`,
        switch: edges[s]![h % EDGES]!,
        switchPort: nextSocket(edges[s]![h % EDGES]!),
      });
      // Two arrays a host, a zone for each: as many zones a fabric as twice the hosts.
      for (const k of [0, 1]) {
        const home = homes[(h + k * 7) % arrays]!;
        const targets = home.ports[s]!.map((ports) => ports[h % ports.length]!.wwpn);
        const zone = {
          fabric: fabrics[s]!,
          name: `${name}_hba${s}__${home.name}`,
          members: [own, ...targets].map((one) => `wwpn:${one}`),
        };
        zonesIn[s]!.push(put('zone', { id: id('zone', `${h} ${s} ${k}`), ...zone }));
        put('activeZone', { id: id('activeZone', `${h} ${s} ${k}`), ...zone });
      }
    });
    return host;
  });
  SIDES.forEach((side, s) =>
    put('zoneSet', { id: id('zoneSet', side), fabric: fabrics[s]!, name: `set_${side}`, zones: zonesIn[s]! }),
  );

  const luns = new Map<string, number>();
  for (let v = 0; v < volumes; v++) {
    const h = v % hosts;
    const home = homes[(h + (Math.floor(v / hosts) % 2) * 7) % arrays]!;
    const volume = id('volume', `${v}`);
    put('volume', {
      id: volume,
      name: `vol-${String(v + 1).padStart(6, '0')}`,
      array: home.array,
      pool: home.pool,
      size: (20 + (v % 80)) * GIB,
      provisioning: 'thin',
      naa: makeNaa(home.companyId, volume),
      serial: makeSerial(volume),
      owner: home.controllers[v % 2]!,
      written: 2 * EXTENT,
    });
    const group = home.groups[v % 2]!;
    put('extent', { id: id('extent', `${v}`), volume, raidGroup: group.id, start: group.next, count: 2, at: 0 });
    group.next += 2;
    const key = `${h} ${home.array}`;
    const lun = luns.get(key) ?? 0;
    luns.set(key, lun + 1);
    put('mapping', {
      id: id('mapping', `${v}`),
      host: hostIds[h]!,
      volume,
      lun,
      access: 'read-write',
      ports: null,
    });
  }
  return effects;
}
