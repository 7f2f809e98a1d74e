import fc from 'fast-check';
import { rowOf, type ExtentRun } from './entities';
import { heldBy, type Held } from './held';
import { Occupancy } from './occupancy';

const extent = (id: number, raidGroup: string, at: number, count: number): ExtentRun =>
  rowOf('extent', { id: `ext_${id}`, volume: 'vol_a', raidGroup, start: 100 * id, count, at });

/** A holder's runs, and what is known of them, on an occupancy and those forked from it. */
class Holder {
  readonly runs: ExtentRun[];
  constructor(
    readonly occupancy: Occupancy,
    runs: readonly ExtentRun[] = [],
  ) {
    this.runs = [...runs];
  }

  put(run: ExtentRun): void {
    this.occupancy.add(run);
    this.runs.push(run);
  }

  drop(k: number): void {
    const [run] = this.runs.splice(k % this.runs.length, 1);
    if (run) this.occupancy.remove(run);
  }

  fork(): Holder {
    return new Holder(this.occupancy.fork(), this.runs);
  }

  get held(): Held {
    return this.occupancy.held('vol_a', () => this.runs);
  }
}

const same = ({ held, runs }: Holder) => {
  const { numbers, different, count, groups } = heldBy(runs);
  expect([held.numbers, held.different, held.count]).toEqual([numbers, different, count]);
  expect([...held.groups].sort()).toEqual([...groups].sort());
};

test('what a holder has is kept up to date, on forks and below them, also where extents are held twice', () =>
  fc.assert(
    fc.property(
      fc.array(
        fc.record({
          what: fc.constantFrom('put', 'put', 'put', 'drop', 'look', 'fork'),
          at: fc.integer({ min: 0, max: 60 }),
          count: fc.integer({ min: 1, max: 6 }),
          group: fc.constantFrom('rg_1', 'rg_2'),
        }),
        { minLength: 1, maxLength: 80 },
      ),
      (steps) => {
        const first = new Holder(new Occupancy());
        for (let k = 0; k < 20; k++) first.put(extent(k, 'rg_1', 200 + 2 * k, 1));
        const holders = [first];
        steps.forEach(({ what, at, count, group }, k) => {
          const last = holders.at(-1)!;
          if (what === 'put') last.put(extent(100 + k, group, at, count));
          else if (what === 'drop') last.drop(at);
          else if (what === 'look') same(last);
          else holders.push(last.fork());
        });
        for (const one of holders) same(one);
      },
    ),
  ));

test('runs that meet are one, and a hole parts them', () => {
  const at = new Holder(new Occupancy());
  for (let k = 0; k < 18; k++) at.put(extent(k, 'rg_1', 3 * k, 3));
  expect(at.held).toMatchObject({ numbers: [[0, 54]], different: 54, count: 54 });
  at.drop(5);
  expect(at.held.numbers).toEqual([
    [0, 15],
    [18, 54],
  ]);
  at.put(extent(30, 'rg_2', 15, 3));
  expect(at.held.numbers).toEqual([[0, 54]]);
  expect(Object.fromEntries(at.held.groups)).toEqual({ rg_1: 51, rg_2: 3 });
  at.put(extent(31, 'rg_2', 10, 2));
  expect(at.held).toMatchObject({ different: 54, count: 56 });
});
