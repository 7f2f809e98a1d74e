import type { OperationDocument } from '@/core/change/registry';

/** Days before the morning of the demo from which on it was watched what hosts ask. */
export const WATCHED_DAYS = 7;

const asks = (array: string, volumes: string[], more: Record<string, unknown>): OperationDocument => ({
  do: 'volume.activity',
  array,
  volumes,
  ...more,
});

/**
 * What hosts read beside what they write. The machines of the deck start together once a day, in ten seconds that no mean of an hour shows, and the
 * ticket scanners wait for the same disks; one timetable keeps the other waiting; and the rota has had a limit for years that nobody remembers.
 */
export const load: OperationDocument[] = [
  asks('lintel-1', ['tickets'], { reads: 2400 }),
  asks('lintel-1', ['cargo-data'], { reads: 3600 }),
  asks('lintel-1', ['berths'], { reads: 900 }),
  asks('lintel-1', ['scanner'], { reads: 90, burst: 3 }),
  asks('lintel-1', ['stores-1'], { reads: 420, burst: 700, burstSeconds: 10, burstsAnHour: 1 / 24 }),
  asks('lintel-1', ['stores-2'], { reads: 260, burst: 3 }),
  asks('lintel-1', ['crew-rota'], { reads: 160, week: 'harbour' }),
  asks('lintel-1', ['timetable-1'], { kind: 'files', reads: 45, writes: 0.2, burst: 2, workingSet: 4 }),
  asks('lintel-1', ['timetable-2'], {
    kind: 'archive',
    reads: 300,
    writes: 0.1,
    burst: 2,
    ioSize: '64 KiB',
    pattern: 'random',
    workingSet: 30,
    week: 'office',
  }),
  asks('lintel-2', ['ledger'], { reads: 1200 }),
  {
    do: 'limit.create',
    array: 'lintel-1',
    name: 'rota-quiet',
    volumes: ['crew-rota'],
    iops: 120,
    notes: 'Set when the rota moved in; nobody remembers why.',
  },
  {
    do: 'tier-policy.create',
    array: 'lintel-1',
    name: 'rota-aside',
    volumes: ['crew-rota'],
    shares: ['ssd-nvme at most 40'],
    notes: 'The rota is read by day alone; flash is for the scanners.',
  },
];
