import { LAB_START } from '../../../demo/hardware';
import { basis, carryOut, estateAfter, mapped, named } from '../../../demo/workbench';
import { planChange } from '../change/plan';
import type { Estate } from '../estate/estate';
import { doneAt, jobProgress } from '../job/work';
import { HOUR } from '../units/duration';
import { clearFault, setFault } from './faults';
import { nextJobEnd } from '../work/scheduler';

const newId = (() => {
  let count = 0;
  return (kind: string) => `${kind}_${count++}`;
})();
const job = (estate: Estate) => [...estate.table('job').values()].find((one) => one.kind === 'raid-rebuild')!;
const act = (estate: Estate, of: typeof setFault, kind: Parameters<typeof setFault>[1], id: string, now: number) => {
  const result = of(estate, kind, id, now, newId);
  if (!result.ok) throw new Error(result.refusals[0]!.message);
  estate.apply(result.effects);
};
function rebuilding() {
  const estate = estateAfter(mapped);
  for (const one of [...estate.table('job').values()])
    estate.apply([{ kind: 'job', id: one.id, before: one, after: null }]);
  const group = [...estate.table('raidGroup').values()][0]!;
  const spare = [...estate.table('drive').values()].find(
    (drive) =>
      drive.array === group.array &&
      drive.raidGroup === null &&
      drive.media === estate.table('drive').get(group.drives[0]!)!.media,
  )!;
  estate.apply([{ kind: 'drive', id: spare.id, before: spare, after: { ...spare, spare: 'shared' } }]);
  act(estate, setFault, 'drive-failed', group.drives[0]!, LAB_START);
  return { estate, array: group.array };
}

test('a rebuild stands still while no controller is up, and goes on from where it was', () => {
  const { estate, array } = rebuilding();
  const before = job(estate);
  const [half, later] = [LAB_START + HOUR / 3, LAB_START + 30 * HOUR];
  const done = doneAt(before, half);
  expect(done).toBeGreaterThan(0);
  act(estate, setFault, 'array-down', array, half);
  expect(job(estate)).toMatchObject({ paused: true, done });
  expect([doneAt(job(estate), later), nextJobEnd(estate)]).toEqual([done, null]);
  expect(jobProgress(job(estate), later)).toBeCloseTo(done / before.total, 12);
  act(estate, clearFault, 'array-down', array, later);
  expect(job(estate)).toMatchObject({ paused: false, done, asOf: later });
  // What was left takes as long as it would have.
  expect(job(estate).finishesAt - later).toBeCloseTo(before.finishesAt - half, -4);
});

test('one controller of two is enough', () => {
  const { estate, array } = rebuilding();
  const [a, b] = estate.table('controller').by('array', array);
  act(estate, setFault, 'controller-down', a!.id, LAB_START);
  expect(job(estate).paused).toBe(false);
  act(estate, setFault, 'controller-down', b!.id, LAB_START);
  expect(job(estate).paused).toBe(true);
  act(estate, clearFault, 'controller-down', a!.id, LAB_START);
  expect(job(estate).paused).toBe(false);
});

test('a budget slows rebuilds that run, and lifts them again', () => {
  const { estate } = rebuilding();
  const quick = job(estate).rate;
  const at = (rebuildBudget: string, seed: string) => {
    carryOut(estate, [{ do: 'array.configure', array: 'lintel-1', rebuildBudget }], seed);
    return job(estate).rate;
  };
  // d + 1 = 9 of its bytes move for each that is rebuilt of an 8+2 group.
  expect(at('9 MiB/s', 'a')).toBe(1024 ** 2);
  expect(at('none', 'b')).toBe(quick);
  expect(named(estate, 'array', 'lintel-1').rebuildBudget).toBeNull();
});

test('a budget that is no rate is refused', () =>
  expect(
    planChange(
      estateAfter(mapped),
      [{ do: 'array.configure', array: 'lintel-1', rebuildBudget: 'fast' }],
      basis,
    ).refusals.map(({ field }) => field),
  ).toEqual(['rebuildBudget']));
