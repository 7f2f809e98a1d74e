import { planChange } from '@/core/change/plan';
import type { OperationDocument } from '@/core/change/registry';
import { changed, type Effect } from '@/core/estate/effects';
import type { ContentProfile } from '@/core/estate/entities';
import { Estate, type EstateView } from '@/core/estate/estate';
import { newIds } from '@/core/estate/new-ids';
import { randomFrom } from '@/core/estate/random';
import { lookUpDrive } from '@/core/operation/inquiry';
import { fitStore } from '@/core/pool/store';
import { KIB, MIB } from '@/core/units/bytes';
import { DAY } from '@/core/units/duration';
import { formatWwn } from '@/core/naming/wwn';
import { bareHardware, hardwareId, LAB_START, serverWwpn } from './hardware';
import { inUse, join, server } from './servers';

const slots = (enclosure: number, from: number, to: number): string[] =>
  Array.from({ length: to - from + 1 }, (_, k) => `${enclosure}:${from + k}`);

const iqn = (name: string): string => `iqn.2031-04.example.skarholt:${name}`;

/** What Skarholt Line has carved and mapped by the morning on which the demo begins. */
export const history: OperationDocument[] = [
  { do: 'raid-group.create', array: 'lintel-1', name: 'rg-1', level: 'raid6', drives: slots(0, 0, 9), chunk: '64 KiB' },
  {
    do: 'raid-group.create',
    array: 'lintel-1',
    name: 'rg-2',
    level: 'raid10',
    drives: slots(1, 0, 7),
    chunk: '64 KiB',
  },
  {
    do: 'raid-group.create',
    array: 'lintel-1',
    name: 'rg-3',
    level: 'raid6',
    drives: slots(1, 8, 17),
    chunk: '64 KiB',
  },
  {
    do: 'raid-group.create',
    array: 'lintel-1',
    name: 'rg-6',
    level: 'raid1',
    drives: slots(0, 20, 21),
    chunk: '64 KiB',
  },
  { do: 'drive.assign-spare', array: 'lintel-1', drives: ['0:22', '0:23', '1:23', '2:11'] },
  {
    do: 'pool.create',
    array: 'lintel-1',
    name: 'quay',
    raidGroups: ['rg-1'],
    extentSize: '64 MiB',
    compression: true,
    dedupe: 'inline',
    plannedReduction: 1.8,
    alertTo: 'storage desk, Nordkai',
  },
  {
    do: 'pool.create',
    array: 'lintel-1',
    name: 'hold',
    raidGroups: ['rg-2', 'rg-3', 'rg-6'],
    extentSize: '64 MiB',
    alertTo: 'storage desk, Nordkai',
  },
  {
    do: 'raid-group.create',
    array: 'lintel-1',
    name: 'rg-5',
    level: 'raid5',
    drives: slots(1, 18, 22),
    chunk: '64 KiB',
  },
  { do: 'pool.create', array: 'lintel-1', name: 'tide', raidGroups: ['rg-5'], extentSize: '64 MiB' },
  {
    do: 'raid-group.create',
    array: 'purlin-1',
    name: 'rg-1',
    level: 'raid6',
    drives: slots(0, 0, 9),
    chunk: '128 KiB',
  },
  {
    do: 'raid-group.create',
    array: 'purlin-1',
    name: 'rg-2',
    level: 'raid6',
    drives: slots(0, 10, 19),
    chunk: '128 KiB',
  },
  {
    do: 'raid-group.create',
    array: 'purlin-1',
    name: 'rg-3',
    level: 'distributed',
    drives: slots(0, 20, 43),
    stripe: '8+2',
    spareColumns: 2,
    chunk: '128 KiB',
  },
  { do: 'drive.assign-spare', array: 'purlin-1', drives: ['0:58', '0:59'] },
  {
    do: 'pool.create',
    array: 'purlin-1',
    name: 'vault',
    raidGroups: ['rg-1', 'rg-2'],
    extentSize: '256 MiB',
    alertTo: 'storage desk, Nordkai',
  },
  {
    do: 'pool.create',
    array: 'purlin-1',
    name: 'ballast',
    raidGroups: ['rg-3'],
    extentSize: '256 MiB',
    alertTo: 'storage desk, Nordkai',
  },

  { do: 'workload.create', name: 'Ticketing', notes: 'Boarding gates and ticket scanners' },
  { do: 'workload.create', name: 'Crew rota', notes: 'Rosters and timetables' },
  { do: 'workload.create', name: 'Radar archive', notes: 'Radar and camera recordings' },

  { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'tickets', size: '2 TiB', workload: 'Ticketing' },
  {
    do: 'volume.create',
    array: 'lintel-1',
    pool: 'quay',
    name: 'gate-log',
    size: '500 GiB',
    count: 2,
    workload: 'Ticketing',
  },
  {
    do: 'volume.create',
    array: 'lintel-1',
    pool: 'hold',
    name: 'scanner',
    size: '900 GiB',
    provisioning: 'thick',
    tier: 'hdd-10k',
    workload: 'Ticketing',
  },
  { do: 'volume.create', array: 'lintel-1', pool: 'hold', name: 'crew-rota', size: '800 GiB', workload: 'Crew rota' },
  {
    do: 'volume.create',
    array: 'lintel-1',
    pool: 'tide',
    name: 'timetable',
    size: '5.2 TiB',
    count: 4,
    workload: 'Crew rota',
  },
  {
    do: 'volume.create',
    array: 'purlin-1',
    pool: 'vault',
    name: 'radar',
    size: '70 TiB',
    count: 2,
    workload: 'Radar archive',
  },
  {
    do: 'volume.create',
    array: 'purlin-1',
    pool: 'vault',
    name: 'camera-##',
    size: '24 TiB',
    count: 3,
    workload: 'Radar archive',
  },

  ...[1, 2].map((n) => ({
    do: 'host.create',
    name: `gate-${n}`,
    os: 'linux',
    site: 'Nordkai',
    initiators: [iqn(`gate-${n}`)],
    interfaces: [
      { name: 'eth0', addresses: [`10.40.1.${50 + n}/24`], mtu: 9000 },
      { name: 'eth1', addresses: [`10.40.2.${50 + n}/24`], mtu: 9000 },
    ],
  })),
  {
    do: 'host.create',
    name: 'radar-vault',
    os: 'linux',
    site: 'Nordkai',
    initiators: [iqn('radar-vault')],
    interfaces: [61, 62].flatMap((last, k) => [
      { name: `eth${2 * k}`, addresses: [`10.40.1.${last}/24`], mtu: 9000, bound: true },
      { name: `eth${2 * k + 1}`, addresses: [`10.40.2.${last}/24`], mtu: 9000, bound: true },
    ]),
  },

  { do: 'mapping.create', host: 'gate-1', array: 'lintel-1', volumes: ['tickets', 'gate-log-1'] },
  {
    do: 'mapping.create',
    host: 'gate-2',
    array: 'lintel-1',
    volumes: ['gate-log-2', 'scanner', 'crew-rota', 'timetable-1', 'timetable-2'],
  },
  { do: 'mapping.create', host: 'radar-vault', array: 'purlin-1', volumes: ['radar-1', 'radar-2', 'camera-01'] },
  { do: 'host.rescan', host: 'gate-1' },
  { do: 'host.rescan', host: 'gate-2' },
  { do: 'host.rescan', host: 'radar-vault' },
  { do: 'host-device.format', host: 'gate-1', device: 'tickets', fileSystem: 'xfs', mountPoint: '/srv/tickets' },
  { do: 'host-device.format', host: 'gate-1', device: 'gate-log-1', fileSystem: 'ext4', mountPoint: '/srv/gate-log' },
  { do: 'host-device.format', host: 'gate-2', device: 'gate-log-2', fileSystem: 'ext4', mountPoint: '/srv/gate-log' },
  { do: 'host-device.format', host: 'gate-2', device: 'scanner', fileSystem: 'ext4', mountPoint: '/srv/scanner' },
  { do: 'host-device.format', host: 'gate-2', device: 'crew-rota', fileSystem: 'xfs', mountPoint: '/srv/crew-rota' },
  {
    do: 'host-device.format',
    host: 'gate-2',
    device: 'timetable-1',
    fileSystem: 'xfs',
    mountPoint: '/srv/timetable-1',
  },
  {
    do: 'host-device.format',
    host: 'gate-2',
    device: 'timetable-2',
    fileSystem: 'xfs',
    mountPoint: '/srv/timetable-2',
  },
  { do: 'host-device.format', host: 'radar-vault', device: 'radar-1', fileSystem: 'xfs', mountPoint: '/srv/radar-1' },
  { do: 'host-device.format', host: 'radar-vault', device: 'radar-2', fileSystem: 'xfs', mountPoint: '/srv/radar-2' },
];

/** The fabrics and what hangs on them: the booking database, the hypervisors, accounts and backups; and the berth planning over NVMe/TCP. */
const nqn = (name: string): string => `nqn.2031-04.example.skarholt:${name}`;
history.push(
  { do: 'volume.configure', array: 'lintel-1', volumes: ['tickets'], notes: 'The gates stop without it.' },
  { do: 'raid-group.create', array: 'lintel-2', name: 'rg-1', level: 'raid6', drives: slots(0, 0, 9), chunk: '64 KiB' },
  { do: 'drive.assign-spare', array: 'lintel-2', drives: ['0:23'] },
  {
    do: 'pool.create',
    array: 'lintel-2',
    name: 'quay',
    raidGroups: ['rg-1'],
    extentSize: '64 MiB',
    alertTo: 'storage desk, Molenhaven',
  },
  { do: 'workload.create', name: 'Cargo booking', notes: 'Bookings and manifests' },
  { do: 'workload.create', name: 'Virtual deck', notes: 'Some 40 virtual machines' },
  { do: 'workload.create', name: 'Accounts', notes: 'Books of the line' },
  { do: 'workload.create', name: 'Berth planning', notes: 'Simulation of berths and tides' },
  {
    do: 'volume.create',
    array: 'lintel-1',
    pool: 'quay',
    name: 'cargo-data',
    size: '1 TiB',
    workload: 'Cargo booking',
  },
  {
    do: 'volume.create',
    array: 'lintel-1',
    pool: 'quay',
    name: 'cargo-log',
    size: '200 GiB',
    workload: 'Cargo booking',
  },
  {
    do: 'volume.create',
    array: 'lintel-1',
    pool: 'hold',
    name: 'stores',
    size: '1 TiB',
    count: 3,
    workload: 'Virtual deck',
  },
  { do: 'volume.create', array: 'lintel-2', pool: 'quay', name: 'ledger', size: '600 GiB', workload: 'Accounts' },
  { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'berths', size: '300 GiB', workload: 'Berth planning' },
  { do: 'volume.create', array: 'purlin-1', pool: 'ballast', name: 'keel', size: '40 TiB' },
  server('cargo-db-1', 'linux', 'Nordkai', 'cargo'),
  server('cargo-db-2', 'linux', 'Nordkai', 'cargo'),
  ...[1, 2].map((n) => server(`deck-${n}`, 'hypervisor', 'Nordkai', 'deck')),
  ...[3, 4].map((n) => server(`deck-${n}`, 'hypervisor', 'Molenhaven', 'deck')),
  server('ledger-1', 'linux', 'Molenhaven'),
  server('keel-backup', 'linux', 'Nordkai'),
  ...['cargo-db-1', 'cargo-db-2'].flatMap((host) => join(host, 'lintel-1', ['a0', 'b0'], ['a1', 'b1'])),
  ...[1, 2, 3, 4].flatMap((n) => join(`deck-${n}`, 'lintel-1', ['a2', 'b2'], ['a3', 'b3'])),
  // The accounts were zoned in one fabric only.
  { do: 'zoning.join', fabric: 'A', host: 'ledger-1', array: 'lintel-2', ports: ['a0', 'b0'] },
  ...join('keel-backup', 'purlin-1', ['a0', 'b0'], ['a1', 'b1']),
  { do: 'mapping.create', cluster: 'cargo', array: 'lintel-1', volumes: ['cargo-data', 'cargo-log'] },
  { do: 'mapping.create', cluster: 'deck', array: 'lintel-1', volumes: ['stores-1', 'stores-2'] },
  { do: 'mapping.create', host: 'ledger-1', array: 'lintel-2', volumes: ['ledger'] },
  { do: 'mapping.create', host: 'keel-backup', array: 'purlin-1', volumes: ['keel'] },
  ...inUse('cargo-db-1', 'cargo-data', 'xfs', '/srv/cargo'),
  ...inUse('deck-1', 'stores-1', 'gfs2', '/stores/deck'),
  ...inUse('ledger-1', 'ledger', 'xfs', '/srv/ledger'),
  ...inUse('keel-backup', 'keel', 'xfs', '/srv/keel'),
  ...['cargo-db-2', 'deck-2', 'deck-3', 'deck-4'].map((host) => ({ do: 'host.rescan', host })),
  ...(['a6 10.40.11.11', 'a7 10.40.12.11', 'b6 10.40.11.12', 'b7 10.40.12.12'] as const).map((text) => ({
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
    initiators: [nqn('berth-sim')],
    interfaces: [
      { name: 'eth0', addresses: ['10.40.11.71/24'] },
      { name: 'eth1', addresses: ['10.40.12.71/24'] },
    ],
  },
  { do: 'subsystem.create', array: 'lintel-1', name: 'berths', allowed: ['berth-sim'] },
  { do: 'mapping.create', host: 'berth-sim', array: 'lintel-1', volumes: ['berths'], subsystem: 'berths' },
  { do: 'host-device.format', host: 'berth-sim', device: 'berths', fileSystem: 'xfs', mountPoint: '/srv/berths' },
  // Left over from a server that is long gone.
  { do: 'alias.create', fabric: 'B', name: 'quay-old_hba1', members: ['11,40'] },
  // Made in a hurry: two hypervisors in one zone.
  {
    do: 'zone.create',
    fabric: 'A',
    name: 'deck_pair',
    members: ['deck-1_hba0', 'deck-2_hba0', 'lintel-1_a2'],
  },
  { do: 'zone-set.activate', fabric: 'A', zoneSet: 'set_A' },
  // A name that was typed rather than copied when lintel-1 was to let the archive in.
  { do: 'host.configure', host: 'radar-vault', initiators: [iqn('radar-vault'), iqn('radar-vailt')] },
  {
    do: 'initiator.configure',
    host: 'radar-vault',
    initiator: iqn('radar-vailt'),
    array: 'lintel-1',
    access: 'read-only',
  },
  // Left at its factory setting.
  { do: 'interface.configure', host: 'gate-2', interface: 'eth1', mtu: 1500 },
  // Mapped host by host, and one of them by hand.
  ...[1, 2, 3, 4].flatMap((n) => [
    {
      do: 'mapping.create',
      host: `deck-${n}`,
      array: 'lintel-1',
      volumes: ['stores-3'],
      lun: n === 3 ? 12 : 2,
    },
    { do: 'host.rescan', host: `deck-${n}` },
  ]),
  // Known and accepted: the iSCSI networks are closed.
  ...['lintel-1', 'purlin-1'].map((array) => ({
    do: 'finding.mute',
    check: 'chap-not-required',
    subject: hardwareId('array', array),
    reason: 'The iSCSI networks are closed; CHAP comes with the new gates.',
    until: '2031-12-31',
  })),
);

/** A change that waits among the changes: a server that was delivered last week gets its host, its zones and its storage. */
export const secondChange = {
  title: 'Storage for a new ticketing host',
  operations: [
    {
      do: 'host.create',
      name: 'ticket-3',
      os: 'linux',
      site: 'Nordkai',
      initiators: ['hba0', 'hba1'].map((port) => formatWwn(serverWwpn('ticket-3', port))),
    },
    {
      do: 'storage.give',
      host: 'ticket-3',
      size: '600 GiB',
      name: 'ticket-archive',
      pool: 'lintel-1/quay',
      mountPoint: '/srv/ticket-archive',
      workload: 'Ticketing',
    },
  ] as OperationDocument[],
};

/** The change that waits in the tray. */
export const preparedChange = {
  title: 'Room for the summer timetable',
  operations: [
    {
      do: 'volume.create',
      array: 'lintel-1',
      pool: 'quay',
      name: 'summer',
      size: '400 GiB',
      count: 2,
      provisioning: 'thin',
    },
    {
      do: 'mapping.create',
      host: 'gate-2',
      array: 'lintel-1',
      volumes: ['summer-1', 'summer-2'],
      ports: 'all',
      lun: 'next',
      access: 'read-write',
    },
    { do: 'host.rescan', host: 'gate-2' },
  ] as OperationDocument[],
};

/** Work of the last hours: a group that is still being initialised when the demo begins. */
export const recent: OperationDocument[] = [
  {
    do: 'raid-group.create',
    array: 'lintel-1',
    name: 'rg-4',
    level: 'raid6',
    drives: slots(2, 0, 7),
    chunk: '128 KiB',
  },
];
export const RECENT_HOURS = 9;
/** Days that lie between the first of the history and the morning of the demo. */
export const HISTORY_DAYS = 120;

/** What hosts write, in the mean: host and mount point → bytes a second. */
const traffic: Record<string, number> = {
  'gate-1 /srv/tickets': 140 * KIB,
  'keel-backup /srv/pilotage': 12 * KIB,
  'gate-1 /srv/gate-log': 36 * KIB,
  'gate-2 /srv/gate-log': 34 * KIB,
  'gate-2 /srv/scanner': 20 * KIB,
  'gate-2 /srv/crew-rota': 60 * KIB,
  'gate-2 /srv/timetable-1': 445 * KIB,
  'gate-2 /srv/timetable-2': 291 * KIB,
  'radar-vault /srv/radar-1': 4.5 * MIB,
  'radar-vault /srv/radar-2': 3.2 * MIB,
  'cargo-db-1 /srv/cargo': 30 * KIB,
  'deck-1 /stores/deck': 25 * KIB,
  'ledger-1 /srv/ledger': 20 * KIB,
  'keel-backup /srv/keel': 900 * KIB,
  'berth-sim /srv/berths': 8 * KIB,
};

/** What hosts write: sister volumes hold much that is alike; recordings are compressed already. */
const contents: Record<string, Partial<ContentProfile>> = {
  tickets: { zero: 8, squeeze: 'database' },
  'gate-log-1': { family: 'gate-log', common: 42, zero: 4, squeeze: 'text' },
  'gate-log-2': { family: 'gate-log', common: 42, zero: 4, squeeze: 'text' },
  'radar-1': { squeeze: 'media' },
  'radar-2': { squeeze: 'media' },
};

/** Weekends are quiet, and no day is like another: the factor of a day's writing, 1 in the mean of weekdays. */
export function rhythm(day: number): number {
  const weekend = [2, 3].includes(((day % 7) + 7) % 7);
  return (weekend ? 0.55 : 1.1) * (0.85 + 0.3 * randomFrom(`skarholt rhythm ${day}`)());
}

/** Effects that set every host's rate for a day; without one, for the time of the demo. */
export function ratesOf(view: EstateView, factor = 1): Effect[] {
  return [...view.table('hostDevice').values()].map((device) => {
    const mean = traffic[`${view.table('host').get(device.host)!.name} ${device.mountPoint}`] ?? 0;
    return changed('hostDevice', device, { writeRate: Math.round(mean * factor) });
  });
}

/** What time has done to drives by the morning of the demo. */
export function agedDrives(view: EstateView, now: number): Effect[] {
  const lintel = [...view.table('array').values()].find((array) => array.name === 'lintel-1')!;
  const drive = (ref: string) => lookUpDrive(view, ref, lintel.id)!;
  return [
    changed('drive', drive('0:7'), { wear: 86.4 }),
    changed('drive', drive('1:12'), { state: 'predicted', mediaErrors: 31, recentErrors: 14 }),
    ...[...view.table('raidGroup').values()].map((group) =>
      changed('raidGroup', group, { scrubbedAt: now - (group.name === 'rg-5' ? 41 : 9) * DAY }),
    ),
  ];
}

/** The estate's operations on bare hardware. */
export function demoEstate(): { estate: Estate; effects: Effect[] } {
  const hardware = bareHardware();
  const estate = new Estate();
  estate.apply(hardware);
  const effects = planOn(estate, history, 'history', LAB_START - HISTORY_DAYS * DAY);
  estate.apply(effects);
  const written = [...estate.table('volume').values()].flatMap((volume) =>
    contents[volume.name]
      ? [changed('volume', volume, { content: { ...volume.content, ...contents[volume.name] } })]
      : [],
  );
  estate.apply(written);
  // Other content comes to another size in the reduced stores.
  const newId = newIds('skarholt stores');
  const fitted = [...estate.table('pool').values()].flatMap((pool) => {
    const { effects: made } = fitStore(estate, pool, newId);
    estate.apply(made);
    return made;
  });
  return { estate, effects: [...hardware, ...effects, ...written, ...fitted] };
}

/** Effects of scenario operations. Throws where the scenario breaks a rule of its own. */
export function planOn(
  view: EstateView,
  operations: readonly OperationDocument[],
  seed: string,
  now: number,
): Effect[] {
  const plan = planChange(view, operations, { seed: `skarholt ${seed}`, now, month: '2031-04' });
  if (plan.refusals.length > 0)
    throw new Error(`The demo is refused: ${plan.refusals.map((refusal) => refusal.message).join(' ')}`);
  return plan.steps.flatMap((step) => step.effects);
}
