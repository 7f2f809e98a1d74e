import fc from 'fast-check';
import { changedBytes, type WriteClass } from '../protect/changed-bytes';
import { rpoCycles } from './cycles';
import { initialCopy, reserves, type FirstCopyWish } from './first-copy';
import { journalLag } from './journal-lag';
import { rpoMinBandwidth, rpoSteady } from './steady';
import { Steps } from './steps';

const MB = 1e6;
const GB = 1e9;
const linear = (bytesPerS: number): WriteClass => ({
  kind: 'linear',
  bytesPerS,
  ioBytes: 16_384,
  alignBytes: 4096,
  extentBytes: 262_144,
  workingSetBytes: 0,
});
const random: WriteClass = { ...linear(6 * MB), kind: 'random', workingSetBytes: 50 * 2 ** 30 };
const value = <T>(found: { ok: true; value: T } | { ok: false; reason: string }): T => {
  if (!found.ok) throw new Error(found.reason);
  return found.value;
};
const reason = (found: { ok: boolean; reason?: string }) => (found.ok ? 'ok' : found.reason);

describe('steady cycles', () => {
  test('go by their ticks, one after the other, or never end', () => {
    const cost = { wireRatio: 0.75, fixedS: 20, bandwidthBytesPerS: 25 * MB, intervalS: 900 };
    expect(value(rpoSteady({ ...cost, classes: [linear(8 * MB)] }))).toEqual({
      mode: 'scheduled',
      cycleS: 900,
      transferS: 236,
      worstLagS: 1136,
      meanLagS: 686,
      bestLagS: 236,
    });
    const back = value(
      rpoSteady({ classes: [random], intervalS: 300, bandwidthBytesPerS: 60 * MB, wireRatio: 0.8, fixedS: 5 }),
    );
    expect(back.mode).toBe('back-to-back');
    expect(back.cycleS).toBeCloseTo(346.9, 1);
    expect(back.worstLagS).toBeCloseTo(693.8, 1);
    expect(value(rpoSteady({ ...cost, classes: [linear(40 * MB)] }))).toMatchObject({ mode: 'diverges', cycleS: null });
    expect(value(rpoSteady({ ...cost, classes: [], bandwidthBytesPerS: 0 }))).toMatchObject({ transferS: 20 });
    expect(reason(rpoSteady({ ...cost, classes: [{ ...random, workingSetBytes: 1 }] }))).toBe(
      'writes-working-set-below-extent',
    );
  });

  test('the period back to back is the one in which it is sent', () =>
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 200 }), fc.integer({ min: 10, max: 3000 }), (mb, intervalS) => {
        const cost = { classes: [random], bandwidthBytesPerS: mb * MB, wireRatio: 0.8, fixedS: 5 };
        const found = value(rpoSteady({ ...cost, intervalS }));
        if (found.mode !== 'back-to-back') return;
        const sent = 5 + (changedBytes([random], found.cycleS!) * 0.8) / (mb * MB);
        expect(found.cycleS! / sent).toBeCloseTo(1, 9);
        expect(found.cycleS).toBeGreaterThanOrEqual(intervalS);
      }),
    ));

  test('the least bandwidth for a recovery point', () => {
    const wish = { classes: [linear(8 * MB)], rpoS: 1800, fixedS: 100, wireRatio: 0.75 };
    expect(value(rpoMinBandwidth(wish))).toEqual({ intervalS: 900, bytesPerS: 6.75 * MB });
    expect(value(rpoMinBandwidth({ ...wish, intervalS: 1200 })).bytesPerS).toBeCloseTo(14.4 * MB, 3);
    expect(reason(rpoMinBandwidth({ ...wish, intervalS: 1700 }))).toBe('rpo-interval-too-long');
    expect(reason(rpoMinBandwidth({ ...wish, intervalS: 90 }))).toBe('rpo-fixed-cost-exceeds-interval');
    expect(reason(rpoMinBandwidth({ ...wish, rpoS: 200 }))).toBe('rpo-fixed-cost-exceeds-interval');
  });

  test('what it asks for holds the recovery point, and less does not', () =>
    fc.assert(
      fc.property(fc.integer({ min: 60, max: 20_000 }), fc.integer({ min: 0, max: 20 }), (rpoS, fixedS) => {
        const { intervalS, bytesPerS } = value(rpoMinBandwidth({ classes: [random], rpoS, fixedS, wireRatio: 0.7 }));
        const worst = (bandwidthBytesPerS: number) =>
          value(rpoSteady({ classes: [random], intervalS, fixedS, wireRatio: 0.7, bandwidthBytesPerS })).worstLagS!;
        expect(worst(bytesPerS * 1.0001)).toBeLessThanOrEqual(rpoS);
        expect(worst(bytesPerS * 0.99)).toBeGreaterThan(rpoS);
      }),
    ));
});

describe('cycles over a profile', () => {
  const profile = {
    write: [
      { fromS: 0, bytesPerS: 5 * MB },
      { fromS: 1200, bytesPerS: 0 },
    ],
    link: [
      { fromS: 0, bytesPerS: 20 * MB },
      { fromS: 700, bytesPerS: 4 * MB },
    ],
    workingSetBytes: null,
    amplification: 1,
    intervalS: 400,
    wireRatio: 1,
    fixedS: 10,
    horizonS: 2000,
  };

  test('wait for the one before, and say how late they are', () => {
    const found = rpoCycles({ ...profile, lagAt: [509, 510, 1300, 2000], rpoS: 600 });
    expect(found.rows.map(({ pitS, wireBytes, finishS }) => [pitS, wireBytes / GB, finishS])).toEqual([
      [400, 2, 510],
      [800, 2, 1310],
      [1310, 2, 1820],
      [1820, 0, 1830],
      [2000, 0, null],
    ]);
    expect(found).toMatchObject({ worstLagS: 1020, lagS: [509, 110, 900, 180], lateS: 730 });
    expect(rpoCycles(profile).lateS).toBeNull();
  });

  test('without writes only the fixed cost is behind; a link that never gives ends the list', () => {
    const idle = rpoCycles({ ...profile, write: [{ fromS: 0, bytesPerS: 0 }], fixedS: 0 });
    expect(idle.rows.every(({ finishS, pitS }) => finishS === pitS)).toBe(true);
    expect(rpoCycles({ ...profile, link: [{ fromS: 0, bytesPerS: 0 }] }).rows).toEqual([
      { pitS: 400, changedBytes: 2 * GB, wireBytes: 2 * GB, finishS: null },
    ]);
  });

  test('a working set is never exceeded, and all that is written is sent once', () =>
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 1, max: 900 }), fc.integer({ min: 0, max: 50 })), { maxLength: 6 }),
        (steps) => {
          let at = 0;
          const write = [
            { fromS: 0, bytesPerS: 3 * MB },
            ...steps.map(([more, mb]) => ({ fromS: (at += more), bytesPerS: mb * MB })),
          ];
          const all = rpoCycles({ ...profile, write });
          const last = all.rows.at(-1)?.pitS ?? 0;
          const sent = all.rows.reduce((sum, row) => sum + row.changedBytes, 0);
          expect(sent / GB).toBeCloseTo(new Steps(write).upTo(last) / GB, 6);
          for (const row of rpoCycles({ ...profile, write, workingSetBytes: GB }).rows)
            expect(row.changedBytes).toBeLessThanOrEqual(GB);
        },
      ),
    ));
});

describe('a journal', () => {
  const profile = {
    write: [
      { fromS: 0, bytesPerS: 10 * MB },
      { fromS: 300, bytesPerS: 50 * MB },
      { fromS: 600, bytesPerS: 10 * MB },
    ],
    link: [{ fromS: 0, bytesPerS: 25 * MB }],
    wireRatio: 0.8,
    horizonS: 1000,
    lagAt: [300, 600, 900],
  };

  test('grows, overflows and drains', () => {
    const found = journalLag({ ...profile, journalBytes: 3 * GB });
    expect(found).toMatchObject({ peakBacklogBytes: 4.5 * GB, peakAtS: 600, endBacklogBytes: 0, overflowAtS: 500 });
    expect(found.lagS[0]).toBe(0);
    expect(found.lagS[1]).toBeCloseTo(112.5, 9);
    expect(found.lagS[2]).toBe(0);
    expect(journalLag({ ...profile, journalBytes: 4.5 * GB }).overflowAtS).toBeNull();
    expect(journalLag({ ...profile, write: [] })).toMatchObject({ peakBacklogBytes: 0, peakAtS: 0, lagS: [0, 0, 0] });
  });

  test('what waits is what came less what went, and never less than nothing', () =>
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 60 }),
        fc.integer({ min: 1, max: 60 }),
        fc.integer({ min: 1, max: 2000 }),
        (mb, link, s) => {
          const found = journalLag({
            write: [
              { fromS: 0, bytesPerS: mb * MB },
              { fromS: 1000, bytesPerS: 0 },
            ],
            link: [{ fromS: 0, bytesPerS: link * MB }],
            wireRatio: 1,
            horizonS: s,
            lagAt: [s],
          });
          const waiting = Math.max(0, Math.min(s, 1000) * mb - s * link) * MB;
          expect(found.endBacklogBytes / MB).toBeCloseTo(waiting / MB, 6);
          // The oldest write that waits came when as much had come as has gone by now.
          expect(found.lagS[0]).toBeCloseTo(waiting > 0 ? s - (s * link) / mb : 0, 6);
        },
      ),
    ));
});

describe('a first copy', () => {
  const wish: FirstCopyWish = {
    method: 'network',
    allocatedBytes: 6e12,
    bandwidthBytesPerS: 80 * MB,
    wireRatio: 0.7,
    classes: [linear(10 * MB)],
    intervalS: 600,
    fixedS: 15,
    scanBytesPerS: 400 * MB,
    diffFraction: 0.05,
    extentBytes: 2 ** 20,
    checksumBytes: 16,
    exportBytesPerS: 300 * MB,
    transitS: 4 * 3600,
    importBytesPerS: 250 * MB,
  };
  const told = (more: Partial<FirstCopyWish>) => {
    const { firstS, rounds, totalS, wireBytes } = value(initialCopy({ ...wish, ...more }));
    return [
      Math.round(firstS),
      rounds.map(({ seconds }) => Math.round(seconds)),
      totalS && Math.round(totalS),
      Math.round(wireBytes / 1e8) / 10,
    ];
  };

  test('over the line, seeded or shipped', () => {
    expect(told({})).toEqual([52_500, [4609, 418], 57_527, 4599.8]);
    expect(told({ method: 'seeded' })).toEqual([15_000, [1328, 131], 16_459, 324.4]);
    expect(told({ method: 'shipped' })).toEqual([58_400, [5125, 463], 63_988, 444.7]);
    expect(reason(initialCopy({ ...wish, method: 'pigeon' as 'network' }))).toBe('initial-method');
  });

  test('that never catches up says so', () => {
    expect(value(initialCopy({ ...wish, classes: [linear(200 * MB)] }))).toMatchObject({
      totalS: null,
      reachesInterval: false,
    });
    expect(value(initialCopy({ ...wish, classes: [linear(200 * MB)] })).rounds).toHaveLength(2);
  });

  test('what both sides keep free', () => {
    const found = value(
      reserves({ classes: [random], cycleS: 900, transferS: 300, outageS: 7200, keptOnTarget: 1, safety: 1.3 }),
    );
    expect(found.sourceBytes / GB).toBeCloseTo(69.8, 1);
    expect(found.targetBytes / GB).toBeCloseTo(113.7, 1);
  });
});
