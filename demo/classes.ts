import type { OperationDocument } from '@/core/change/registry';

/** What is said of a pool; the rest is read. */
const says = (array: string, pool: string, facts: Record<string, string>): OperationDocument[] =>
  Object.entries(facts).map(([key, value]) => ({ do: 'fact.declare', array, pool, key, value }));

/**
 * Facts that nobody can read, and classes that ask for them. Cost is in € a TiB and month. Somebody once wrote down that hold is encrypted, which it
 * is not; and the scanners were put under a class that their pool meets no more.
 */
export const classes: OperationDocument[] = [
  { do: 'fact-order.set', key: 'availability', words: ['one-box', 'two-box', 'two-room'] },
  ...says('lintel-1', 'quay', { costPerTiB: '52', availability: 'two-room', hours: 'round the clock' }),
  ...says('lintel-1', 'hold', {
    costPerTiB: '34',
    availability: 'two-room',
    hours: 'round the clock',
    encryption: 'yes',
  }),
  ...says('lintel-1', 'tide', { costPerTiB: '41', availability: 'one-box', hours: 'office hours' }),
  ...says('lintel-2', 'quay', { costPerTiB: '52', availability: 'two-room', hours: 'round the clock' }),
  ...says('purlin-1', 'ballast', { costPerTiB: '14', availability: 'two-box', hours: 'office hours' }),
  ...says('purlin-1', 'vault', { costPerTiB: '12', availability: 'two-box', hours: 'office hours' }),
  {
    do: 'class.create',
    name: 'quick',
    rules: ['media at least ssd-sas', 'protection at least 1', 'costPerTiB at most 60'],
    goalMs: 5,
  },
  {
    do: 'class.create',
    name: 'steady',
    rules: ['protection at least 1', 'hours is not office hours', 'availability at least two-box'],
  },
  { do: 'class.create', name: 'deep', rules: ['costPerTiB at most 20', 'room at least 20'] },
  { do: 'class.apply', array: 'lintel-1', class: 'quick', volumes: ['tickets', 'cargo-data', 'berths'] },
  { do: 'class.apply', array: 'lintel-1', class: 'steady', volumes: ['scanner', 'crew-rota'] },
  { do: 'class.apply', array: 'purlin-1', class: 'deep', volumes: ['radar-1', 'radar-2'] },
  {
    do: 'class.configure',
    class: 'steady',
    rules: [
      'protection at least 1',
      'hours is not office hours',
      'availability at least two-box',
      'costPerTiB at least 40',
    ],
  },
  {
    do: 'request.create',
    name: 'Journals apart',
    size: '500 GiB',
    volumes: 2,
    iops: 400,
    keeping: 'apart',
    rules: ['media at least ssd-sata', 'protection at least 1'],
    notes: 'Two journals of the booking hosts, never in one pool.',
  },
  {
    do: 'request.create',
    name: 'Chart archive',
    size: '40 TiB',
    iops: 50,
    class: 'deep',
    rules: ['site is Molenhaven'],
  },
  {
    do: 'allotment.create',
    name: 'Ticketing desk',
    contact: 'R. Visser',
    size: '6 TiB',
    volumes: 20,
    classes: ['quick', 'steady'],
    pools: ['lintel-1 quay 4 TiB'],
  },
  {
    do: 'allotment.create',
    name: 'Virtual deck team',
    contact: 'T. Wierda',
    size: '12 TiB',
    volumes: 60,
  },
  { do: 'allotment.create', name: 'Archive team', contact: 'E. Halma', size: '152 TiB', classes: ['deep'] },
  { do: 'allotment.take', allotment: 'Ticketing desk', array: 'lintel-1', volumes: ['tickets'] },
  { do: 'allotment.take', allotment: 'Virtual deck team', array: 'lintel-1', volumes: ['stores-1'] },
  { do: 'allotment.take', allotment: 'Archive team', array: 'purlin-1', volumes: ['radar-1', 'radar-2'] },
];
