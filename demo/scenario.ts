import { planChange } from '@/core/change/plan';
import type { OperationDocument } from '@/core/change/registry';
import { changed, type Effect } from '@/core/estate/effects';
import { Estate, type EstateView } from '@/core/estate/estate';
import { KIB, MIB } from '@/core/units/bytes';
import { DAY } from '@/core/units/duration';
import { bareHardware, LAB_START } from './hardware';

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
  { do: 'pool.create', array: 'lintel-1', name: 'quay', raidGroups: ['rg-1'], extentSize: '64 MiB' },
  { do: 'pool.create', array: 'lintel-1', name: 'hold', raidGroups: ['rg-2', 'rg-3'], extentSize: '64 MiB' },
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
  { do: 'pool.create', array: 'purlin-1', name: 'vault', raidGroups: ['rg-1', 'rg-2'], extentSize: '256 MiB' },

  { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'tickets', size: '2 TiB' },
  { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'gate-log', size: '500 GiB', count: 2 },
  { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'scanner', size: '300 GiB', provisioning: 'thick' },
  { do: 'volume.create', array: 'lintel-1', pool: 'hold', name: 'crew-rota', size: '800 GiB' },
  { do: 'volume.create', array: 'lintel-1', pool: 'hold', name: 'timetable', size: '1.5 TiB', count: 3 },
  { do: 'volume.create', array: 'purlin-1', pool: 'vault', name: 'radar', size: '40 TiB', count: 2 },
  { do: 'volume.create', array: 'purlin-1', pool: 'vault', name: 'camera-##', size: '24 TiB', count: 3 },

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
      { name: `eth${2 * k}`, addresses: [`10.40.1.${last}/24`], mtu: 9000 },
      { name: `eth${2 * k + 1}`, addresses: [`10.40.2.${last}/24`], mtu: 9000 },
    ]),
  },

  { do: 'mapping.create', host: 'gate-1', array: 'lintel-1', volumes: ['tickets', 'gate-log-1'] },
  { do: 'mapping.create', host: 'gate-2', array: 'lintel-1', volumes: ['gate-log-2', 'scanner', 'crew-rota'] },
  { do: 'mapping.create', host: 'radar-vault', array: 'purlin-1', volumes: ['radar-1', 'radar-2', 'camera-01'] },
  { do: 'host.rescan', host: 'gate-1' },
  { do: 'host.rescan', host: 'gate-2' },
  { do: 'host.rescan', host: 'radar-vault' },
  { do: 'host-device.format', host: 'gate-1', device: 'tickets', fileSystem: 'xfs', mountPoint: '/srv/tickets' },
  { do: 'host-device.format', host: 'gate-1', device: 'gate-log-1', fileSystem: 'ext4', mountPoint: '/srv/gate-log' },
  { do: 'host-device.format', host: 'gate-2', device: 'gate-log-2', fileSystem: 'ext4', mountPoint: '/srv/gate-log' },
  { do: 'host-device.format', host: 'gate-2', device: 'scanner', fileSystem: 'ext4', mountPoint: '/srv/scanner' },
  { do: 'host-device.format', host: 'gate-2', device: 'crew-rota', fileSystem: 'xfs', mountPoint: '/srv/crew-rota' },
  { do: 'host-device.format', host: 'radar-vault', device: 'radar-1', fileSystem: 'xfs', mountPoint: '/srv/radar-1' },
  { do: 'host-device.format', host: 'radar-vault', device: 'radar-2', fileSystem: 'xfs', mountPoint: '/srv/radar-2' },
];

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
/** Days that lie between the last of the history and the morning of the demo. */
export const HISTORY_DAYS = 45;

/** What hosts write: host and mount point → bytes a second. */
const traffic: Record<string, number> = {
  'gate-1 /srv/tickets': 320 * KIB,
  'gate-1 /srv/gate-log': 60 * KIB,
  'gate-2 /srv/gate-log': 85 * KIB,
  'gate-2 /srv/scanner': 40 * KIB,
  'gate-2 /srv/crew-rota': 110 * KIB,
  'radar-vault /srv/radar-1': 6 * MIB,
  'radar-vault /srv/radar-2': 4 * MIB,
};

/** The estate's operations on bare hardware, and the write generator's rates. */
export function demoEstate(): { estate: Estate; effects: Effect[] } {
  const hardware = bareHardware();
  const estate = new Estate();
  estate.apply(hardware);
  const effects = planOn(estate, history, 'history', LAB_START - HISTORY_DAYS * DAY);
  estate.apply(effects);
  const rates = [...estate.table('hostDevice').values()].map((device) =>
    changed('hostDevice', device, {
      writeRate: traffic[`${estate.table('host').get(device.host)!.name} ${device.mountPoint}`] ?? 0,
    }),
  );
  estate.apply(rates);
  return { estate, effects: [...hardware, ...effects, ...rates] };
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
