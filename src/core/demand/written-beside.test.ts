import { stage, type Stage } from '../../../demo/protected';
import { slots } from '../../../demo/names';
import { named } from '../../../demo/workbench';
import { HOUR } from '../units/duration';
import { loadModel } from '../performance/model';
import { writtenBeside } from './written-beside';

const hold = [
  { do: 'raid-group.create', array: 'lintel-1', name: 'rg-2', level: 'raid6', drives: slots(0, 12, 21) },
  { do: 'pool.create', array: 'lintel-1', name: 'hold', raidGroups: ['rg-2'] },
];
const busy = {
  do: 'volume.activity',
  array: 'lintel-1',
  volumes: ['tickets-1'],
  kind: 'database',
  writes: 60000,
  workingSet: 90,
  hot: 0,
};

const groups = (of: Stage) =>
  writtenBeside(of.estate, named(of.estate, 'volume', 'tickets-1')).flatMap((one) =>
    one.groups.map(({ group }) => group.name),
  );
/** What one I/O of the volume writes on a group, seconds. */
const written = (of: Stage, group: string) => {
  const model = loadModel(of.estate);
  const at = model.resources.findIndex(({ id }) => id === named(of.estate, 'raidGroup', group).id);
  const volume = model.volumes.find(({ name }) => name === 'tickets-1')!;
  return volume.uses.find(({ resource }) => resource === at)?.write ?? 0;
};

test('a move that mirrors new writes costs at both pools while it copies; one in rounds costs nothing beside', () => {
  const of = stage(...hold, busy, {
    do: 'volume.move',
    array: 'lintel-1',
    volumes: ['tickets-1'],
    pool: 'hold',
    cap: '1 MiB/s',
  });
  of.pass(HOUR);
  expect(named(of.estate, 'move', 'tickets-1').state).toBe('copying');
  expect(groups(of)).toEqual([]);
  expect(written(of, 'rg-2')).toBe(0);
  const before = written(of, 'rg-1');
  of.run({ do: 'move.configure', move: 'tickets-1', mode: 'mirror' });
  expect(groups(of)).toEqual(['rg-2']);
  expect(written(of, 'rg-2')).toBeGreaterThan(0);
  expect(written(of, 'rg-1')).toBe(before);
  of.run({ do: 'move.hold', moves: ['tickets-1'] });
  expect(groups(of)).toEqual([]);
});
