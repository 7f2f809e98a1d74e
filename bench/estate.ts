import type { z } from 'zod';
import { created, type Effect } from '@/core/estate/effects';
import { idFor, rowOf, rowSchemas, type Kind } from '@/core/estate/entities';
import { hexFrom, randomFrom } from '@/core/estate/random';
import { makeNaa, makeSerial } from '@/core/naming/identity';
import { geometry, shapeFields } from '@/core/raid/geometry';
import { GIB, KIB, MIB } from '@/core/units/bytes';

export interface Scale {
  arrays: number;
  volumes: number;
  hosts: number;
  seed: string;
}

const DRIVES = 60;
const WIDTH = 10;
const PORTALS = 4;
const EXTENT = 64 * MIB;

/** An estate of any size, the same for the same seed: every volume holds extents and is mapped to one host with two interfaces. */
export function generateEstate({ arrays, volumes, hosts, seed }: Scale): Effect[] {
  const random = randomFrom(seed);
  const effects: Effect[] = [];
  const put = <K extends Kind>(kind: K, given: z.input<(typeof rowSchemas)[K]>) => {
    const row = rowOf(kind, given);
    effects.push(created(kind, row));
    return row.id;
  };
  const id = (kind: Kind, name: string) => idFor(kind, hexFrom(`${seed} ${kind} ${name}`, 12));
  const site = put('site', { id: id('site', 's'), name: 'Nordkai', purpose: 'Generated' });
  for (const side of [1, 2])
    put('network', {
      id: id('network', String(side)),
      name: `iscsi-${side}`,
      site,
      cidr: `10.${side}.0.0/16`,
      mtu: 9000,
      state: 'up',
    });

  const pools: {
    array: string;
    pool: string;
    groups: { id: string; next: number }[];
    controllers: string[];
    companyId: string;
  }[] = [];
  for (let a = 0; a < arrays; a++) {
    const companyId = hexFrom(`company ${a}`, 6);
    const array = put('array', {
      id: id('array', `${a}`),
      name: `lintel-${a + 1}`,
      site,
      model: 'Lintel 40',
      companyId,
    });
    put('target', {
      id: id('target', `${a}`),
      name: 'main',
      array,
      iqn: `iqn.2031-04.example.skarholt:lintel-${a + 1}`,
      main: true,
    });
    const controllers = ['a', 'b'].map((name) =>
      put('controller', { id: id('controller', `${a}${name}`), name, array, state: 'up' }),
    );
    const enclosure = put('enclosure', { id: id('enclosure', `${a}`), array, number: 0, slots: DRIVES });
    controllers.forEach((controller, c) => {
      for (let p = 0; p < PORTALS / 2; p++)
        put('port', {
          id: id('port', `${a} ${c} ${p}`),
          name: `${c === 0 ? 'a' : 'b'}${p}`,
          array,
          controller,
          kind: 'ethernet',
          role: 'iscsi',
          speed: 25,
          wwpn: null,
          addresses: [{ ip: `10.${p + 1}.${200 + (a % 50)}.${10 + c + 2 * Math.floor(a / 50)}`, prefix: 16 }],
          mtu: 9000,
          portalGroup: c + 1,
          state: 'up',
        });
    });
    const pool = id('pool', `${a}`);
    const groups: { id: string; next: number }[] = [];
    for (let g = 0; g < DRIVES / WIDTH; g++) {
      const group = id('raidGroup', `${a} ${g}`);
      const capacity = 16e12;
      const drives = Array.from({ length: WIDTH }, (_, k) => {
        const slot = g * WIDTH + k;
        return put('drive', {
          id: id('drive', `${a} ${slot}`),
          array,
          enclosure,
          slot,
          serial: makeSerial(`${seed} ${a} ${slot}`),
          media: 'hdd-7k',
          capacity,
          sector: 4096,
          state: 'ok',
          raidGroup: group,
        });
      });
      const shape = geometry('raid6', Array<number>(WIDTH).fill(capacity), 64 * KIB);
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
      groups.push({ id: group, next: 0 });
    }
    put('pool', { id: pool, name: 'vault', array, extentSize: EXTENT });
    pools.push({ array, pool, groups, controllers, companyId });
  }

  const hostIds = Array.from({ length: hosts }, (_, h) => {
    const host = put('host', {
      id: id('host', `${h}`),
      name: `host-${h + 1}`,
      site,
      cluster: null,
      os: 'linux',
      presents: `iqn.2031-04.example.skarholt:host-${h + 1}`,
    });
    put('initiator', { id: id('initiator', `${h}`), host, name: `iqn.2031-04.example.skarholt:host-${h + 1}` });
    for (const side of [1, 2])
      put('interface', {
        id: id('interface', `${h} ${side}`),
        host,
        name: `eth${side - 1}`,
        addresses: [{ ip: `10.${side}.${Math.floor(h / 250)}.${(h % 250) + 1}`, prefix: 16 }],
        mtu: 9000,
        state: 'up',
      });
    return host;
  });
  const luns = new Map<string, number>();
  for (let v = 0; v < volumes; v++) {
    const home = pools[v % arrays]!;
    const volume = id('volume', `${v}`);
    const extents = 4 + Math.floor(random() * 12);
    put('volume', {
      id: volume,
      name: `vol-${String(v + 1).padStart(6, '0')}`,
      array: home.array,
      pool: home.pool,
      size: (50 + Math.floor(random() * 400)) * GIB,
      provisioning: 'thin',
      naa: makeNaa(home.companyId, volume),
      serial: makeSerial(volume),
      owner: home.controllers[v % 2]!,
      written: extents * EXTENT,
    });
    let at = 0;
    for (let part = 0; part < 3; part++) {
      const group = home.groups[(v + part) % home.groups.length]!;
      const count = part === 2 ? extents - at : Math.floor(extents / 3);
      put('extent', { id: id('extent', `${v} ${part}`), volume, raidGroup: group.id, start: group.next, count, at });
      group.next += count;
      at += count;
    }
    const host = hostIds[Math.floor(v / arrays) % hosts]!;
    const key = `${host} ${home.array}`;
    const lun = luns.get(key) ?? 0;
    luns.set(key, lun + 1);
    put('mapping', { id: id('mapping', `${v}`), host, volume, lun, access: 'read-write', ports: null });
  }
  return effects;
}
