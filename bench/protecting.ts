import { retain, type RetainedCopy } from '@/core/protect/retain';
import { snapshotSpace, type Version } from '@/core/copies/versions';
import { expandRecurrence } from '@/core/schedule/recurrence';
import { cyclesTogether, type SharingReplication } from '@/core/replicate/cycles-together';
import { needOfLine } from '@/core/replicate/planner';
import { lagCourse } from '@/core/replicate/lag-course';
import { siteLost } from '@/core/replicate/site-lost';
import { replicationPlan } from '@/core/replicate/plan-view';
import { created } from '@/core/estate/effects';
import { Overlay } from '@/core/estate/estate';
import { protectedDemo } from '../demo/protection';
import { LAB_START } from '../demo/hardware';
import { explored } from '@/core/stretch/explore';
import { healthyPair } from '@/core/stretch/state';
import { usualActivity } from '@/core/copies/activity';
import { changedIn } from '@/core/copies/writing';
import { rowOf, type Volume } from '@/core/estate/entities';
import { TIB } from '@/core/units/bytes';
import { DAY, MINUTE, SECOND } from '@/core/units/duration';

const START = Date.UTC(2031, 0, 1);

/** What copies in time promise: runs of ten years, retention of many copies, what they hold. */
export function protectingTasks(): { name: string; work: () => unknown; target?: number }[] {
  const tenYears = (rrule: string) => () =>
    expandRecurrence({
      rrule,
      dtstart: '2031-01-01T00:00:00',
      tz: 'Europe/Oslo',
      from: START,
      to: START + 3653 * DAY,
    });
  const copies = Array.from({ length: 100_000 }, (_, k): RetainedCopy => ({
    id: `s${k}`,
    at: START + k * 30 * MINUTE,
  }));
  const retaining = () =>
    retain({
      now: START + 100_000 * 30 * MINUTE,
      tz: 'Europe/Oslo',
      snapshots: copies,
      policy: { count: 48, gfs: { hourly: 48, daily: 30, weekly: 12, monthly: 24, yearly: 5 } },
    });
  const many = Array.from({ length: 200 }, (_, k): Volume =>
    rowOf('volume', {
      id: `vol_${k}`,
      name: `v${k}`,
      array: 'a',
      pool: 'p',
      size: TIB,
      provisioning: 'thin',
      naa: `6${String(k).padStart(31, '0')}`,
      serial: `s${k}`,
      owner: 'c',
      written: TIB / 2,
      activity: usualActivity[(['database', 'files', 'machines', 'log'] as const)[k % 4]!],
    }),
  );
  const day = { replications: copiedOver(many, 1000, 3), horizonS: DAY / SECOND };
  // By day lines bring through less than by night: what all send fits by night alone.
  const lines = [0, 1, 2].map(() =>
    Array.from({ length: 24 }, (_, hour) => ({ fromS: hour * 3600, bytesPerS: hour < 6 || hour > 21 ? 5e9 : 3e9 })),
  );
  const kept = Array.from({ length: 500 }, (_, k) => k + 1);
  const versions = Array.from({ length: 1000 }, (_, k): Version => ({
    born: k % 500,
    died: k % 7 === 0 ? null : (k % 500) + 1 + (k % 40),
    bytes: 65_536 * (1 + (k % 9)),
  }));
  const estate = manyWorkloads(500);
  const month = Array.from({ length: (30 * DAY) / (5 * MINUTE) }, (_, k) => ({
    startedAt: k * 5 * MINUTE,
    finishedAt: k * 5 * MINUTE + MINUTE + (k % 97) * SECOND,
    lagBefore: 5 * MINUTE,
    lagAfter: MINUTE,
    result: 'done' as const,
  }));
  const monthLong = { from: 0, now: 30 * DAY, lag: MINUTE };
  return [
    { name: 'were a site lost now, 500 workloads', work: () => siteLost(estate, LAB_START), target: 50 },
    {
      name: 'which recovery points a line holds, by the hour of a week',
      work: () => replicationPlan(estate, '', ''),
      target: 200,
    },
    { name: 'ten years of runs every half hour', work: tenYears('FREQ=MINUTELY;INTERVAL=30'), target: 20 },
    { name: 'ten years of nightly runs', work: tenYears('FREQ=DAILY;BYHOUR=2;BYMINUTE=30'), target: 20 },
    {
      name: 'ten years of the first working day of each month',
      work: tenYears('FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=1;BYHOUR=22'),
      target: 20,
    },
    { name: 'retention of 100,000 copies', work: retaining, target: 300 },
    {
      name: 'what 200 volumes need of a line over a week',
      work: () => needOfLine({ volumes: many, added: 0 }, { interval: 5 * MINUTE, rpo: 10 * MINUTE, wireRatio: 0.7 }),
      target: 200,
    },
    {
      name: 'a day of 1,000 replications every 5 min on three shared lines, by the hour',
      work: () => {
        const ended = cyclesTogether({ lines, ...day }).reduce((sum, { rows }) => sum + rows.length, 0);
        if (ended < 100_000) throw new Error('The lines are too narrow to be a day of cycles.');
      },
      target: 10_000,
    },
    { name: 'how far one replication was behind over 30 days', work: () => lagCourse(month, monthLong), target: 200 },
    {
      name: 'every order of faults of a stretched pair to depth 12',
      work: () => {
        const { states, broken } = explored(healthyPair('A'), 12);
        if (broken || states < 20_000) throw new Error('The explorer found what must not be.');
      },
      target: 60_000,
    },
    {
      name: 'space of 1,000 volumes with 500 copies each',
      work: () => {
        for (let volume = 0; volume < 1000; volume++) snapshotSpace({ snapshots: kept, versions });
      },
      target: 1000,
    },
    {
      name: 'the same of one volume, one copy less',
      work: () => snapshotSpace({ snapshots: kept.slice(1), versions }),
      target: 5,
    },
  ];
}

/** Replications of so many volumes, by turns over some lines, with other weights and caps. */
const copiedOver = (volumes: readonly Volume[], count: number, lines: number): SharingReplication[] =>
  Array.from({ length: count }, (_, k) => {
    const writing = { volumes: [volumes[k % volumes.length]!], added: (k % 5) * 1e5 };
    return {
      line: k % lines,
      weight: 1 + (k % 4),
      ...(k % 6 === 0 ? { capBytesPerS: 2e7 } : {}),
      changed: (fromS, toS) => changedIn(writing, START + fromS * SECOND, (toS - fromS) * SECOND),
      intervalS: (5 * MINUTE) / SECOND,
      wireRatio: 0.7,
      fixedS: 5,
      rpoS: (10 * MINUTE) / SECOND,
    };
  });

/** The demo with many more workloads of two volumes, every other one copied to the other harbour. */
function manyWorkloads(count: number): Overlay {
  const view = new Overlay(protectedDemo());
  const named = <K extends 'volume' | 'workload' | 'replication'>(kind: K, name: string) =>
    [...view.table(kind).values()].find((row) => row.name === name)!;
  const [model, twin, replication] = [
    named('volume', 'ledger'),
    named('volume', 'ledger-copy'),
    named('replication', 'Accounts'),
  ];
  for (let k = 0; k < count; k++) {
    const workload = rowOf('workload', { id: `work_many_${k}`, name: `Many ${k}` });
    const volumes = [0, 1].map((n) => ({
      ...model,
      id: `vol_many_${k}_${n}`,
      name: `many-${k}-${n}`,
      naa: `7${String(k * 2 + n).padStart(31, '0')}`,
      serial: `many${k * 2 + n}`,
      workload: workload.id,
      base: null,
    }));
    const twins = volumes.map((volume, n) => ({
      ...volume,
      array: twin.array,
      pool: twin.pool,
      id: `vol_copy_${k}_${n}`,
      name: `many-${k}-${n}-copy`,
      naa: `8${String(k * 2 + n).padStart(31, '0')}`,
      serial: `copy${k * 2 + n}`,
      workload: null,
    }));
    view.apply([
      created('workload', workload),
      ...volumes.map((volume) => created('volume', volume)),
      ...(k % 2 === 0
        ? [
            ...twins.map((volume) => created('volume', volume)),
            created('replication', {
              ...replication,
              id: `rep_many_${k}`,
              name: `Many ${k}`,
              workload: workload.id,
              primaries: volumes.map(({ id }) => id),
              secondaries: twins.map(({ id }) => id),
            }),
          ]
        : []),
    ]);
  }
  return view;
}
