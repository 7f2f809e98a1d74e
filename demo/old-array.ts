import { corbelRows, madeOutside } from './outside';
import { server, join } from './servers';
import { slots } from './names';
import { bareEstate, carryOut, named } from './workbench';
import type { OperationDocument } from '@/core/change/registry';
import type { Estate } from '@/core/estate/estate';
import { fcDevices } from '@/core/fabric/devices';
import { formatWwn } from '@/core/naming/wwn';

const wwpns = (estate: Estate, array: string, ports: readonly string[]): string[] =>
  fcDevices(estate)
    .filter((device) => device.ownerName === array && ports.includes(device.name))
    .map((device) => formatWwn(device.wwpn));

/** Zones of an array with the old one: in one fabric or in both. */
export const zoned = (
  estate: Estate,
  fabrics: readonly ('A' | 'B')[] = ['A', 'B'],
  array = 'lintel-1',
): OperationDocument[] =>
  fabrics.flatMap((fabric) => [
    {
      do: 'zone.create',
      fabric,
      name: `old_${array}_${fabric}`,
      kind: 'peer',
      principals: wwpns(estate, 'corbel-9', fabric === 'A' ? ['a0', 'b0'] : ['a1', 'b1']),
      members: wwpns(estate, array, fabric === 'A' ? ['a0', 'b0'] : ['a1', 'b1']),
    },
  ]);

/**
 * An old array with three LUNs, the first two of 2 TiB: `ledger-old` that keel-backup had mounted and left, `rota-old` that nobody uses, `hollow` without anything
 * on it; lintel-1 with a pool of its own is zoned with it, and so is the host with both.
 */
export function withOldArray(fabrics: readonly ('A' | 'B')[] = ['A', 'B']): Estate {
  const estate = bareEstate();
  estate.apply(corbelRows());
  carryOut(estate, [
    { do: 'raid-group.create', array: 'corbel-9', name: 'old', level: 'raid6', drives: slots(0, 0, 7) },
    { do: 'pool.create', array: 'corbel-9', name: 'old', raidGroups: ['old'] },
    ...['hollow', 'ledger-old', 'rota-old'].map((name) => ({
      do: 'volume.create',
      array: 'corbel-9',
      pool: 'old',
      name,
      // One that is no whole number of extents.
      size: name === 'rota-old' ? '1000001 MiB' : '2 TiB',
      provisioning: 'thick',
    })),
    { do: 'raid-group.create', array: 'lintel-1', name: 'rg-1', level: 'raid6', drives: slots(0, 0, 9) },
    { do: 'pool.create', array: 'lintel-1', name: 'quay', raidGroups: ['rg-1'] },
    server('keel-backup', 'linux', 'Nordkai'),
    server('cargo-db-1', 'linux', 'Nordkai'),
    { do: 'zone-set.create', fabric: 'A', name: 'set_A' },
    { do: 'zone-set.create', fabric: 'B', name: 'set_B' },
    ...join('keel-backup', 'corbel-9', ['a0', 'b0'], ['a1', 'b1']),
    ...join('keel-backup', 'lintel-1', ['a0', 'b0'], ['a1', 'b1']),
    ...join('cargo-db-1', 'corbel-9', ['a0', 'b0'], ['a1', 'b1']),
    ...zoned(estate, fabrics),
    { do: 'zone-set.activate', fabric: 'A', zoneSet: 'set_A' },
    { do: 'zone-set.activate', fabric: 'B', zoneSet: 'set_B' },
    { do: 'mapping.create', host: 'keel-backup', array: 'corbel-9', volumes: ['ledger-old'] },
    { do: 'host.rescan', host: 'keel-backup' },
    {
      do: 'host-device.format',
      host: 'keel-backup',
      device: 'ledger-old',
      fileSystem: 'xfs',
      mountPoint: '/srv/ledger',
    },
  ]);
  return estate;
}

/** The same once it is known only by what it shows, and keel-backup has let go of its disk. */
export function oldArray(fabrics?: readonly ('A' | 'B')[]): Estate {
  const estate = withOldArray(fabrics);
  estate.apply(madeOutside(estate));
  carryOut(estate, [{ do: 'host-device.unmount', host: 'keel-backup', device: 'ledger-old' }], 'left');
  return estate;
}

export const lunOf = (estate: Estate, volume: string) =>
  [...estate.table('outsideLun').values()].find((row) => row.volume === named(estate, 'volume', volume).id)!;
