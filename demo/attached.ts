import type { OperationDocument } from '@/core/change/registry';
import { hardwareId } from './hardware';
import { inUse, join, server } from './servers';
import { iqn, nqn, slots } from './names';

/** The fabrics and what hangs on them: the booking database, the hypervisors, accounts and backups; and the berth planning over NVMe/TCP. */
export const attached: OperationDocument[] = [
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
];
