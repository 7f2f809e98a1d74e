import type { Drive } from '../estate/entities';
import { bareEstate } from '../../../demo/workbench';
import { KIB, MIB } from '../units/bytes';
import { HOUR } from '../units/duration';
import { compareLevels, levelCase, type LevelCase } from './compare';
import { chooseSeed, imbalance, imbalanceOf, permutation } from './distributed';
import { shapeOf, tileOf, type Shape, type ShapeWish } from './geometry';
import { mediaFigures } from './media';
import { degradedReads, degradedWrite, frontEndRate, planWrite, writePenalty, yearsOfWrites } from './performance';
import { criticalShare, rebuildRate } from './rebuild';
import {
  approximateTimeToLoss,
  chanceOfLoss,
  chanceOfOne,
  failureRate,
  meanTimeToLoss,
  nines,
  YEAR_HOURS,
} from './reliability';

const shape = (wish: ShapeWish, n: number) => shapeOf(wish, n) as Shape;
const tenK = mediaFigures['hdd-10k'];

describe('I/O larger than a stripe', () => {
  const ten = shape({ level: 'raid10' }, 8);
  test('reads of 1 MiB from level 10 of eight 10K drives: 44.5 a second', () =>
    expect(frontEndRate(ten, 64 * KIB, tenK, { reads: 1, size: MIB, utilisation: 0.7 }).iops).toBeCloseTo(44.5, 1));
  test('writes of 64 KiB over chunks of 16 KiB: 7.13 MB/s at most', () =>
    expect(
      frontEndRate(ten, 16 * KIB, tenK, { reads: 0, size: 64 * KIB, utilisation: 1 }).bytesPerSecond / 1e6,
    ).toBeCloseTo(7.13, 2));

  /** The definition, offset by offset over the whole stripe. */
  function plainly(of: Shape, chunk: number, size: number, reads: number): number {
    const stripe = of.copies > 1 ? chunk : chunk * (of.level === 'raid0' ? of.drives : of.data);
    const busy = (iops: number, mbps: number, bytes: number) => 1 / iops + Math.max(0, bytes - 4096) / (mbps * 1e6);
    let sum = 0;
    for (let offset = 0; offset < stripe; offset += 4096) {
      const touched = Math.floor((offset + size - 1) / chunk) - Math.floor(offset / chunk) + 1;
      const read = busy(tenK.readIops, tenK.readMBps, size / touched);
      const write = busy(tenK.writeIops, tenK.writeMBps, size / touched);
      sum += reads * touched * read;
      for (let at = offset, left = size; left > 0;) {
        const part = Math.min(left, stripe - (at % stripe));
        const plan = planWrite(of, chunk, at % stripe, part);
        sum += (1 - reads) * (plan.reads * read + plan.writes * write);
        at += part;
        left -= part;
      }
    }
    return of.drives / (sum / (stripe / 4096));
  }
  test.each<[ShapeWish, number, number, number]>([
    [{ level: 'raid5' }, 5, 64 * KIB, 8 * KIB],
    [{ level: 'raid5' }, 5, 16 * KIB, 300 * KIB],
    [{ level: 'raid6' }, 14, MIB, 4 * MIB],
    [{ level: 'raid6' }, 34, MIB, 8 * KIB],
    [{ level: 'raid60' }, 16, 128 * KIB, MIB],
    [{ level: 'raid0' }, 6, 64 * KIB, 20 * KIB],
    [{ level: 'raid10' }, 8, 64 * KIB, 2 * MIB],
    [{ level: 'distributed', data: 8, parity: 2, spareColumns: 1 }, 20, 256 * KIB, 3 * MIB],
  ])('%j over %i drives is the mean over every offset', (wish, n, chunk, size) => {
    const of = shape(wish, n);
    for (const reads of [0, 0.7, 1])
      expect(frontEndRate(of, chunk, tenK, { reads, size, utilisation: 1 }).iops).toBeCloseTo(
        plainly(of, chunk, size, reads),
        6,
      );
  });
  test('a stream is written in whole stripes', () => {
    const five = shape({ level: 'raid5' }, 5);
    const load = { reads: 0, size: 4 * KIB, utilisation: 1, sequential: true };
    const each = 5 * (1 / tenK.writeIops + (64 * KIB - 4096) / (tenK.writeMBps * 1e6));
    expect(frontEndRate(five, 64 * KIB, tenK, load)).toEqual({
      iops: 5 / each,
      bytesPerSecond: (5 / each) * 256 * KIB,
    });
  });
});

describe('one drive missing', () => {
  test.each<[ShapeWish, number, number]>([
    [{ level: 'raid5' }, 8, 1 + 6 / 8],
    [{ level: 'raid50', legs: 2 }, 10, 1.3],
    [{ level: 'raid60', legs: 2 }, 16, 1 + 5 / 16],
    [{ level: 'distributed', data: 8, parity: 2, spareColumns: 1 }, 20, 1.35],
    [{ level: 'raid10' }, 8, 1],
  ])('reads on %j of %i', (wish, n, reads) => expect(degradedReads(shape(wish, n))).toBeCloseTo(reads, 12));

  test('small writes: the strip lost, its parity lost, neither', () => {
    // Level 5 of 5: once of five d−1 = 3 reads and 1 write, once 0 and 1, three times 2 and 2.
    expect(degradedWrite(shape({ level: 'raid5' }, 5))).toEqual({
      reads: (3 + 0 + 3 * 2) / 5,
      writes: (1 + 1 + 6) / 5,
    });
    // Level 6 of 8: once 5 and 2, twice 2 and 2, five times 3 and 3.
    expect(degradedWrite(shape({ level: 'raid6' }, 8))).toEqual({ reads: (5 + 4 + 15) / 8, writes: (2 + 4 + 15) / 8 });
    expect(degradedWrite(shape({ level: 'raid10' }, 8))).toEqual({ reads: 0, writes: 1.75 });
    expect(degradedWrite(shape({ level: 'raid0' }, 4))).toEqual({ reads: 0, writes: 1 });
  });
});

describe('distributed groups', () => {
  const wide = (n: number, spareColumns: number) =>
    shape({ level: 'distributed', data: 8, parity: 2, spareColumns }, n);
  const drives = (n: number, capacity: number): Drive[] => {
    const [some] = [...bareEstate().table('drive').values()];
    return Array.from({ length: n }, (_, k) => ({ ...some!, id: `d${k}`, media: 'hdd-7k' as const, capacity }));
  };
  const use = { load: 0.3, priority: 'normal' as const, reads: 0.7, ioSize: 8 * KIB, replaceHours: 72 };
  const caseOf = (n: number) => levelCase({ level: 'distributed' }, drives(n, 16e12), 64 * KIB, use) as LevelCase;

  test('after i failures the share f_i of the stripes is critical', () => {
    expect(criticalShare(wide(20, 1), 1)).toBe(1);
    expect(criticalShare(wide(20, 1), 2)).toBeCloseTo(9 / 19, 12);
    expect(criticalShare(wide(20, 1), 3)).toBeCloseTo((9 * 8) / (19 * 18), 12);
    expect(criticalShare(shape({ level: 'raid6' }, 8), 2)).toBe(1);
  });
  test('8+2 on 60 of 16 TB takes about seven hours, and loses data once in some 11,000 years', () => {
    const sixty = caseOf(60);
    const even = sixty.rebuild / HOUR / (1 + imbalanceOf(sixty.shape, chooseSeed(sixty.shape)));
    expect(even).toBeCloseTo(6.07, 2);
    expect(sixty.rebuild / HOUR).toBeGreaterThan(6.7);
    expect(sixty.rebuild / HOUR).toBeLessThan(7.1);
    expect(1 / sixty.loss).toBeGreaterThan(10_500);
    expect(1 / sixty.loss).toBeLessThan(12_000);
  });
  test('nobody waits for a spare drive: its spare space stands by', () => {
    const waiting = compareLevels(drives(20, 16e12), 64 * KIB, use);
    const ready = compareLevels(drives(20, 16e12), 64 * KIB, { ...use, replaceHours: 0 });
    const loss = (cases: typeof waiting, level: string) => (cases.find((one) => one.level === level) as LevelCase).loss;
    expect(loss(waiting, 'distributed')).toBe(loss(ready, 'distributed'));
    expect(loss(waiting, 'raid6')).toBeGreaterThan(loss(ready, 'raid6'));
  });
  test('the imbalance is that of every pair of drives, counted stripe by stripe', () => {
    const of = wide(20, 1);
    const { stripes } = tileOf(of);
    const together = Array.from({ length: 20 }, () => Array<number>(20).fill(0));
    for (let t = 0; t < 32; t++) {
      const at = permutation(5, t, 20);
      for (let stripe = 0; stripe < stripes; stripe++) {
        const members = Array.from({ length: 10 }, (_, i) => at[(stripe * 10 + i) % 19]!);
        for (const a of members) for (const b of members) if (a !== b) together[a]![b]! += 1;
      }
    }
    const worst = Math.max(
      ...together.map((row) => (Math.max(...row) * 19) / row.reduce((sum, count) => sum + count, 0) - 1),
    );
    expect(imbalance(of, 5, 32)).toBeCloseTo(worst, 12);
  });
  test.each([
    [20, 2, 6.5, 4],
    [40, 2, 18.6, 10.8],
    [60, 4, 30.3, 13.2],
  ])('seed 42: 8+2 on %i drives, %i spare: %f %% over 512 permutations, %f %% over 2048', (n, spare, few, all) => {
    expect(imbalance(wide(n, spare), 42, 512) * 100).toBeCloseTo(few, 1);
    expect(imbalance(wide(n, spare), 42) * 100).toBeCloseTo(all, 1);
  });
});

describe('rebuilds under a budget', () => {
  test('a controller that gives 200 MB/s lets a 7+1 rebuild at 25 MB/s', () => {
    const seven = shape({ level: 'raid5' }, 8);
    expect(rebuildRate(seven, tenK, 0.6, 0, 200e6)).toBe(25e6);
    expect(rebuildRate(seven, tenK, 0.6, 0, 1e12)).toBe(120e6);
    const wide = shape({ level: 'distributed', data: 8, parity: 2, spareColumns: 1 }, 20);
    expect(rebuildRate(wide, tenK, 0.6, 0.1, 90e6)).toBe(10e6);
  });
});

describe('reliability of many', () => {
  const model = { width: 10, survives: 2, failureRate: failureRate(0.015), repairRate: 1 / 24, readErrorChance: 0.1 };
  test('repair side by side is faster by the number of failed drives', () => {
    const both = { ...model, repairRate: [1 / 24, 2 / 24] };
    expect(meanTimeToLoss({ ...model, parallel: true })).toBe(meanTimeToLoss(both));
    expect(chanceOfLoss({ ...model, parallel: true }, YEAR_HOURS)).toBe(chanceOfLoss(both, YEAR_HOURS));
    expect(chanceOfLoss(both, YEAR_HOURS)).toBeLessThan(chanceOfLoss(model, YEAR_HOURS));
    expect(approximateTimeToLoss(both) / meanTimeToLoss(both)!).toBeCloseTo(1, 1);
  });
  test('a pool is lost with any of its groups; nines', () => {
    expect(chanceOfOne([])).toBe(0);
    expect(chanceOfOne([0.1, 0.2])).toBeCloseTo(0.28, 12);
    expect(chanceOfOne([1e-15, 1e-15])).toBeCloseTo(2e-15, 25);
    expect(nines(1e-5)).toBeCloseTo(5, 12);
    expect(nines(0)).toBe(Infinity);
  });
});

test('years until flash has taken its rated writes', () => {
  // One drive write a day over five years, each byte written twice: two and a half years of a drive written once a day.
  const flash = mediaFigures['ssd-nvme'];
  expect(yearsOfWrites(flash, 4e12, 4e12, { drives: 1, amplification: 1 })).toBeCloseTo(2.5, 12);
  const six = shape({ level: 'raid6' }, 8);
  expect(yearsOfWrites(flash, 4e12, 4e12, { drives: 8, amplification: writePenalty(six) / 2 })).toBeCloseTo(
    (2.5 * 8) / 3,
    12,
  );
  expect(yearsOfWrites(tenK, 4e12, 4e12, { drives: 1, amplification: 1 })).toBeNull();
  expect(yearsOfWrites(flash, 4e12, 0, { drives: 1, amplification: 1 })).toBeNull();
});
