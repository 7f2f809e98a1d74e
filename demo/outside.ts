import type { OperationDocument } from '@/core/change/registry';
import { changed, type Effect } from '@/core/estate/effects';
import type { EstateView } from '@/core/estate/estate';
import { makeWwpn } from '@/core/naming/identity';
import { formatWwn } from '@/core/naming/wwn';
import { arrayRows, hardwareId, type ArrayPlan } from './hardware';
import { inUse, join } from './servers';

const corbel: ArrayPlan = {
  name: 'corbel-9',
  model: 'Corbel 9',
  site: 'Nordkai',
  companyId: '0a90d2',
  shelves: [{ media: 'hdd-7k', slots: 14, capacity: 8e12, sector: 512 }],
  fc: { count: 2, speed: 8 },
  ethernet: { count: 0, speed: 10 },
  portals: {},
  cables: { a0: 'a1:6', b0: 'a1:7', a1: 'b1:6', b1: 'b1:7' },
  commandLimit: 256,
};

/** The old array, which came with a firm that the harbour took over: nothing is carved on it from here. */
export const corbelRows = (): Effect[] => arrayRows(corbel);

/** From now on it is known only by what it shows. */
export const madeOutside = (view: EstateView): Effect[] => [
  changed('array', view.table('array').get(hardwareId('array', corbel.name))!, { outside: true }),
];

const LINTEL_COMPANY = '0a51c1';
const portNames = (array: string, companyId: string, ports: readonly string[]): string[] =>
  ports.map((port) => formatWwn(makeWwpn(companyId, `${array} ${port}`)));

const BACKUP = 'keel-backup';
/** Its LUNs, TiB by name; those of the backup server with their mount points, and GiB that lie on them. */
const luns: Record<string, number> = {
  chronicle: 4,
  pilotage: 2,
  roster: 2,
  soundings: 6,
  'hollow-1': 8,
  'hollow-2': 8,
};
export const onCorbel: Record<string, number> = { chronicle: 2750, pilotage: 640, soundings: 4100 };

/** How it was set up before anybody here knew it. */
export const corbelBefore: OperationDocument[] = [
  {
    do: 'raid-group.create',
    array: 'corbel-9',
    name: 'old',
    level: 'raid6',
    drives: Array.from({ length: 14 }, (_, slot) => `0:${slot}`),
  },
  { do: 'pool.create', array: 'corbel-9', name: 'old', raidGroups: ['old'] },
  ...Object.entries(luns).map(([name, tib]) => ({
    do: 'volume.create',
    array: 'corbel-9',
    pool: 'old',
    name,
    size: `${tib} TiB`,
    provisioning: 'thick',
  })),
  ...join(BACKUP, 'corbel-9', ['a0', 'b0'], ['a1', 'b1']),
  ...join('cargo-db-2', 'corbel-9', ['a0', 'b0'], ['a1', 'b1']),
  // lintel-1 sees it since last month.
  ...(
    [
      ['A', ['a2', 'b2'], ['a0', 'b0']],
      ['B', ['a3', 'b3'], ['a1', 'b1']],
    ] as const
  ).flatMap(([fabric, own, old]) => [
    {
      do: 'zone.create',
      fabric,
      name: `lintel-1_corbel-9_${fabric.toLowerCase()}`,
      kind: 'peer',
      principals: portNames(corbel.name, corbel.companyId, old),
      members: portNames('lintel-1', LINTEL_COMPANY, own),
    },
    { do: 'zone-set.activate', fabric, zoneSet: `set_${fabric}` },
  ]),
  { do: 'mapping.create', host: BACKUP, array: 'corbel-9', volumes: ['chronicle', 'pilotage', 'soundings'] },
  { do: 'mapping.create', host: 'cargo-db-2', array: 'corbel-9', volumes: ['roster'] },
  { do: 'host.rescan', host: BACKUP },
  { do: 'host.rescan', host: 'cargo-db-2' },
  ...Object.keys(onCorbel).flatMap((name) =>
    inUse(BACKUP, name, 'xfs', `/srv/${name}`).filter((one) => one.do !== 'host.rescan'),
  ),
];

/** Two of them are kept but no longer used, and one is held by a server that nobody dares to ask. */
export const corbelLeft: OperationDocument[] = [
  ...['chronicle', 'soundings'].map((device) => ({ do: 'host-device.unmount', host: BACKUP, device })),
  { do: 'host-device.reserve', host: 'cargo-db-2', device: 'roster' },
];

/** This morning lintel-1 looked, and what it found was inspected but for two. */
export const corbelFound: OperationDocument[] = [
  { do: 'outside.rescan', array: 'lintel-1' },
  {
    do: 'outside.inspect',
    array: 'lintel-1',
    luns: ['chronicle', 'pilotage', 'roster', 'hollow-1'].map(
      (name) => `corbel-9:${Object.keys(luns).sort().indexOf(name)}`,
    ),
  },
];
