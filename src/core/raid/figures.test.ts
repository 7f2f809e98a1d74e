import fc from 'fast-check';
import { bareEstate } from '../../../demo/workbench';
import type { Drive } from '../estate/entities';
import { KIB } from '../units/bytes';
import { chooseDrives } from './choose-drives';
import { advise, compareLevels, type LevelCase } from './compare';
import { geometry, shapeOf, usableOfDrive, type Shape } from './geometry';
import { mediaFigures } from './media';
import { degradedReads, frontEndRate, planWrite, responseTime, textbookPenalty, writePenalty } from './performance';
import {
  backgroundShare,
  chooseSpare,
  foregroundKept,
  rebuildBytes,
  rebuildRate,
  sparesAdvised,
  spareUnfit,
  type SpareNeed,
} from './rebuild';
import {
  approximateTimeToLoss,
  chanceOfAny,
  chanceOfLoss,
  failureRate,
  meanTimeToLoss,
  readErrorChance,
  replacedAYear,
  YEAR_HOURS,
} from './reliability';

const shape = (wish: Parameters<typeof shapeOf>[0], n: number) => shapeOf(wish, n) as Shape;

describe('reliability', () => {
  const leg = (survives: number, sources: number) => ({
    width: 8,
    survives,
    failureRate: failureRate(0.015),
    repairRate: 1 / 24,
    readErrorChance: readErrorChance(1e-15, sources, 4e12),
  });

  test('level 5 and 6 of eight 4 TB drives, as the reference works them out', () => {
    const five = leg(1, 7);
    expect(five.readErrorChance).toBeCloseTo(0.2007, 4);
    expect(meanTimeToLoss(five)).toBeCloseTo(360_970, -1);
    expect(chanceOfLoss(five, YEAR_HOURS)).toBeCloseTo(0.02393, 5);
    const six = leg(2, 6);
    expect(six.readErrorChance).toBeCloseTo(0.1747, 4);
    expect(meanTimeToLoss(six)! / 1e9).toBeCloseTo(1.4317, 3);
    expect(chanceOfLoss(six, YEAR_HOURS) * 1e6).toBeCloseTo(6.09, 1);
  });

  test('the closed approximation agrees within ten per cent, and the chance with 1 − e^(−t/MTTDL)', () =>
    fc.assert(
      fc.property(
        fc.integer({ min: 3, max: 16 }),
        fc.integer({ min: 1, max: 2 }),
        fc.double({ min: 0.002, max: 0.03, noNaN: true }),
        fc.double({ min: 4, max: 60, noNaN: true }),
        (width, survives, annual, hours) => {
          const model = {
            width: width + survives,
            survives,
            failureRate: failureRate(annual),
            repairRate: 1 / hours,
            readErrorChance: 0.01,
          };
          const mean = meanTimeToLoss(model)!;
          expect(approximateTimeToLoss(model) / mean).toBeGreaterThan(0.9);
          expect(approximateTimeToLoss(model) / mean).toBeLessThan(1.1);
          const chance = chanceOfLoss(model, YEAR_HOURS);
          expect(chance / -Math.expm1(-YEAR_HOURS / mean)).toBeGreaterThan(0.9);
          expect(chance).toBeGreaterThanOrEqual(0);
          expect(chance).toBeLessThanOrEqual(1);
        },
      ),
    ));

  test('edges: nothing fails, level 0, several legs', () => {
    expect(meanTimeToLoss({ ...leg(1, 7), failureRate: 0 })).toBeNull();
    expect(chanceOfLoss({ ...leg(1, 7), failureRate: 0 }, YEAR_HOURS)).toBe(0);
    expect(() => failureRate(1)).toThrow(RangeError);
    const none = { ...leg(0, 8), readErrorChance: 0 };
    expect(chanceOfLoss(none, YEAR_HOURS)).toBeCloseTo(1 - 0.985 ** 8, 6);
    expect(chanceOfAny(0.01, 2)).toBeCloseTo(1 - 0.99 ** 2, 12);
    expect(replacedAYear(100, 0.015)).toBeCloseTo(1.511, 3);
  });
});

describe('writes', () => {
  const five = shape({ level: 'raid5' }, 5);
  test('192 KiB at the start of 4+1 strips of 64 KiB are reconstructed: one read, four writes', () =>
    expect(planWrite(five, 64 * KIB, 0, 192 * KIB)).toEqual({ mode: 'reconstruct', reads: 1, writes: 4 }));
  test('small writes read and modify, whole stripes read nothing', () => {
    expect(planWrite(five, 64 * KIB, 0, 4 * KIB)).toEqual({ mode: 'read-modify-write', reads: 2, writes: 2 });
    expect(planWrite(five, 64 * KIB, 0, 256 * KIB)).toEqual({ mode: 'full stripe', reads: 0, writes: 5 });
    expect(planWrite(shape({ level: 'raid10' }, 8), 64 * KIB, 0, 4 * KIB)).toMatchObject({ reads: 0, writes: 2 });
  });
  test.each([
    ['raid5', 8, 4, 4],
    ['raid5', 3, 3, 4],
    ['raid6', 8, 6, 6],
    ['raid6', 4, 4, 6],
    ['triple-parity', 12, 8, 8],
    ['raid10', 8, 2, 2],
    ['raid0', 8, 1, 1],
  ] as const)('a small write on %s of %i costs %i, in books %i', (level, n, cost, book) => {
    expect(writePenalty(shape({ level }, n))).toBe(cost);
    expect(textbookPenalty(shape({ level }, n))).toBe(book);
  });

  test('eight 7.2K drives under level 5: 322 IO/s of 8 KiB at 70 % reads', () => {
    const load = { reads: 0.7, size: 8 * KIB, utilisation: 1 };
    const rate = frontEndRate(shape({ level: 'raid5' }, 8), 128 * KIB, mediaFigures['hdd-7k'], load);
    expect(rate.iops).toBeCloseTo(322, 0);
    expect(rate.bytesPerSecond / 1e6).toBeCloseTo(2.64, 2);
  });
  test('a missing drive makes reads dearer', () => {
    expect(degradedReads(shape({ level: 'raid5' }, 8))).toBeCloseTo(1 + 6 / 8, 12);
    const load = { reads: 1, size: 8 * KIB, utilisation: 0.7 };
    const whole = frontEndRate(five, 64 * KIB, mediaFigures['hdd-10k'], load).iops;
    expect(frontEndRate(five, 64 * KIB, mediaFigures['hdd-10k'], load, true).iops).toBeLessThan(whole);
  });
  test('a saturated drive has no response time', () => {
    expect(responseTime(mediaFigures['hdd-7k'], 1, 1)).toBeNull();
    expect(responseTime(mediaFigures['hdd-7k'], 0.5, 1)).toBeCloseTo(25, 6);
    expect(responseTime(mediaFigures['ssd-nvme'], 0.5, 1)).toBeCloseTo(0.1, 6);
  });
});

describe('rebuild', () => {
  const hdd = mediaFigures['hdd-7k'];
  test('4 TB of 7.2K in 7+1 at 30 % load takes 10.3 h; distributed over 20 drives 4.4 h', () => {
    const share = backgroundShare('normal', 0.3);
    expect(share).toBe(0.6);
    const seven = shape({ level: 'raid5' }, 8);
    expect(4e12 / rebuildRate(seven, hdd, share) / 3600).toBeCloseTo(10.3, 1);
    const wide = shape({ level: 'distributed', data: 8, parity: 2, spareColumns: 2 }, 20);
    expect(rebuildBytes(wide, 4e12)).toBe(3.6e12);
    expect(3.6e12 / rebuildRate(wide, hdd, share) / 3600).toBeCloseTo(4.4, 0);
    expect(rebuildRate(wide, hdd, share, 0.1)).toBeLessThan(rebuildRate(wide, hdd, share));
  });
  test('priority bounds what hosts lose', () => {
    expect(backgroundShare('low', 0)).toBe(0.3);
    expect(backgroundShare('high', 1)).toBe(0.5);
    expect(foregroundKept(0.6, 0.8)).toBeCloseTo(0.5, 12);
    expect(foregroundKept(0.6, 0)).toBe(1);
  });
  test('120 drives of 1.5 % want two spares', () => expect(sparesAdvised(120, 0.015)).toBe(2));

  const [some] = [...bareEstate().table('drive').values()];
  const need: SpareNeed = {
    group: 'rg',
    memberSize: usableOfDrive(some!.capacity),
    sector: 4096,
    media: 'ssd-nvme',
    enclosures: new Map(),
  };
  const drive = (id: string, more: Partial<Drive> = {}): Drive => ({ ...some!, id, spare: 'shared', ...more });

  test('a spare must be whole, alike, fast and large enough', () => {
    for (const [code, more] of [
      ['spare-not-whole', { state: 'failed' }],
      ['drive-in-use', { raidGroup: 'x' }],
      ['drive-foreign-label', { foreign: true }],
      ['spare-of-another', { spareGroup: 'x' }],
      ['drive-sector-mix', { sector: 512 }],
      ['drive-medium-mix', { media: 'hdd-10k' }],
      ['spare-slower', { media: 'ssd-sata' }],
      ['spare-too-small', { capacity: 1e12 }],
    ] as [string, Partial<Drive>][])
      expect(spareUnfit(drive('a', more), need)?.code).toBe(code);
    expect(spareUnfit(drive('a'), need)).toBeNull();
  });
  test('its own spare first, then the smallest that fits, then the lowest id', () => {
    expect(chooseSpare([drive('b'), drive('a'), drive('c', { spareGroup: 'rg', spare: 'dedicated' })], need)?.id).toBe(
      'c',
    );
    expect(chooseSpare([drive('a', { capacity: 8e12 }), drive('b')], need)?.id).toBe('b');
    expect(chooseSpare([drive('b'), drive('a')], need)?.id).toBe('a');
    expect(chooseSpare([drive('a', { spare: 'no' })], need)).toBeUndefined();
  });
});

describe('levels side by side', () => {
  const all = [...bareEstate().table('drive').values()];
  const some = all.filter((one) => one.media === 'hdd-7k').slice(0, 12);
  const use = { load: 0.3, priority: 'normal' as const, reads: 0.7, ioSize: 8 * KIB, replaceHours: 0 };
  const cases = compareLevels(some, 64 * KIB, use);
  const of = (level: string) => cases.find((one): one is LevelCase => one.level === level && 'shape' in one)!;

  test('the figures order the levels as engineers expect', () => {
    expect(of('raid10').iops).toBeGreaterThan(of('raid5').iops);
    expect(of('raid5').iops).toBeGreaterThan(of('raid6').iops);
    expect(of('raid6').loss).toBeLessThan(of('raid5').loss);
    expect(of('triple-parity').loss).toBeLessThan(of('raid6').loss);
    expect(of('distributed').rebuild).toBeLessThan(of('raid6').rebuild);
    expect(of('raid0')).toMatchObject({ rebuild: 0, degradedIops: 0 });
  });
  test('each goal has a level and never one that survives nothing', () => {
    expect(advise(cases, 'room')!.best.shape.survives).toBeGreaterThan(0);
    const { best } = advise(cases, 'speed')!;
    expect(best.loss).toBeLessThanOrEqual(1e-3);
    for (const one of cases)
      if ('shape' in one && one.loss <= 1e-3 && one.shape.survives > 0) expect(one.iops).toBeLessThanOrEqual(best.iops);
    expect(advise(cases, 'safety')!.best.loss).toBeLessThan(1e-9);
    expect(advise(compareLevels(some.slice(0, 1), 64 * KIB, use), 'room')).toBeNull();
  });
  test('more load makes rebuilds longer', () => {
    const busy = compareLevels(some, 64 * KIB, { ...use, load: 0.9 });
    expect((busy.find((one) => one.level === 'raid6') as LevelCase).rebuild).toBeGreaterThan(of('raid6').rebuild);
  });
  test('usable agrees with the geometry', () => {
    const found = geometry(
      'raid6',
      some.map((one) => one.capacity),
      64 * KIB,
    );
    expect(typeof found === 'string' ? 0 : found.usable).toBe(of('raid6').shape.usable);
  });
});

describe('choosing drives', () => {
  const free = [...bareEstate().table('drive').values()];
  test('of one kind, spares left over', () => {
    const chosen = chooseDrives(free, 8)!;
    expect(new Set(chosen.drives.map((one) => `${one.media} ${one.capacity} ${one.sector}`)).size).toBe(1);
    expect(chosen.spares).toBeGreaterThan(0);
  });
  test('spread over enclosures as evenly as can be', () => {
    const spread = free
      .filter((one) => one.media === 'hdd-7k')
      .slice(0, 24)
      .map((one, k) => ({ ...one, capacity: 16e12, sector: 4096 as const, enclosure: `e${k % 3}` }));
    expect(chooseDrives(spread, 9)).toMatchObject({ together: 3, spares: 15 });
  });
  test('none where no kind has enough', () => expect(chooseDrives(free.slice(0, 5), 6)).toBeNull());
});
