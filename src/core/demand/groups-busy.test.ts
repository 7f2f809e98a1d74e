import { stage, type Stage } from '../../../demo/protected';
import { copying } from '../../../demo/replicated';
import { named } from '../../../demo/workbench';
import { hoursOfWeek } from '../copies/activity';
import { changed } from '../estate/effects';
import { loadModel } from '../performance/model';
import { groupsBusy } from './groups-busy';

const activity = {
  do: 'volume.activity',
  array: 'lintel-1',
  volumes: ['tickets-1'],
  reads: 3000,
  writes: 2000,
  ioSize: '16 KiB',
  workingSet: 30,
  hot: 20,
  week: 'office',
};

/** What the model of load makes of every group by the means of an hour, without work in the background. */
function byModel(at: Stage, hour: number): Map<string, number> {
  const { resources, volumes } = loadModel(at.estate);
  const used = resources.map(() => 0);
  for (const { week, uses, reads, writes } of volumes)
    for (const { resource, read, write } of uses)
      used[resource]! += hoursOfWeek(week)[hour]! * (reads * read + writes * write);
  return new Map(
    resources.flatMap(({ id, kind, capacity }, r) => (kind === 'group' ? [[id, used[r]! / capacity] as const] : [])),
  );
}

function agrees(at: Stage): void {
  const busy = groupsBusy(at.estate);
  for (const hour of [2, 12, 24 * 6 + 12]) {
    const model = byModel(at, hour);
    expect(model.size).toBeGreaterThan(0);
    for (const [id, rho] of model) expect(busy(at.estate.table('raidGroup').get(id)!, hour)).toBeCloseTo(rho, 9);
  }
}

test.each(['random', 'sequential'])('groups are as busy as the model of load has them, %s', (pattern) => {
  const at = stage({ ...activity, pattern });
  agrees(at);
  const [group] = at.estate.table('raidGroup').by('pool', named(at.estate, 'volume', 'tickets-1').pool);
  expect(groupsBusy(at.estate)(group!, 12)).toBeGreaterThan(0.01);
  expect(groupsBusy(at.estate)(group!, 12)).toBeCloseTo(8 * groupsBusy(at.estate)(group!, 2), 9);
});

test('a drive less makes the others busier, and what is mirrored is written at both sites', () => {
  const at = copying({ ...activity, do: 'volume.activity' });
  at.pass(3600_000);
  agrees(at);
  at.run({ do: 'replication.configure', replication: 'Ticketing', mode: 'sync' });
  at.pass(3600_000);
  expect(named(at.estate, 'replication', 'Ticketing').state).toBe('protected');
  agrees(at);
  const there = [...at.estate.table('raidGroup').by('pool', named(at.estate, 'pool', 'quay').id)];
  expect(there).not.toEqual([]);
  const [group] = at.estate.table('raidGroup').by('pool', named(at.estate, 'volume', 'tickets-1').pool);
  const whole = groupsBusy(at.estate)(group!, 12);
  at.estate.apply([changed('drive', at.estate.table('drive').get(group!.drives[0]!)!, { state: 'failed' })]);
  expect(groupsBusy(at.estate)(group!, 12)).toBeGreaterThan(whole);
  agrees(at);
});

test('nobody asks through a device that is not there', () => {
  const at = stage(activity);
  const [group] = at.estate.table('raidGroup').by('pool', named(at.estate, 'volume', 'tickets-1').pool);
  for (const device of [...at.estate.table('hostDevice').values()])
    at.estate.apply([changed('hostDevice', device, { state: 'offline' })]);
  expect(groupsBusy(at.estate)(group!, 12)).toBe(0);
  agrees(at);
});
