import fc from 'fast-check';
import {
  bareEstate,
  carryOut,
  codesOf,
  differences,
  estateAfter,
  mapped,
  mounted,
  smallChain,
  snapshot,
} from '../../../demo/workbench';
import { brokenRules } from '../rules/book';
import { estateDocument, estateFromDocument, estateToDocument } from './document';
import { changed, created } from './effects';
import { kindOf, kinds, rowOf } from './entities';
import { Estate, Overlay } from './estate';
import { newIds } from './new-ids';
import { Occupancy } from './occupancy';
import { hexFrom, randomFrom } from './random';
import { references } from './references';
import { indexes, MemoryTable, OverlayTable } from './table';

describe('tables', () => {
  const row = (id: string, host: string, lun: number) => ({
    id,
    host,
    volume: `v-${id}`,
    lun,
    access: 'read-write' as const,
    ports: null,
    cluster: null,
    target: null,
    subsystem: null,
  });

  test('an overlay answers like a table with the same rows, and leaves what lies under it alone', () =>
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            id: fc.integer({ min: 0, max: 8 }),
            host: fc.integer({ min: 0, max: 3 }),
            lun: fc.nat(5),
            remove: fc.boolean(),
          }),
          { maxLength: 40 },
        ),
        fc.nat(20),
        (steps, split) => {
          const plain = new MemoryTable('mapping');
          const base = new MemoryTable('mapping');
          const play = (
            table: { put(r: ReturnType<typeof row>): void; delete(id: string): void },
            list: typeof steps,
          ) => {
            for (const step of list) {
              if (step.remove) table.delete(`m${step.id}`);
              else table.put(row(`m${step.id}`, `h${step.host}`, step.lun));
            }
          };
          play(plain, steps);
          play(base, steps.slice(0, split));
          const before = JSON.stringify([...base.values()]);
          const over = new OverlayTable('mapping', base);
          play(over, steps.slice(split));
          const sorted = (rows: Iterable<{ id: string }>) => [...rows].sort((a, b) => (a.id < b.id ? -1 : 1));
          expect(sorted(over.values())).toEqual(sorted(plain.values()));
          expect(over.size).toBe(plain.size);
          for (const host of ['h0', 'h1', 'h2', 'h3']) {
            expect(sorted(over.by('host', host))).toEqual(sorted(plain.by('host', host)));
            expect(over.countBy('host', host)).toBe(plain.countBy('host', host));
          }
          expect(JSON.stringify([...base.values()])).toBe(before);
        },
      ),
    ));

  test('every reference can be asked for the other way round; kinds with few rows are searched', () => {
    const few = ['raidGroup', 'plan', 'network', 'array', 'isl', 'zoneSet', 'domainSet', 'subsystem'];
    // Copies are asked for by what they are copies of; a plan goes seldom.
    const seldom = ['snapshot.plan'];
    for (const reference of references) {
      const { from } = reference;
      const field: string = reference.field;
      if (few.includes(from) || seldom.includes(`${from}.${field}`)) continue;
      expect(Object.keys(indexes[from])).toContain(kindOf[from].refers?.[field]?.by ?? field);
    }
  });
});

describe('occupancy', () => {
  const run = (id: number, start: number, count: number) => ({
    id: `e${id}`,
    volume: `v${id % 3}`,
    raidGroup: 'g',
    store: null,
    copies: null,
    start,
    count,
    at: 0,
  });

  test('free runs and counts follow what is added and removed, in a fork as in the whole', () =>
    fc.assert(
      fc.property(
        fc.array(fc.record({ wanted: fc.integer({ min: 1, max: 9 }), drop: fc.boolean() }), { maxLength: 40 }),
        (steps) => {
          const base = new Occupancy();
          base.add(run(100, 3, 2));
          const fork = base.fork();
          const held = new Map<number, ReturnType<typeof run>[]>();
          let next = 0;
          for (const { wanted, drop } of steps) {
            const [first] = held.keys();
            if (drop && first !== undefined) {
              for (const one of held.get(first)!) fork.remove(one);
              held.delete(first);
              continue;
            }
            const places = fork.firstFree('g', wanted, 64);
            const runs = places.map((place) => run(next, place.start, place.count));
            runs.forEach((one) => fork.add(one));
            held.set(next++, runs);
          }
          const all = [run(100, 3, 2), ...[...held.values()].flat()];
          const taken = new Set<number>();
          for (const one of all)
            for (let k = one.start; k < one.start + one.count; k++) {
              expect(taken.has(k)).toBe(false);
              taken.add(k);
            }
          expect(fork.used('g')).toBe(taken.size);
          const free = fork.firstFree('g', 64, 64).reduce((sum, place) => sum + place.count, 0);
          expect(free).toBe(64 - taken.size);
          expect(base.used('g')).toBe(2);
        },
      ),
    ));

  test('taking an extent twice is a defect', () => {
    const occupancy = new Occupancy();
    occupancy.add(run(1, 0, 4));
    expect(() => occupancy.add(run(2, 3, 1))).toThrow('taken twice');
  });
});

test('the same seed gives the same numbers', () => {
  expect(hexFrom('a', 12)).toBe(hexFrom('a', 12));
  expect(hexFrom('a', 12)).not.toBe(hexFrom('b', 12));
  const [one, two] = [randomFrom('x'), randomFrom('x')];
  const drawn = Array.from({ length: 50 }, () => one());
  expect(drawn).toEqual(Array.from({ length: 50 }, () => two()));
  expect(drawn.every((value) => value >= 0 && value < 1)).toBe(true);
});

describe('the estate as a document', () => {
  test('reads back to the same estate', () => {
    const estate = bareEstate();
    carryOut(estate, mounted);
    const text = JSON.stringify(estateToDocument(estate));
    const again = estateFromDocument(estateDocument.parse(JSON.parse(text)));
    expect(differences(again, estate)).toEqual([]);
    expect(brokenRules(again)).toEqual([]);
  });

  test('every kind of the demo is covered by a schema', () => {
    const estate = bareEstate();
    carryOut(estate, [...mapped, { do: 'host.create', name: 'x', os: 'bsd', site: 'Nordkai', cluster: 'crew' }]);
    const filled = kinds.filter((kind) => estate.table(kind).size > 0);
    expect(filled).toEqual(
      expect.arrayContaining(['site', 'drive', 'extent', 'mapping', 'cluster'].filter((kind) => kind !== 'extent')),
    );
    expect(estateDocument.safeParse({ trabes: 1, estate: { drive: [{ id: 'x' }] } }).success).toBe(false);
    expect(estateDocument.safeParse({ trabes: 2, estate: {} }).success).toBe(false);
  });
});

test('an overlay of a plan leaves the estate as it is', () => {
  const estate = bareEstate();
  const before = snapshot(estate);
  const overlay = new Overlay(estate);
  expect(codesOf(overlay, ...smallChain)).toEqual([]);
  expect(snapshot(estate)).toBe(before);
});

test('a run that is changed twice in one go takes its extents once', () => {
  const estate = estateAfter(smallChain);
  const [volume] = estate.table('volume').values();
  const [group] = estate.table('raidGroup').values();
  const run = rowOf('extent', {
    id: 'ext_twice',
    volume: volume!.id,
    raidGroup: group!.id,
    start: 100,
    count: 64,
    at: 0,
  });
  const shorter = { ...run, count: 16 };
  const rest = { ...run, id: 'ext_rest', start: 116, count: 48, at: 16 };
  const chain = [created('extent', run), changed('extent', run, { count: 16 }), created('extent', rest)];
  const [together, apart] = [new Overlay(estate), new Overlay(estate)];
  together.apply(chain);
  for (const effect of chain) apart.apply([effect]);
  for (const view of [together, apart]) {
    expect(view.table('extent').get('ext_twice')).toEqual(shorter);
    expect(view.occupancy.allocated(volume!.id)).toBe(64);
    expect(view.occupancy.used(group!.id)).toBe(64);
  }
});

test('ids of one seed come in one order, and those that rows have are passed over', () => {
  const [first, again] = [newIds('one moment'), newIds('one moment')];
  const ids = [first('site'), first('site'), first('pool')];
  expect([again('site'), again('site'), again('pool')]).toEqual(ids);
  const estate = new Estate();
  estate.apply([created('site', { id: ids[0]!, name: 'Nordkai', purpose: '' })]);
  const passing = newIds('one moment', estate);
  expect([passing('site'), passing('pool')]).toEqual([ids[1], ids[2]]);
});
