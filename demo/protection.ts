import type { OperationDocument } from '@/core/change/registry';
import { changed, compacted, type Effect } from '@/core/estate/effects';
import type { Estate, EstateView } from '@/core/estate/estate';
import { newIds } from '@/core/estate/new-ids';
import { deleteFile, writeFile } from '@/core/attach/files';
import { nextPlanRun, planPass } from '@/core/protect/pass';
import { GIB, KIB, MIB, type Bytes } from '@/core/units/bytes';
import { nextCycle, replicated } from '@/core/replicate/pass';
import { DAY, HOUR } from '@/core/units/duration';
import { lines, partners, replications, stretchedDeck, witness, yard } from './elsewhere';
import { LAB_START } from './hardware';
import { demoEstate, planOn } from './scenario';

const activity = (
  array: string,
  volumes: string[],
  kind: string,
  more: Record<string, unknown> = {},
): OperationDocument => ({ do: 'volume.activity', array, volumes, kind, ...more });

/** Days before the morning of the demo on which the line began to protect its applications. */
export const PROTECTED_DAYS = 30;

/** What runs where, what it does to its volumes, and the plans that were agreed. The accounts' agent was never finished; nobody thought of the rota. */
export const protection: OperationDocument[] = [
  activity('lintel-1', ['tickets'], 'database', { writes: 3, reads: 160, workingSet: 12, week: 'harbour' }),
  activity('lintel-1', ['gate-log-1', 'gate-log-2'], 'log', { writes: 0.5, week: 'harbour' }),
  activity('lintel-1', ['scanner'], 'files', { writes: 0.5, week: 'harbour' }),
  activity('lintel-1', ['cargo-data'], 'database', { writes: 3, reads: 240, workingSet: 15 }),
  activity('lintel-1', ['cargo-log'], 'log', { writes: 1 }),
  activity('lintel-1', ['stores-1', 'stores-2'], 'machines', { writes: 4 }),
  activity('lintel-1', ['berths'], 'database', { writes: 0.4, reads: 30, week: 'even' }),
  activity('lintel-1', ['crew-rota'], 'files', { writes: 0.4 }),
  activity('lintel-2', ['ledger'], 'database', { writes: 4, reads: 90 }),
  activity('purlin-1', ['radar-1', 'radar-2'], 'archive'),
  // The third camera is to go: nobody keeps copies of it.
  { do: 'volume.configure', array: 'purlin-1', volumes: ['camera-03'], workload: 'none' },

  ...['gate-1', 'gate-2', 'cargo-db-1'].map((host) => ({
    do: 'host.application',
    host,
    application: 'database',
    agent: true,
  })),
  { do: 'host.application', host: 'deck-1', application: 'machines', agent: true },
  { do: 'host.application', host: 'berth-sim', application: 'other', agent: true },
  { do: 'host.application', host: 'ledger-1', application: 'database' },

  {
    do: 'plan.create',
    name: 'Harbour day',
    notes: 'Agreed with the harbour office: half an hour at most.',
    zone: 'Europe/Oslo',
    rpo: '4 h',
    every: '4 h',
    keepDays: 14,
    quiesce: true,
    proveDays: 30,
  },
  {
    do: 'plan.schedule',
    plan: 'Harbour day',
    schedule: 'weekly',
    every: 'SU 04:00',
    weekly: 5,
    lockDays: 30,
    quiesce: true,
  },
  {
    do: 'plan.create',
    name: 'Deck',
    notes: 'Machines are paused by their hypervisor.',
    zone: 'Europe/Oslo',
    rpo: '12 h',
    every: 'day 00:00,12:00',
    keepDays: 7,
    quiesce: true,
  },
  {
    do: 'plan.create',
    name: 'Archive',
    notes: 'Recordings are written once.',
    zone: 'Europe/Oslo',
    rpo: '26 h',
    every: 'day 02:00',
    keepCount: 5,
    monthly: 3,
  },
  { do: 'plan.attach', plan: 'Harbour day', workloads: ['Ticketing', 'Cargo booking', 'Accounts', 'Berth planning'] },
  { do: 'plan.attach', plan: 'Deck', workloads: ['Virtual deck'] },
  { do: 'plan.attach', plan: 'Archive', workloads: ['Radar archive'] },
];

/** Days before the morning of the demo on which copies were last looked at; nobody thought of the tickets. */
export const PROVEN_DAYS = 9;

export const proofs = (view: EstateView): OperationDocument[] =>
  ['Cargo booking', 'Accounts', 'Berth planning'].map((workload) => {
    const { id } = [...view.table('workload').values()].find((row) => row.name === workload)!;
    const [newest] = [...view.table('snapshot').by('workload', id)].sort((a, b) => b.at - a.at);
    return { do: 'snapshot.validate', workload, copy: newest!.name, host: 'keel-backup' };
  });

/** Days before the morning of the demo on which copies came to be made every half hour. */
export const CLOSELY_DAYS = 2;

export const closely: OperationDocument[] = [
  { do: 'plan.schedule', plan: 'Harbour day', schedule: 'half-hourly', every: '30 min', keepDays: 2, quiesce: true },
  { do: 'plan.configure', plan: 'Harbour day', rpo: '30 min' },
];

/** A copy that somebody made by hand and forgot to say until when. */
export const byHand: OperationDocument[] = [
  {
    do: 'snapshot.create',
    workload: 'Crew rota',
    name: 'before-spring-rota',
    notes: 'Before the rota of the spring was taken in.',
    madeBy: 'tor',
  },
];

/** The hypervisor's agent has been slow since its last update. */
export const brokenAgents = (view: EstateView): Effect[] =>
  [...view.table('host').values()]
    .filter((host) => host.name === 'deck-1')
    .map((host) => changed('host', host, { agent: 'slow' }));

/** Hours before the demo begins at which somebody deleted a file too many. */
export const LOST_HOURS = 3;

interface Named {
  host: string;
  device: string;
  path: string;
  size?: Bytes;
}

/** Files that hosts wrote while the weeks before the demo passed. */
export const earlyFiles: Named[] = [
  { host: 'gate-1', device: 'tickets', path: 'fares/fares-2031.db', size: 6 * GIB },
  { host: 'gate-1', device: 'tickets', path: 'fares/season-passes.db', size: 900 * MIB },
  { host: 'gate-1', device: 'tickets', path: 'gates/gates.conf', size: 48 * KIB },
  { host: 'cargo-db-1', device: 'cargo-data', path: 'bookings/bookings.db', size: 11 * GIB },
  { host: 'cargo-db-1', device: 'cargo-data', path: 'manifests/2031-03.csv', size: 220 * MIB },
  { host: 'ledger-1', device: 'ledger', path: 'books/2031-q1.db', size: 3 * GIB },
  { host: 'berth-sim', device: 'berths', path: 'tides/tides-2031.dat', size: 140 * MIB },
  { host: 'deck-1', device: 'stores-1', path: 'machines/deck-mail.img', size: 40 * GIB },
];

export const lateFiles: Named[] = [
  { host: 'gate-1', device: 'tickets', path: 'passengers/2031-04-13.csv', size: 310 * MIB },
  { host: 'gate-1', device: 'tickets', path: 'fares/fares-2031.db', size: 6 * GIB },
  { host: 'cargo-db-1', device: 'cargo-data', path: 'manifests/2031-04.csv', size: 90 * MIB },
];

/** Gone by mistake, some hours before the demo begins. */
export const lostFiles: Named[] = [{ host: 'gate-1', device: 'tickets', path: 'passengers/2031-04-13.csv' }];

/** Effects of files that are written, or deleted where they have no size. */
export function filesOf(view: EstateView, files: readonly Named[], now: number): Effect[][] {
  return files.map(({ host, device, path, size }, k) => {
    const at = [...view.table('hostDevice').values()].find(
      (row) => view.table('host').get(row.host)!.name === host && view.table('volume').get(row.volume)!.name === device,
    )!;
    const newId = newIds(`skarholt file ${path} ${now} ${k}`);
    const done =
      size === undefined ? deleteFile(view, at, path, now, newId) : writeFile(view, at, { path, size }, now, newId);
    if (!done.ok) throw new Error(`The demo is refused: ${done.refusal.message}`);
    return done.effects;
  });
}

/** The demo with its plans at work, and the copies of a first day: what tests of whole lives begin with. */
export function protectedDemo(): Estate {
  const { estate } = demoEstate();
  estate.apply(compacted(planOn(estate, [...protection, ...byHand], 'protection', LAB_START - DAY)));
  const newId = newIds('skarholt first day');
  for (
    let now = nextPlanRun(estate, LAB_START - DAY);
    now !== null && now < LAB_START;
    now = nextPlanRun(estate, now)
  ) {
    const { effects } = planPass(estate, now - 1, now, newId);
    estate.apply(compacted(effects));
  }
  // And the first hour of copies at the other harbour, which go there less often than in the demo.
  const unhurried = replications.map((one) => ({ ...one, rpo: '12 h', interval: '6 h' }));
  const begin = LAB_START - HOUR;
  estate.apply(
    compacted(
      planOn(estate, [...lines, ...partners, yard, witness, ...unhurried, ...stretchedDeck], 'elsewhere', begin),
    ),
  );
  for (let now = nextCycle(estate, begin); now !== null && now < LAB_START; now = nextCycle(estate, now))
    estate.apply(compacted(replicated(estate, now, newId).effects));
  return estate;
}
