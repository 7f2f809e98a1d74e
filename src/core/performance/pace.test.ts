import { stage, type Stage } from '../../../demo/protected';
import { named } from '../../../demo/workbench';
import { compacted, created } from '../estate/effects';
import { newIds } from '../estate/new-ids';
import { doneAt, startedJob } from '../job/work';
import { setFault } from '../lab/faults';
import { DAY, HOUR, type Milliseconds } from '../units/duration';
import { paced, pacedJobs } from './pace';

const busy = {
  do: 'volume.activity',
  array: 'lintel-1',
  volumes: ['tickets-1'],
  reads: 20,
  writes: 30_000,
  ioSize: '64 KiB',
  burst: 1,
  week: 'office',
};

/** A drive of the group behind a busy volume has failed, and a spare is being filled. */
function rebuilding(): Stage {
  const at = stage(busy);
  const pool = at.estate.table('pool').get(named(at.estate, 'volume', 'tickets-1').pool)!;
  const [group] = at.estate.table('raidGroup').by('pool', pool.id);
  const fault = setFault(at.estate, 'drive-failed', group!.drives[0]!, at.now, newIds('fault'));
  if (!fault.ok) throw new Error('the drive stays whole');
  at.estate.apply(compacted(fault.effects));
  const spare = [...at.estate.table('drive').values()].find(
    (one) => one.array === pool.array && one.raidGroup === null && one.state === 'ok',
  )!;
  const enclosure = at.estate.table('enclosure').get(spare.enclosure)!;
  at.run({ do: 'drive.assign-spare', array: 'lintel-1', drives: [`${enclosure.number}:${spare.slot}`] });
  return at;
}

/** A Wednesday at an hour. */
const wednesday = (at: Stage, hour: number): Milliseconds => {
  const midnight = Math.ceil(at.now / DAY) * DAY;
  for (let day = midnight; ; day += DAY) if (new Date(day).getUTCDay() === 3) return day + hour * HOUR;
};

test('a rebuild at noon is slower than one at night, and what is done stays done', () => {
  const at = rebuilding();
  const [job] = pacedJobs(at.estate);
  expect(job).toBeDefined();
  const rateAt = (hour: number) => {
    const now = wednesday(at, hour);
    at.estate.apply(paced(at.estate, now));
    return at.estate.table('job').get(job!.id)!.rate;
  };
  const night = rateAt(2);
  const before = doneAt(at.estate.table('job').get(job!.id)!, wednesday(at, 12));
  const noon = rateAt(12);
  expect(noon).toBeLessThan(0.9 * night);
  expect(doneAt(at.estate.table('job').get(job!.id)!, wednesday(at, 12))).toBe(before);
  // The same hour again changes nothing.
  expect(paced(at.estate, wednesday(at, 12))).toEqual([]);
});

test('what moves within a pool goes slower at noon, and loses nothing of what it has to do', () => {
  const at = stage(busy);
  const { pool, array } = named(at.estate, 'volume', 'tickets-1');
  const job = startedJob(
    { id: 'job_0', kind: 'pool-rebalance', array, pool, total: 1e15, rate: 1e6 },
    wednesday(at, 2),
  );
  at.estate.apply([created('job', job)]);
  expect(pacedJobs(at.estate)).toContainEqual(job);
  const present = () => at.estate.table('job').get(job.id)!;
  const rateAt = (hour: number) => {
    at.estate.apply(paced(at.estate, wednesday(at, hour)));
    return present().rate;
  };
  const night = rateAt(2);
  const noon = wednesday(at, 12);
  const due = doneAt(present(), noon);
  expect(rateAt(12)).toBeLessThan(0.9 * night);
  // What its batches did is as before, and what is due by now is, too.
  expect(present().done).toBe(0);
  expect(Math.abs(doneAt(present(), noon) - due) / due).toBeLessThan(1e-6);
  expect(paced(at.estate, noon)).toEqual([]);
});

test('where no work goes on there is nothing to pace', () => {
  const at = stage();
  expect(paced(at.estate, at.now)).toEqual([]);
});
