import { retain, type RetainedCopy } from '@/core/protect/retain';
import { snapshotSpace, type Version } from '@/core/copies/versions';
import { expandRecurrence } from '@/core/schedule/recurrence';
import { DAY, MINUTE } from '@/core/units/duration';

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
  const kept = Array.from({ length: 500 }, (_, k) => k + 1);
  const versions = Array.from({ length: 1000 }, (_, k): Version => ({
    born: k % 500,
    died: k % 7 === 0 ? null : (k % 500) + 1 + (k % 40),
    bytes: 65_536 * (1 + (k % 9)),
  }));
  return [
    { name: 'ten years of runs every half hour', work: tenYears('FREQ=MINUTELY;INTERVAL=30'), target: 20 },
    { name: 'ten years of nightly runs', work: tenYears('FREQ=DAILY;BYHOUR=2;BYMINUTE=30'), target: 20 },
    {
      name: 'ten years of the first working day of each month',
      work: tenYears('FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=1;BYHOUR=22'),
      target: 20,
    },
    { name: 'retention of 100,000 copies', work: retaining, target: 300 },
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
