import { stage, type Stage } from '../../../demo/protected';
import { named } from '../../../demo/workbench';
import { compacted } from '../estate/effects';
import { newIds } from '../estate/new-ids';
import { doneAt } from '../job/work';
import { setFault } from '../lab/faults';
import { DAY, HOUR, type Milliseconds } from '../units/duration';
import { loadModel } from './model';
import { askedAt, paced, pacedJobs } from './pace';

/** A drive of the group behind a busy volume has failed, and a spare is being filled. */
function rebuilding(): Stage {
  const at = stage({
    do: 'volume.activity',
    array: 'lintel-1',
    volumes: ['tickets-1'],
    reads: 20,
    writes: 30_000,
    ioSize: '64 KiB',
    burst: 1,
    week: 'office',
  });
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

test('what hosts ask of a group is that of the hour, without the work itself', () => {
  const at = rebuilding();
  const model = loadModel(at.estate);
  expect(model.background.length).toBeGreaterThan(0);
  const group = pacedJobs(at.estate)[0]!.raidGroup!;
  const asked = (hour: number) => askedAt(model, wednesday(at, hour)).get(group)!;
  expect(asked(12)).toBeGreaterThan(2 * asked(2));
  const free = askedAt({ ...model, background: [] }, wednesday(at, 12)).get(group)!;
  expect(asked(12)).toBe(free);
});

test('where no work goes on there is nothing to pace', () => {
  const at = stage();
  expect(paced(at.estate, at.now)).toEqual([]);
});
