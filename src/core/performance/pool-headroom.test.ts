import { protectedDemo } from '../../../demo/protection';
import { load } from '../../../demo/load';
import { carryOut } from '../../../demo/workbench';
import { changed } from '../estate/effects';
import { Overlay, type EstateView } from '../estate/estate';
import { READ_CORE_S, WRITE_CORE_S } from './choices';
import { failureStates } from './failure-states';
import { groupCost } from '../demand/group-cost';
import { COUNTED_IO, headroomsOf, headroomsAt } from './pool-headroom';
import { weekOf } from './room';

const estate = protectedDemo();
carryOut(estate, load, 'load');
const arrays = [...estate.table('array').values()].map(({ id }) => id);

/** What each pool has left, by a whole model for every state by itself. */
function stateByState(view: EstateView): Map<string, number> {
  const left = new Map<string, number>();
  for (const array of arrays)
    for (const { model, degraded } of failureStates(view, array)) {
      const weeks = weekOf(model);
      const controllers = model.resources.filter((one) => one.kind === 'controller' && one.array === array);
      for (const pool of view.table('pool').by('array', array)) {
        const groups = view.table('raidGroup').by('pool', pool.id);
        const usable = groups.reduce((sum, one) => sum + one.usable, 0);
        const costs = new Map(
          controllers.map(({ id }) => [
            id,
            (COUNTED_IO.reads * READ_CORE_S + (1 - COUNTED_IO.reads) * WRITE_CORE_S) / controllers.length,
          ]),
        );
        for (const group of groups) {
          const { read, write } = groupCost(view, group, COUNTED_IO.ioBytes, false, degraded);
          costs.set(group.id, ((COUNTED_IO.reads * read + (1 - COUNTED_IO.reads) * write) * group.usable) / usable);
        }
        model.resources.forEach(({ id, limit, capacity }, r) => {
          const cost = costs.get(id);
          if (cost === undefined) return;
          const rest = (limit * capacity - Math.max(...weeks[r]!) * capacity) / cost;
          left.set(pool.id, Math.min(rest, left.get(pool.id) ?? Infinity));
        });
      }
    }
  return left;
}

const expectSame = () => {
  const found = headroomsAt(estate, arrays);
  const wanted = stateByState(estate);
  expect([...found.keys()].sort()).toEqual([...wanted.keys()].sort());
  for (const [pool, { limit, used }] of found) expect(limit - used).toBeCloseTo(wanted.get(pool)!, 6);
};

test('headroom is what the worst of all states leaves, each worked out whole', () => {
  expectSame();
  expect(new Set([...headroomsAt(estate, arrays).values()].map(({ state }) => state)).size).toBeGreaterThan(1);
});

test('the same with a controller and a drive out already', () => {
  const controller = [...estate.table('controller').values()].find(({ array }) => array === arrays[0])!;
  const group = [...estate.table('raidGroup').values()].find(({ parity }) => parity > 1)!;
  const drive = estate.table('drive').get(group.drives[0]!)!;
  estate.apply([changed('controller', controller, { state: 'down' }), changed('drive', drive, { state: 'failed' })]);
  expectSame();
});

test('what is kept of it is forgotten when anything moves, and a preview has its own', () => {
  const before = headroomsOf(estate);
  expect(headroomsOf(estate)).toBe(before);
  expect(headroomsOf(new Overlay(estate))).toBe(before);
  const controller = [...estate.table('controller').values()].find(({ state }) => state === 'up')!;
  const preview = new Overlay(estate);
  preview.apply([changed('controller', controller, { state: 'down' })]);
  expect([...headroomsOf(preview)]).toEqual([...headroomsAt(preview, arrays)]);
  expect([...headroomsOf(preview)]).not.toEqual([...before]);
  estate.apply([changed('controller', controller, { state: 'down' })]);
  expect([...headroomsOf(estate)].sort()).toEqual([...headroomsOf(preview)].sort());
});
