import fc from 'fast-check';
import { rowOf, type Squeeze, type Volume } from '../estate/entities';
import { GIB } from '../units/bytes';
import { dataEnd, cutTo } from './extent';
import { CELL, KEY_ENTRY, MAP_BLOCK, MAP_ENTRY, PAGE, WEAVE } from './page';
import { freedBy, reducedStore } from './reduce';
import { bytesIn, common, joined, union, wholeUnits, within, without, type Runs } from '../estate/runs';
import { compressedSize, mappedRuns, pageContent, reducedRuns } from './weave';

const volume = (id: string, more: Partial<Volume> = {}): Volume =>
  rowOf('volume', {
    id,
    name: id,
    array: 'arr',
    pool: 'pool',
    size: 2 ** 40,
    provisioning: 'thin',
    naa: `6${'0'.repeat(31)}`,
    serial: id,
    owner: 'ctl',
    written: 0,
    ...more,
    content: { family: null, zero: 0, common: 0, span: 0, squeeze: 'database', driftDays: 0, ...more.content },
  });

const runsOfPages: fc.Arbitrary<Runs> = fc
  .array(fc.tuple(fc.integer({ min: 0, max: 60 }), fc.integer({ min: 1, max: 20 })), { maxLength: 8 })
  .map((list) => joined(list.map(([start, length]) => [start, start + length])));
const members = (runs: Runs): Set<number> => {
  const set = new Set<number>();
  for (const [start, end] of runs) for (let k = start; k < end; k++) set.add(k);
  return set;
};

describe('runs', () => {
  test('behave as the sets they stand for', () =>
    fc.assert(
      fc.property(runsOfPages, runsOfPages, (a, b) => {
        const [left, right] = [members(a), members(b)];
        expect(members(union(a, b))).toEqual(new Set([...left, ...right].sort((x, y) => x - y)));
        expect(members(without(a, b))).toEqual(new Set([...left].filter((k) => !right.has(k))));
        expect(members(common(a, b))).toEqual(new Set([...right].filter((k) => left.has(k))));
        expect(members(within(a, 7, 30))).toEqual(new Set([...left].filter((k) => k >= 7 && k < 30)));
        expect(bytesIn(a)).toBe(left.size);
      }),
    ));
  test('an unmap keeps partial heads and tails', () =>
    expect(
      wholeUnits(
        [
          [3, 21],
          [22, 29],
        ],
        8,
      ),
    ).toEqual(
      [
        [8, 16],
        [24, 24],
      ].slice(0, 1),
    ));
});

/** The store page by page, as a real array would count it. */
function counted(mode: { compression: boolean; dedupe: 'off' | 'inline' }, volumes: readonly Volume[]) {
  const keys = new Map<string, { holders: Set<string>; bytes: number }>();
  let instances = 0;
  let zeros = 0;
  for (const one of volumes)
    for (const [start, end] of reducedRuns(one))
      for (let page = start / PAGE; page < end / PAGE; page++) {
        const content = pageContent(one, page);
        if (content.what === 'zero') {
          zeros += 1;
          continue;
        }
        instances += 1;
        const shared = mode.dedupe !== 'off' && content.what === 'common';
        const key = shared ? `${content.family} ${content.weave} ${content.slot}` : `${one.id} ${page}`;
        const known = keys.get(key) ?? {
          holders: new Set<string>(),
          bytes: mode.compression ? compressedSize(one.content.squeeze, content) : PAGE,
        };
        known.holders.add(one.id);
        keys.set(key, known);
      }
  const data = [...keys.values()].reduce((sum, key) => sum + key.bytes, 0);
  const metadata = Math.ceil((instances * MAP_ENTRY + keys.size * KEY_ENTRY) / MAP_BLOCK) * MAP_BLOCK;
  const exclusive = (id: string) =>
    [...keys.values()]
      .filter((key) => key.holders.size === 1 && key.holders.has(id))
      .reduce((sum, key) => sum + key.bytes, 0);
  return { data, metadata, zeros: zeros * PAGE, exclusive };
}

const someVolume = (id: string): fc.Arbitrary<Volume> =>
  fc
    .record({
      pages: fc.integer({ min: 0, max: 700 }),
      holes: runsOfPages,
      family: fc.constantFrom(null, 'A', 'B'),
      zero: fc.integer({ min: 0, max: 40 }),
      common: fc.integer({ min: 0, max: 80 }),
      span: fc.constantFrom(0, 150, 240, 400),
      reduced: fc.integer({ min: 0, max: 700 }),
      squeeze: fc.constantFrom<Squeeze>('text', 'database'),
    })
    .map(({ pages, holes, family, zero, common: shared, span, reduced }) => {
      const written = pages * PAGE;
      return volume(id, {
        written,
        holes: within(
          holes.map(([start, end]) => [start * 9 * PAGE, end * 9 * PAGE] as [number, number]),
          0,
          written,
        ),
        reducedTo: Math.min(reduced * PAGE, written),
        content: { family, zero, common: family ? shared : 0, span: span * PAGE, squeeze: 'database', driftDays: 0 },
      });
    });

describe('reduced store', () => {
  test('sums in closed form equal a count page by page, to the byte', () =>
    fc.assert(
      fc.property(
        someVolume('v1'),
        someVolume('v2'),
        someVolume('v3'),
        fc.boolean(),
        fc.constantFrom<'off' | 'inline'>('off', 'inline'),
        (a, b, c, compression, dedupe) => {
          const volumes = [a, b, c];
          const store = reducedStore({ compression, dedupe }, volumes);
          const real = counted({ compression, dedupe }, volumes);
          expect(store.data).toBe(real.data);
          expect(store.metadata).toBe(real.metadata);
          expect(store.volumes.reduce((sum, row) => sum + row.zeros, 0)).toBe(real.zeros);
          for (const row of store.volumes)
            expect([row.volume, row.exclusive]).toEqual([row.volume, real.exclusive(row.volume)]);
        },
      ),
      { numRuns: 150 },
    ));

  test('what goes with a set is at least what each holds alone', () => {
    const content = { family: 'image', zero: 0, common: 110, span: 0, squeeze: 'text' as const, driftDays: 0 };
    const two = ['a', 'b'].map((id) => volume(id, { written: 24 * GIB, reducedTo: 24 * GIB, content }));
    const mode = { compression: true, dedupe: 'inline' as const };
    const { volumes, data } = reducedStore(mode, two);
    expect(freedBy(mode, two, new Set(['a']))).toBe(volumes[0]!.exclusive);
    expect(freedBy(mode, two, new Set(['a', 'b']))).toBe(data);
    expect(data).toBeGreaterThan(volumes[0]!.exclusive + volumes[1]!.exclusive);
  });

  test('the same content always takes the same room, in whole cells', () => {
    const one = volume('a', {
      content: { family: 'image', zero: 4, common: 60, span: 0, squeeze: 'image', driftDays: 0 },
    });
    const two = volume('b', { content: one.content });
    for (let page = 0; page < 5 * WEAVE; page++) {
      const [a, b] = [pageContent(one, page), pageContent(two, page)];
      if (a.what !== 'common') continue;
      expect(a).toEqual(b);
      const size = compressedSize('image', a);
      expect(size).toBe(compressedSize('image', b));
      expect(size % CELL).toBe(0);
      expect(size).toBeLessThanOrEqual(PAGE);
    }
  });
});

describe('where data ends', () => {
  test('zeros at the end do not count', () => {
    const content = { family: null, zero: 20, common: 0, span: 0, squeeze: 'text' as const, driftDays: 0 };
    expect(dataEnd(volume('a', { written: (WEAVE + 10) * PAGE, content }))).toBe(WEAVE * PAGE);
    expect(dataEnd(volume('a', { written: (WEAVE + 21) * PAGE, content }))).toBe((WEAVE + 21) * PAGE);
    expect(dataEnd(volume('a'))).toBe(0);
  });
  test('a cut drops what lies beyond', () => {
    const one = volume('a', {
      written: 100 * PAGE,
      holes: [
        [10 * PAGE, 20 * PAGE],
        [80 * PAGE, 90 * PAGE],
      ],
      reducedTo: 100 * PAGE,
    });
    const cut = cutTo(one, 50 * PAGE);
    expect(cut).toEqual({ size: 50 * PAGE, written: 50 * PAGE, holes: [[10 * PAGE, 20 * PAGE]], reducedTo: 50 * PAGE });
    expect(bytesIn(mappedRuns({ ...one, ...cut }))).toBe(40 * PAGE);
  });
});
