import type { Stage } from '../../../demo/protected';
import { slots } from '../../../demo/names';
import { without } from '../estate/runs';
import { mappedRuns } from '../content/weave';
import { heldNumbers } from '../volume/held';
import { lookUp } from '../operation/inquiry';
import { HOUR } from '../units/duration';

export const hold = [
  { do: 'raid-group.create', array: 'lintel-1', name: 'rg-2', level: 'raid6', drives: slots(0, 10, 19) },
  { do: 'pool.create', array: 'lintel-1', name: 'hold', raidGroups: ['rg-2'] },
];

export const other = [
  { do: 'raid-group.create', array: 'purlin-1', name: 'rg-1', level: 'raid6', drives: slots(0, 0, 9) },
  { do: 'pool.create', array: 'purlin-1', name: 'berth', raidGroups: ['rg-1'] },
  { do: 'volume.activity', array: 'lintel-1', volumes: ['tickets-1'], kind: 'archive' },
];

export const move = { do: 'volume.move', array: 'lintel-1', volumes: ['tickets-1'], pool: 'hold' };

export const named = (of: Stage, name = 'tickets-1') => lookUp(of.estate, 'move', name)!;

export const volume = (of: Stage, name = 'tickets-1', array = 'lintel-1') =>
  lookUp(of.estate, 'volume', name, lookUp(of.estate, 'array', array)!.id);

export const device = (of: Stage) =>
  [...of.estate.table('hostDevice').values()].find((row) => row.mountPoint !== null)!;

/** What hosts know of a volume: nothing of it may be lost by a move. */
export const known = (of: Stage) => {
  const { id, naa, name, written, holes, size, files } = volume(of)!;
  const { used, fileSystem, mountPoint, readOnly, naa: seen } = device(of);
  return { id, naa, name, written, holes, size, files, used, fileSystem, mountPoint, readOnly, seen };
};

/** Pages that hosts wrote and that lie nowhere. */
export const lost = (of: Stage) => {
  const row = volume(of)!;
  const { extentSize } = of.estate.table('pool').get(row.pool)!;
  const held = heldNumbers(of.estate, row.id).map(([from, to]): [number, number] => [
    from * extentSize,
    to * extentSize,
  ]);
  return without(mappedRuns(row), held);
};

export const whole = (of: Stage) => {
  for (let hours = 0; hours < 48 && named(of).state !== 'waiting'; hours++) of.pass(HOUR);
  expect(named(of).state).toBe('waiting');
};
