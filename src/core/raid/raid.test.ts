import fc from 'fast-check';
import { slots } from '../../../demo/names';
import { bareEstate, carryOut, codesOf, refusalsOf } from '../../../demo/workbench';
import { raidLevels } from '../estate/entities';
import { changed } from '../estate/effects';
import { GIB, KIB } from '../units/bytes';
import { HOUR } from '../units/duration';
import { raidGroupCreate } from './create';
import {
  geometry,
  levelFigures,
  shapeOf,
  sketchOf,
  usableOfDrive,
  widthText,
  type Shape,
  type ShapeWish,
} from './geometry';
import { groupHealth } from './health';
import { basis } from '../../../demo/workbench';
import { contextFor } from '../change/plan';

const context = contextFor(basis, 0, 0);
const create = (more: Record<string, unknown>) => ({
  do: 'raid-group.create',
  array: 'lintel-1',
  name: 'rg-1',
  level: 'raid6',
  drives: slots(0, 0, 7),
  ...more,
});

describe('geometry', () => {
  test('a 4 TB drive gives 3725 GiB after reserve and right-sizing', () =>
    expect(usableOfDrive(4_000_787_030_016)).toBe(3725 * GIB));
  test('a drive smaller than its reserve gives nothing', () => expect(usableOfDrive(1e8)).toBe(0));

  const four = Array<number>(4).fill(4_000_787_030_016);
  const u = 3725 * GIB;
  test.each([
    ['raid0', 4 * u, 0, 0],
    ['raid1', u, 3, 3],
    ['raid10', 2 * u, 1, 2],
    ['raid5', 3 * u, 1, 1],
    ['raid6', 2 * u, 2, 2],
  ] as const)('%s over four drives', (level, usable, survives, best) => {
    expect(geometry(level, four, 64 * KIB)).toMatchObject({ usable, survives, survivesAtBest: best, stranded: 0 });
  });

  test('every member gives as much as the smallest; the rest is stranded', () => {
    const shape = geometry('raid5', [...four.slice(1), 2_000_398_934_016], 64 * KIB);
    const small = usableOfDrive(2_000_398_934_016);
    expect(shape).toMatchObject({ memberSize: small, usable: 3 * small, stranded: 3 * (u - small) });
  });

  test.each([
    ['raid0', 1, 'too-few-drives'],
    ['raid5', 2, 'too-few-drives'],
    ['raid6', 3, 'too-few-drives'],
    ['raid10', 2, 'too-few-drives'],
    ['raid10', 5, 'copies-not-divisible'],
  ] as const)('%s of %i drives: %s', (level, count, failure) =>
    expect(geometry(level, Array<number>(count).fill(4e12), 64 * KIB)).toBe(failure),
  );
  test.each<[ShapeWish, number, string]>([
    [{ level: 'distributed', data: 8, parity: 0 }, 12, 'stripe-without-parity'],
    [{ level: 'distributed', data: 0, parity: 2 }, 12, 'stripe-without-data'],
    [{ level: 'raid6' }, 256, 'too-many-drives'],
    [{ level: 'triple-parity' }, 256, 'too-many-drives'],
    [{ level: 'raid60', legs: 2 }, 512, 'too-many-drives'],
    [{ level: 'distributed', data: 2, parity: 1, spareColumns: 1 }, 3, 'stripe-wider-than-drives'],
  ])('%j over %i drives: %s', (wish, n, failure) => expect(shapeOf(wish, n)).toBe(failure));
  test('255 strips are told apart, and one parity tells any number; 2+1 with a spare column stands on four drives', () => {
    expect(shapeOf({ level: 'raid6' }, 255)).toMatchObject({ data: 253 });
    expect(shapeOf({ level: 'raid5' }, 300)).toMatchObject({ data: 299 });
    expect(shapeOf({ level: 'distributed', data: 2, parity: 1, spareColumns: 1 }, 4)).toMatchObject({ width: 3 });
  });
  test('no room', () => expect(geometry('raid5', [4e12, 4e12, 1e8], 64 * KIB)).toBe('drive-too-small'));

  test('usable never exceeds what the drives can give, and is whole chunks', () =>
    fc.assert(
      fc.property(
        fc.constantFrom(...raidLevels),
        fc.array(fc.integer({ min: 2e9, max: 2e13 }), { minLength: 2, maxLength: 24 }),
        fc.constantFrom(16, 64, 256, 1024),
        (level, capacities, kib) => {
          const shape = geometry(level, capacities, kib * KIB);
          if (typeof shape === 'string') return;
          const total = capacities.map(usableOfDrive).reduce((a, b) => a + b, 0);
          expect(shape.usable).toBeLessThanOrEqual(total);
          expect(shape.usable % (kib * KIB)).toBe(0);
          expect(shape.survives).toBeLessThanOrEqual(shape.survivesAtBest);
          const sketch = sketchOf(shape);
          expect(sketch.data + sketch.parity).toBe(level === 'distributed' ? shape.width : capacities.length);
          expect(shape.stranded).toBeGreaterThanOrEqual(0);
        },
      ),
    ));

  test('widths in words', () =>
    expect(raidLevels.map((level) => widthText(shapeOf({ level }, 8) as Shape))).toEqual([
      '8+0',
      '×8',
      '4×2',
      '7+1',
      '2×(3+1)',
      '6+2',
      '2×(2+2)',
      '5+3',
      '5+2 on 8',
    ]));
});

describe('raid-group.create', () => {
  test.each([
    ['too-few-drives', { drives: slots(0, 0, 2) }],
    ['copies-not-divisible', { level: 'raid10', drives: slots(0, 0, 4) }],
    ['drive-unknown', { drives: [...slots(0, 0, 5), '9:9'] }],
    ['drive-twice', { drives: [...slots(0, 0, 5), '0:0'] }],
    ['drive-medium-mix', { drives: [...slots(0, 0, 5), '1:0'] }],
    ['drive-sector-mix', { array: 'lintel-1', drives: [...slots(1, 0, 5), '2:0'] }],
    ['chunk-odd', { chunk: '48 KiB' }],
    ['chunk-odd', { chunk: '4 MiB' }],
    ['unit-missing', { chunk: '64' }],
    ['name-bad-char', { name: 'rg 1' }],
    ['array-unknown', { array: 'lintel-9' }],
    ['parameter-wrong', { level: 'raid7' }],
    ['parameter-missing', { drives: undefined }],
    ['parameter-unknown', { chunks: '64 KiB' }],
  ])('is refused: %s', (code, more) => expect(codesOf(bareEstate(), create(more))).toContain(code));

  test('says what it lacks and what would do', () => {
    expect(refusalsOf(bareEstate(), create({ drives: slots(0, 0, 2) }))[0]).toMatchObject({
      message: 'RAID 6 needs at least 4 drives; 3 are chosen.',
      mend: 'Choose 1 more, or a level that takes fewer.',
      field: 'level',
    });
  });

  test('takes drives once, refuses failed ones and a name that exists', () => {
    const estate = bareEstate();
    carryOut(estate, [create({})]);
    expect(codesOf(estate, create({ name: 'rg-2' }))).toEqual(Array(8).fill('drive-in-use'));
    expect(codesOf(estate, create({ drives: slots(0, 8, 15) }))).toEqual(['name-taken']);
    const drive = [...estate.table('drive').values()].find((row) => row.slot === 20 && row.sector === 4096)!;
    estate.apply([changed('drive', drive, { state: 'failed' })]);
    expect(codesOf(estate, create({ name: 'rg-2', drives: slots(0, 18, 23) }))).toEqual(['drive-failed']);
  });

  test('starts initialising, which takes the slowest drive’s time; level 0 needs none', () => {
    const estate = bareEstate();
    carryOut(estate, [
      create({ drives: slots(2, 0, 7) }),
      create({ name: 'rg-2', level: 'raid0', drives: slots(0, 0, 1) }),
    ]);
    const jobs = [...estate.table('job').values()];
    expect(jobs).toHaveLength(1);
    // 12 TB at 60 % of 180 MB/s
    expect((jobs[0]!.finishesAt - jobs[0]!.startedAt) / HOUR).toBeCloseTo(30.86, 1);
  });

  test('foretells what speaks against each drive, and the levels side by side', () => {
    const estate = bareEstate();
    carryOut(estate, [create({})]);
    const told = raidGroupCreate.foretell(
      estate,
      { array: 'lintel-1', level: 'raid6', drives: slots(0, 8, 13) },
      context,
    );
    expect(told.fields.drives!.choices!.find((choice) => choice.value === '0:3')!.unfit).toBe('is a member of rg-1');
    expect(told.fields.name!.suggested).toBe('rg-2');
    expect(told.comparison!.lines.map((line) => line.cells[2]!.text)).toEqual([
      '0',
      '5',
      '1, at best 3',
      '1',
      '1, at best 2',
      '2',
      '–',
      '3',
      '2, at best 3',
    ]);
    expect(told.fields.level!.says).toContain('survives 2 lost drives');
    const few = raidGroupCreate.foretell(estate, { array: 'lintel-1', drives: ['0:8', '0:9'] }, context);
    expect(few.comparison!.lines.find((line) => line.value === 'raid6')!.unfit).toContain('needs at least 4');
  });
});

describe('raid-group.delete', () => {
  test('frees the drives; refused while a pool rests on it', () => {
    const estate = bareEstate();
    carryOut(estate, [create({}), { do: 'raid-group.delete', array: 'lintel-1', name: 'rg-1' }]);
    expect([...estate.table('drive').values()].filter((drive) => drive.raidGroup)).toEqual([]);
    expect(estate.table('job').size).toBe(0);
    carryOut(
      estate,
      [create({}), { do: 'pool.create', array: 'lintel-1', name: 'quay', raidGroups: ['rg-1'] }],
      'again',
    );
    expect(refusalsOf(estate, { do: 'raid-group.delete', array: 'lintel-1', name: 'rg-1' })[0]).toMatchObject({
      code: 'in-pool',
      mend: 'Retire pool quay first.',
    });
  });
});

describe('health', () => {
  const broken = (level: string, drives: number, failed: number[]) => {
    const estate = bareEstate();
    carryOut(estate, [create({ level, drives: slots(0, 0, drives - 1) })]);
    const group = [...estate.table('raidGroup').values()][0]!;
    for (const job of [...estate.table('job').values()])
      estate.apply([{ kind: 'job', id: job.id, before: job, after: null }]);
    for (const at of failed) {
      const drive = estate.table('drive').get(group.drives[at]!)!;
      estate.apply([changed('drive', drive, { state: 'failed' })]);
    }
    const { state, tolerates } = groupHealth(estate, group);
    return `${state} ${tolerates}`;
  };
  test.each([
    ['raid6', 6, [], 'ok 2'],
    ['raid6', 6, [1], 'degraded 1'],
    ['raid6', 6, [1, 3], 'degraded 0'],
    ['raid6', 6, [1, 3, 4], 'lost 0'],
    ['raid10', 6, [0], 'degraded 0'],
    ['raid10', 6, [0, 2, 4], 'degraded 0'],
    ['raid10', 6, [0, 1], 'lost 0'],
    ['raid1', 3, [0, 1], 'degraded 0'],
    ['raid1', 3, [0, 1, 2], 'lost 0'],
    ['raid0', 2, [0], 'lost 0'],
  ] as const)('%s of %i with %j failed is %s', (level, drives, failed, expected) =>
    expect(broken(level, drives, [...failed])).toBe(expected),
  );
  test('a new group is initialising', () => {
    const estate = bareEstate();
    carryOut(estate, [create({})]);
    expect(groupHealth(estate, [...estate.table('raidGroup').values()][0]!).state).toBe('initialising');
    expect(levelFigures.raid6.parity).toBe(2);
  });
});
