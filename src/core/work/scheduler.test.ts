import { slots } from '../../../demo/names';
import { basis, carryOut, estateAfter, mounted } from '../../../demo/workbench';
import { contextFor } from '../change/plan';
import { changed, compacted, created, deleted } from '../estate/effects';
import { rowOf } from '../estate/entities';
import { atRate, doneAt, jobProgress, startedJob } from '../job/work';
import { SECOND } from '../units/duration';
import { writeTraffic } from '../lab/traffic';
import { deleteFiles } from '../attach/file-places';
import { nextDueOf, nextJobEnd, workJob } from './scheduler';
import { nextNight } from '../lab/nightly';

const newId = contextFor({ ...basis, seed: 'jobs' }, 1, 1).newId;
const job = startedJob({ id: 'job_1', kind: 'pool-drain', array: 'a', total: 1000, rate: 10 }, 0);

describe('work that takes time', () => {
  test('goes on at its rate, and at another from where it stands', () => {
    expect(job.finishesAt).toBe(100 * SECOND);
    expect(doneAt(job, 30 * SECOND)).toBe(300);
    expect(jobProgress(job, 30 * SECOND)).toBe(0.3);
    const faster = { ...job, ...atRate(job, 70, 30 * SECOND) };
    expect(faster).toMatchObject({ done: 300, finishesAt: 40 * SECOND });
    expect(doneAt(faster, 35 * SECOND)).toBe(650);
    expect(doneAt(faster, 999 * SECOND)).toBe(1000);
  });
  test('nothing to do is done at once', () =>
    expect(jobProgress(startedJob({ ...job, total: 0, rate: 5 }, 7), 7)).toBe(1));
  test('a move falls due by batches, all else at its end', () => {
    expect(nextDueOf(job)).toBe(5 * SECOND);
    expect(nextDueOf({ ...job, kind: 'raid-rebuild' })).toBe(100 * SECOND);
  });
  test('the earliest comes first, ties by id', () => {
    const estate = estateAfter(mounted);
    for (const one of [...estate.table('job').values()]) estate.apply([deleted('job', one)]);
    const rows = ['b', 'a'].map((id) => rowOf('job', { ...job, id: `job_${id}`, kind: 'raid-scrub' }));
    estate.apply(rows.map((row) => created('job', row)));
    expect(nextJobEnd(estate)!.job.id).toBe('job_a');
  });
  test('a group that cannot be emptied any more stays as it is', () => {
    const estate = estateAfter([
      { do: 'raid-group.create', array: 'lintel-1', name: 'a', level: 'raid6', drives: slots(1, 0, 5) },
      { do: 'raid-group.create', array: 'lintel-1', name: 'b', level: 'raid6', drives: slots(1, 6, 11) },
      { do: 'pool.create', array: 'lintel-1', name: 'quay', raidGroups: ['a', 'b'] },
      { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'v', size: '6 TiB', provisioning: 'thick' },
      { do: 'pool.remove-group', array: 'lintel-1', name: 'quay', raidGroup: 'a' },
    ]);
    carryOut(
      estate,
      [{ do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'w', size: '5 TiB', provisioning: 'thick' }],
      'more',
    );
    let said: string | null = null;
    for (let next = nextJobEnd(estate); next; next = nextJobEnd(estate)) {
      const work = workJob(estate, next.job, next.at, newId);
      estate.apply(compacted(work.effects));
      if (next.job.kind === 'pool-drain') said = work.said;
    }
    expect(said).toContain('could not be emptied, the other groups are full');
    expect([...estate.table('raidGroup').values()].every((group) => group.pool && !group.draining)).toBe(true);
  });
});

describe('files', () => {
  const estate = estateAfter(mounted);
  const device = () => [...estate.table('hostDevice').values()].find((row) => row.mountPoint)!;
  test('are deleted from behind the tables, in whole pages', () => {
    estate.apply([changed('hostDevice', device(), { writeRate: 2 ** 30 })]);
    estate.apply(compacted(writeTraffic(estate, 2000, basis.now, newId).effects));
    const before = device();
    estate.apply(deleteFiles(before, 2 ** 28, 2 ** 20 + 5));
    expect(device().free).toEqual([[2 ** 28, 2 ** 28 + 2 ** 20]]);
    expect(before.used - device().used).toBe(2 ** 20);
    expect(deleteFiles(device(), 2 ** 28, 100)).toEqual([]);
  });
  test('more than there are leaves the tables alone', () => {
    estate.apply(deleteFiles(device(), 2 ** 28, 2 ** 50));
    expect(device().used).toBe(2 ** 28);
    expect(deleteFiles(device(), 2 ** 28, 2 ** 50)).toEqual([]);
  });
});

test('night falls at midnight', () => {
  expect(nextNight(0)).toBe(86_400_000);
  expect(nextNight(86_399_999)).toBe(86_400_000);
  expect(nextNight(86_400_000)).toBe(172_800_000);
});
