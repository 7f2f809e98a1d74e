import type { OperationDocument } from '@/core/change/registry';
import { join } from './servers';
import { slots } from './names';

/** The lines between the harbours and the head office. */
export const lines: OperationDocument[] = [
  {
    do: 'site-link.create',
    name: 'dark fibre',
    from: 'Nordkai',
    to: 'Molenhaven',
    speed: '10 Gb/s',
    rtt: 0.62,
    km: 38,
    isls: ['a1-a2-1', 'b1-b2-1'],
    networks: ['iscsi-a', 'iscsi-b'],
    notes: 'Fibre of our own under the sound.',
  },
  {
    do: 'site-link.create',
    name: 'leased line',
    from: 'Nordkai',
    to: 'Molenhaven',
    speed: '1 Gb/s',
    rtt: 9,
    km: 210,
    loss: 0.01,
    nightCap: '4 MiB/s',
    notes: 'The second way, around the sound. By night the terminal copies its cameras over it.',
  },
  { do: 'site-link.create', name: 'Nordkai to Oever', from: 'Nordkai', to: 'Oever', speed: '200 Mb/s', rtt: 12 },
  { do: 'site-link.create', name: 'Molenhaven to Oever', from: 'Molenhaven', to: 'Oever', speed: '200 Mb/s', rtt: 12 },
];

/** A pool of large disks at the other harbour, for recordings. */
export const bunker: OperationDocument[] = [
  { do: 'raid-group.create', array: 'lintel-2', name: 'rg-2', level: 'raid6', drives: slots(2, 0, 11) },
  { do: 'pool.create', array: 'lintel-2', name: 'bunker', raidGroups: ['rg-2'], alertTo: 'storage desk, Molenhaven' },
];

/** Secrets between the harbours, as the estate knows them: by their fingerprints alone. */
const SHOWN_BY_1 = 'sealed:6d1fb2a90c7e4435a8d25e0b91f3c764';
const SHOWN_BY_2 = 'sealed:b07a3c58e1924fd6973c1d8e5f60a2b9';

/** The arrays of both harbours know each other, and what each may use of the other. */
export const partners: OperationDocument[] = [
  {
    do: 'partner.introduce',
    array: 'lintel-1',
    peer: 'lintel-2',
    addresses: ['10.41.1.11', '10.41.2.12'],
    shownSecret: SHOWN_BY_1,
    expectedSecret: SHOWN_BY_2,
    offers: ['quay 12 TiB'],
    contact: 'storage at Molenhaven, desk 4',
  },
  {
    do: 'partner.introduce',
    array: 'lintel-2',
    peer: 'lintel-1',
    addresses: ['10.40.1.11', '10.40.2.12'],
    shownSecret: SHOWN_BY_2,
    expectedSecret: SHOWN_BY_1,
    offers: ['quay 40 TiB'],
    quotaVolumes: '24',
    contact: 'storage at Nordkai, desk 1',
  },
];

const SHOWN_BY_3 = 'sealed:29e4c0718bd65f3ae1470d9b85c2f6a3';
const SHOWN_BY_4 = 'sealed:f1507ad3962e4b8c0a7b3c61d8e94f25';

/** The archive's array and the one that keeps its recordings know each other. */
export const archivePartners: OperationDocument[] = [
  {
    do: 'partner.introduce',
    array: 'purlin-1',
    peer: 'lintel-2',
    addresses: ['10.41.1.11', '10.41.2.12'],
    shownSecret: SHOWN_BY_3,
    expectedSecret: SHOWN_BY_4,
    contact: 'storage at Molenhaven, desk 4',
  },
  {
    do: 'partner.introduce',
    array: 'lintel-2',
    peer: 'purlin-1',
    addresses: ['10.40.1.21', '10.40.2.22'],
    shownSecret: SHOWN_BY_4,
    expectedSecret: SHOWN_BY_3,
    offers: ['bunker 200 TiB'],
    contact: 'storage at Nordkai, desk 1',
  },
];

/** The recordings went over on media, all but those of the third camera; since then the leased line brings what is new, and by night it cannot keep up. */
export const archiveAfar: OperationDocument[] = [
  {
    do: 'replication.create',
    workload: 'Radar archive',
    to: 'lintel-2',
    pool: 'bunker',
    link: 'leased line',
    first: 'shipped',
    rpo: '2 h',
    interval: '1 h',
  },
];
/** Days before the demo begins at which the media were sent off. */
export const SHIPPED_DAYS = 12;

/** What is copied to the other harbour: Ticketing closely, Cargo booking write by write, Accounts the other way, and Berth planning, in its first copy over the second way. */
export const replications: OperationDocument[] = [
  {
    do: 'replication.create',
    workload: 'Ticketing',
    to: 'lintel-2',
    pool: 'quay',
    link: 'dark fibre',
    rpo: '10 min',
    interval: '5 min',
    images: 2,
    imagesDaily: 7,
    weight: 3,
    goal: '1 h',
    tier: 2,
  },
  {
    do: 'replication.create',
    workload: 'Cargo booking',
    to: 'lintel-2',
    pool: 'quay',
    link: 'dark fibre',
    mode: 'sync',
    log: '8 GiB',
    goal: '30 min',
  },
  {
    do: 'replication.create',
    workload: 'Accounts',
    to: 'lintel-1',
    pool: 'quay',
    link: 'dark fibre',
    rpo: '2 h',
    interval: '1 h',
  },
  {
    do: 'replication.create',
    workload: 'Berth planning',
    to: 'lintel-2',
    pool: 'quay',
    link: 'leased line',
    rpo: '30 min',
    cap: '4 MiB/s',
  },
];

/** The head office decides between both harbours. */
export const witness: OperationDocument = {
  do: 'witness.create',
  name: 'oever-1',
  site: 'Oever',
  notes: 'A small machine in the cellar of the head office.',
};

/** What the virtual machines lie on stands at both harbours as one. */
export const stretch = {
  do: 'stretch.create',
  workload: 'Virtual deck',
  to: 'lintel-2',
  pool: 'quay',
  link: 'dark fibre',
  witness: 'oever-1',
} satisfies OperationDocument;

/** Both legs of what the virtual machines lie on are shown to all their servers. */
export const stretchedDeck: OperationDocument[] = [
  ...[1, 2, 3, 4].flatMap((n) => join(`deck-${n}`, 'lintel-2', ['a2', 'b2'], ['a3', 'b3'])),
  stretch,
  { do: 'mapping.create', cluster: 'deck', array: 'lintel-2', volumes: ['stores-1-leg', 'stores-2-leg'] },
];

/** A server at Molenhaven on which nothing runs: failovers are rehearsed there. */
export const yard: OperationDocument = {
  do: 'host.create',
  name: 'yard-1',
  os: 'linux',
  site: 'Molenhaven',
  initiators: ['iqn.2031-04.example.skarholt:yard-1'],
  interfaces: [
    { name: 'eth0', addresses: ['10.41.1.51/24'] },
    { name: 'eth1', addresses: ['10.41.2.51/24'] },
  ],
};

/** The failover of what gates and scanners live on, rehearsed and ended. */
export const rehearsal: OperationDocument[] = [
  { do: 'drill.start', replications: ['Ticketing', 'Cargo booking'], host: 'yard-1' },
];

/** Hours before the demo begins at which copying to the other harbour was begun. */
export const ELSEWHERE_HOURS = 2;

/** Minutes before the demo begins at which the rehearsal began; it ended half way. */
export const REHEARSED_MINUTES = 20;

/** Written beforehand: Crew rota is to stand at the other harbour, too. */
export const secondSite = {
  title: 'A second site for Crew rota',
  operations: [
    {
      do: 'replication.create',
      workload: 'Crew rota',
      to: 'lintel-2',
      pool: 'quay',
      link: 'leased line',
      rpo: '4 h',
    },
  ],
} satisfies { title: string; operations: OperationDocument[] };
