import fc from 'fast-check';
import { stage, type Stage } from '../../../demo/protected';
import { slots } from '../../../demo/names';
import { without } from '../estate/runs';
import { mappedRuns } from '../content/weave';
import { changed } from '../estate/effects';
import { clearFault, setFault } from '../lab/faults';
import { newIds } from '../estate/new-ids';
import { lookUp } from '../operation/inquiry';
import { brokenRules } from '../rules/book';
import { DAY, HOUR, MINUTE, SECOND } from '../units/duration';
import { heldNumbers } from '../volume/held';

const prepared = () =>
  stage(
    { do: 'raid-group.create', array: 'lintel-1', name: 'rg-2', level: 'raid6', drives: slots(0, 10, 19) },
    { do: 'pool.create', array: 'lintel-1', name: 'hold', raidGroups: ['rg-2'] },
    { do: 'raid-group.create', array: 'purlin-1', name: 'rg-1', level: 'raid6', drives: slots(0, 0, 9) },
    { do: 'pool.create', array: 'purlin-1', name: 'berth', raidGroups: ['rg-1'], extentSize: '256 MiB' },
    { do: 'volume.activity', array: 'lintel-1', volumes: ['tickets-1'], kind: 'archive' },
  );

type Happening = (at: Stage) => void;

/** Whatever can be asked of a move, and what may befall it; what is refused is left alone. */
const tried =
  (...operations: Parameters<Stage['run']>): Happening =>
  (at) => {
    if (at.codes(...operations).length === 0) at.run(...operations);
  };
const moves = ['tickets-1', 'tickets-1 2', 'tickets-1 3'];
const volumeAt = (at: Stage) => [...at.estate.table('volume').values()].find(({ name }) => name === 'tickets-1')!;
const arrayAt = (at: Stage) => at.estate.table('array').get(volumeAt(at).array)!.name;
const fault =
  (array: string, down: boolean): Happening =>
  (at) => {
    const { id } = lookUp(at.estate, 'array', array)!;
    const newId = newIds(`fault ${at.now} ${array}`);
    const made = down
      ? setFault(at.estate, 'array-down', id, at.now, newId)
      : clearFault(at.estate, 'array-down', id, at.now, newId);
    if (made.ok) at.estate.apply(made.effects);
  };
const happenings: Record<string, Happening> = {
  'to hold': (at) =>
    tried({
      do: 'storage.move',
      array: arrayAt(at),
      volumes: ['tickets-1'],
      to: 'lintel-1',
      pool: 'hold',
      leaves: true,
    })(at),
  'to quay': (at) =>
    tried({
      do: 'storage.move',
      array: arrayAt(at),
      volumes: ['tickets-1'],
      to: 'lintel-1',
      pool: 'quay',
      leaves: true,
    })(at),
  'to berth': (at) =>
    tried({
      do: 'storage.move',
      array: arrayAt(at),
      volumes: ['tickets-1'],
      to: 'purlin-1',
      pool: 'berth',
      leaves: true,
    })(at),
  confirm: (at) => moves.forEach((move) => tried({ do: 'move.confirm', moves: [move] })(at)),
  back: (at) => moves.forEach((move) => tried({ do: 'move.roll-back', moves: [move] })(at)),
  accept: (at) => moves.forEach((move) => tried({ do: 'move.accept', moves: [move] })(at)),
  abort: (at) => moves.forEach((move) => tried({ do: 'move.abort', moves: [move] })(at)),
  hold: (at) => moves.forEach((move) => tried({ do: 'move.hold', moves: [move] })(at)),
  'go on': (at) => moves.forEach((move) => tried({ do: 'move.go-on', moves: [move] })(at)),
  copy: (at) => tried({ do: 'snapshot.create', array: arrayAt(at), volume: 'tickets-1', name: `at-${at.now}` })(at),
  writing: (at) => {
    const device = [...at.estate.table('hostDevice').values()].find((row) => row.mountPoint !== null)!;
    at.estate.apply([changed('hostDevice', device, { writeRate: device.writeRate > 0 ? 0 : 2 ** 19 })]);
  },
  'source down': fault('lintel-1', true),
  'target down': fault('purlin-1', true),
  'source up': fault('lintel-1', false),
  'target up': fault('purlin-1', false),
  'some seconds': (at) => void at.pass(3 * SECOND),
  minutes: (at) => void at.pass(5 * MINUTE),
  hours: (at) => void at.pass(2 * HOUR),
  'a week': (at) => void at.pass(8 * DAY),
};

test('whatever befalls a move, no byte or file is lost, one volume answers to its identity, and nothing of it is left in the end', () => {
  fc.assert(
    fc.property(fc.array(fc.constantFrom(...Object.keys(happenings)), { minLength: 8, maxLength: 30 }), (life) => {
      const at = prepared();
      const { id, naa } = volumeAt(at);
      const device = () => [...at.estate.table('hostDevice').values()].find((row) => row.mountPoint !== null)!;
      let [written, used] = [0, 0];
      for (const [k, one] of ['to hold', 'minutes', ...life].entries()) {
        at.now += k % 2;
        happenings[one]!(at);
        const volume = at.estate.table('volume').get(id)!;
        const answering = [...at.estate.table('volume').values()].filter((row) => row.naa === naa);
        expect([one, answering.map((row) => row.id)]).toEqual([one, [id]]);
        expect(volume.written).toBeGreaterThanOrEqual(written);
        expect(device().used).toBeGreaterThanOrEqual(used);
        [written, used] = [volume.written, device().used];
        // Every page that hosts wrote lies somewhere.
        const { extentSize } = at.estate.table('pool').get(volume.pool)!;
        const held = heldNumbers(at.estate, id).map(([from, to]): [number, number] => [
          from * extentSize,
          to * extentSize,
        ]);
        expect([one, without(mappedRuns(volume), held)]).toEqual([one, []]);
        expect(brokenRules(at.estate)).toEqual([]);
      }
      for (const [array] of [['lintel-1'], ['purlin-1']]) fault(array!, false)(at);
      for (const one of ['go on', 'abort', 'accept', 'abort'] as const) {
        happenings[one]!(at);
        at.pass(5 * MINUTE);
      }
      const open = at.estate.table('move').by('open', '');
      if (open.length === 0)
        expect(
          [...at.estate.table('volume').values()].map(({ name }) => name).filter((name) => name.includes('-move')),
        ).toEqual([]);
    }),
    { numRuns: 25 },
  );
});
