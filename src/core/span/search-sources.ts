import type { Kind, Rows } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, fabricOf, hostOf, siteOf, switchOf, volumeOf, workloadOf } from '../estate/relations';
import { arrayDevice, fcid, hostDevice, type FcDevice } from '../fabric/devices';
import { euiOf, nguidOf, uuidOf } from '../naming/identity';
import { driveRef } from '../operation/inquiry';
import type { SelectableKind } from './chain';
import { timeText } from '../units/date';
import { sidesOf } from '../replicate/sides';

type ToldKind =
  | SelectableKind
  | 'alias'
  | 'zone'
  | 'zoneSet'
  | 'cluster'
  | 'workload'
  | 'plan'
  | 'snapshot'
  | 'replication'
  | 'drill'
  | 'siteLink'
  | 'witness'
  | 'loadLimit'
  | 'tierPolicy'
  | 'serviceClass'
  | 'keptRequest'
  | 'allotment'
  | 'move'
  | 'wavePlan'
  | 'outsideLun'
  | 'machine';

export interface Hit {
  kind: ToldKind;
  id: string;
  name: string;
  /** Where it belongs, and what matched if it was not the name. */
  where: string;
  /** What the drawing marks for it, where it is no part of the drawing itself. */
  marks?: { kind: SelectableKind; id: string };
  /** Of a copy: whose restore points are shown, and which of them. */
  shows?: { of: string; cut: string };
}

/** The drawing has no machines: it marks the volume of its first disk. */
const marksFirstDisk = (view: EstateView, machine: string): Pick<Hit, 'marks'> => {
  const [disk] = view.table('machineDisk').by('machine', machine);
  return disk ? { marks: { kind: 'volume', id: disk.volume } } : {};
};

/** What a thing is called beside its name, and what that name is. */
export type Called = readonly [label: string, value: string];

/** What is looked for: as it was typed, and its digits where it is a name in hexadecimal. */
export interface Wanted {
  text: string;
  digits: string | null;
}

/** Rows of one kind that lead to a hit: their own, or that of what they belong to. */
export interface Source<K extends Kind> {
  kind: K;
  tells: (view: EstateView, row: Rows[K]) => Omit<Hit, 'where'> & { where: string };
  /** The row's own name is not that of what it leads to: this is what its name is there; null where it does not count. */
  nameIs?: (row: Rows[K]) => string | null;
  /** Names that follow from the row alone, beside those that its declaration lists. */
  alsoCalled?: (row: Rows[K]) => readonly Called[];
  /** Names that follow from other rows, and for which texts they are worth asking. */
  throughOthers?: {
    when: (wanted: Wanted) => boolean;
    /** Cheaply, whether the row is worth asking for its names. */
    perhaps?: (view: EstateView, row: Rows[K], wanted: Wanted) => boolean;
    names: (view: EstateView, row: Rows[K]) => readonly Called[];
  };
}

const source = <K extends Kind>(made: Source<K>): Source<Kind> => made as unknown as Source<Kind>;

const arrayName = (view: EstateView, id: string): string => view.table('array').get(id)?.name ?? '';
const inArray = <K extends 'pool' | 'raidGroup' | 'volume' | 'port'>(kind: K) => ({
  kind,
  tells: (view: EstateView, row: Rows[K]): Hit => ({
    kind,
    id: row.id,
    name: row.name,
    where: arrayName(view, row.array),
  }),
});
const inFabric = (kind: 'alias' | 'zone' | 'zoneSet') =>
  source({
    kind,
    tells: (view, row) => ({
      kind,
      id: row.id,
      name: row.name,
      where: `fabric ${fabricOf(view, row).name}`,
      marks: { kind: 'fabric', id: row.fabric },
    }),
  });
const tellsHost = (view: EstateView, id: string): Hit => {
  const host = view.table('host').get(id);
  const site = host && siteOf(view, host);
  return { kind: 'host', id, name: host?.name ?? '', where: site?.name ?? '' };
};
const tellsArray = (view: EstateView, id: string): Hit => ({
  kind: 'array',
  id,
  name: arrayName(view, id),
  where: view.table('array').get(id)?.model ?? '',
});
const addressesOf = ({ addresses }: { addresses: readonly { ip: string }[] }): readonly Called[] =>
  addresses.map(({ ip }) => ['address', ip] as const);

/** An FCID has six digits; of longer names it cannot be a part. */
const perhapsFcid = ({ digits }: Wanted): boolean => digits !== null && digits.length <= 6;
const fcidOf = (device: FcDevice | null): readonly Called[] => (device?.switch ? [['FCID', fcid(device)]] : []);
/** The address of the switch port, which is the FCID of whoever has logged in there. */
const socketOf = (view: EstateView, row: { switch: string | null; switchPort: number }): string => {
  const at = row.switch === null ? undefined : switchOf(view, row);
  return at ? fcid({ switch: at, switchPort: row.switchPort }) : '';
};

const atSocket = (view: EstateView, row: { switch: string | null; switchPort: number }, { digits }: Wanted): boolean =>
  digits !== null && socketOf(view, row).includes(digits);

/** In the order in which hits of equal worth are told. */
/** Kinds of things that are found, the likeliest first, and what each is called. */
export const sources: readonly Source<Kind>[] = [
  source({ kind: 'array', tells: (view, row) => tellsArray(view, row.id) }),
  source({
    kind: 'target',
    tells: (view, row) => tellsArray(view, row.array),
    nameIs: (row) => (row.main ? null : 'target'),
  }),
  source({ kind: 'host', tells: (view, row) => tellsHost(view, row.id) }),
  source({ kind: 'initiator', tells: (view, row) => tellsHost(view, row.host), nameIs: () => 'initiator' }),
  source({ kind: 'hostDevice', tells: (view, row) => tellsHost(view, row.host), nameIs: () => null }),
  source({
    kind: 'cluster',
    tells: (view, row) => {
      const hosts = view.table('host').by('cluster', row.id);
      const hit: Hit = { kind: 'cluster', id: row.id, name: row.name, where: `${hosts.length} hosts` };
      return hosts[0] ? { ...hit, marks: { kind: 'host', id: hosts[0].id } } : hit;
    },
  }),
  source({
    kind: 'workload',
    tells: (_view, row) => ({ kind: 'workload', id: row.id, name: row.name, where: 'workload' }),
  }),
  source(inArray('pool')),
  source(inArray('raidGroup')),
  source({
    ...inArray('volume'),
    alsoCalled: ({ naa }) => [
      ['NGUID', nguidOf(naa)],
      ['EUI-64', euiOf(naa)],
    ],
    // Worked out by a hash: only for who pastes one.
    throughOthers: {
      when: ({ digits }) => digits !== null && digits.length >= 8,
      names: (_view, { naa }) => [['UUID', uuidOf(naa).replace(/-/g, '')]],
    },
  }),
  source({
    kind: 'network',
    tells: (_view, row) => ({ kind: 'network', id: row.id, name: row.name, where: row.cidr }),
  }),
  source({
    ...inArray('port'),
    alsoCalled: addressesOf,
    throughOthers: { when: perhapsFcid, perhaps: atSocket, names: (view, row) => fcidOf(arrayDevice(view, row)) },
  }),
  source({
    kind: 'interface',
    tells: (view, row) => ({
      kind: 'interface',
      id: row.id,
      name: row.name,
      where: (row.host && hostOf(view, row)?.name) || '',
    }),
    alsoCalled: addressesOf,
    throughOthers: { when: perhapsFcid, perhaps: atSocket, names: (view, row) => fcidOf(hostDevice(view, row)) },
  }),
  source({ kind: 'fabric', tells: (_view, row) => ({ kind: 'fabric', id: row.id, name: row.name, where: 'fabric' }) }),
  inFabric('alias'),
  inFabric('zone'),
  inFabric('zoneSet'),
  source({
    kind: 'replication',
    tells: (view, row) => {
      const { sourceSite, targetSite } = sidesOf(view, row);
      return { kind: 'replication', id: row.id, name: row.name, where: `${sourceSite} to ${targetSite}` };
    },
  }),
  source({
    kind: 'drill',
    tells: (_view, row) => ({ kind: 'drill', id: row.id, name: row.name, where: `drill at ${row.host}` }),
  }),
  source({
    kind: 'siteLink',
    tells: (_view, row) => ({ kind: 'siteLink', id: row.id, name: row.name, where: 'link between sites' }),
  }),
  source({
    kind: 'witness',
    tells: (view, row) => ({
      kind: 'witness',
      id: row.id,
      name: row.name,
      where: `witness at ${siteOf(view, row).name}`,
    }),
  }),
  source({
    kind: 'loadLimit',
    tells: (view, row) => ({
      kind: 'loadLimit',
      id: row.id,
      name: row.name,
      where: `limit of ${arrayOf(view, row).name}`,
    }),
  }),
  source({
    kind: 'tierPolicy',
    tells: (view, row) => ({
      kind: 'tierPolicy',
      id: row.id,
      name: row.name,
      where: `tier policy of ${arrayOf(view, row).name}`,
    }),
  }),
  source({
    kind: 'serviceClass',
    tells: (_view, row) => ({ kind: 'serviceClass', id: row.id, name: row.name, where: 'service class' }),
  }),
  source({
    kind: 'keptRequest',
    tells: (_view, row) => ({ kind: 'keptRequest', id: row.id, name: row.name, where: 'request' }),
  }),
  source({
    kind: 'allotment',
    tells: (_view, row) => ({ kind: 'allotment', id: row.id, name: row.name, where: 'allotment' }),
  }),
  source({
    kind: 'move',
    tells: (view, row) => ({
      kind: 'move',
      id: row.id,
      name: row.name,
      where: `move to ${view.table('pool').get(row.toPool)!.name}`,
    }),
  }),
  source({
    kind: 'wavePlan',
    tells: (_view, row) => ({ kind: 'wavePlan', id: row.id, name: row.name, where: 'wave plan' }),
  }),
  source({
    kind: 'machine',
    tells: (view, row) => ({
      kind: 'machine',
      id: row.id,
      name: row.name,
      where: `machine of ${view.table('cluster').get(row.cluster)!.name}`,
      ...marksFirstDisk(view, row.id),
    }),
  }),
  source({
    kind: 'outsideLun',
    tells: (view, row) => ({
      kind: 'outsideLun',
      id: row.id,
      name: row.name,
      where: `outside LUN behind ${view.table('array').get(row.array)!.name}`,
    }),
  }),
  source({
    kind: 'plan',
    tells: (_view, row) => ({ kind: 'plan', id: row.id, name: row.name, where: 'protection plan' }),
  }),
  source({
    kind: 'snapshot',
    tells: (view, row) => ({
      kind: 'snapshot',
      id: row.id,
      name: row.name,
      where: `copy of ${row.workload === null ? volumeOf(view, row).name : workloadOf(view, row)!.name}`,
      shows: { of: row.workload ?? row.volume, cut: row.cut },
    }),
    // `tickets 2031-04-13 18:00`: what it is a copy of, and when.
    throughOthers: {
      when: ({ text }) => /\S\s+\d/.test(text),
      perhaps: (_view, row) => row.kept,
      names: (view, row) =>
        [volumeOf(view, row).name, workloadOf(view, row)?.name ?? ''].map((name) => [
          'copy',
          `${name} ${timeText(row.at)}`,
        ]),
    },
  }),
  source({
    kind: 'drive',
    tells: (view, row) => ({
      kind: 'drive',
      id: row.id,
      name: driveRef(view, row),
      where: arrayName(view, row.array),
    }),
    throughOthers: {
      when: ({ text }) => /(^|\s)\d+:\d*$/.test(text),
      // Also as the interface writes it where arrays stand side by side.
      names: (view, row) => [['slot', `${arrayName(view, row.array)} ${driveRef(view, row)}`]],
    },
  }),
];
