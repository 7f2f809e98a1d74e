import fc from 'fast-check';
import { rpoCycles } from './cycles';
import { cyclesTogether, type SharingReplication } from './cycles-together';
import { shareLink } from './shares';
import { Steps, type Step } from './steps';

const MB = 1e6;
const always = (bytesPerS: number): Step[] => [{ fromS: 0, bytesPerS }];
/** New data at a steady rate. */
const growing = (bytesPerS: number) => (fromS: number, toS: number) => bytesPerS * (toS - fromS);
const usual: SharingReplication = {
  line: 0,
  weight: 1,
  changed: growing(MB),
  intervalS: 300,
  wireRatio: 1,
  fixedS: 10,
};
const rounded = (rows: readonly { pitS: number; finishS: number | null }[]) =>
  rows.map(({ pitS, finishS }) => [Math.round(pitS * 1e6) / 1e6, finishS && Math.round(finishS * 1e6) / 1e6]);

describe('replications that share lines', () => {
  test('two at once have half of the line each, and the second half of the longer one all of it', () => {
    // At 310 s both begin: 300 MB and 600 MB over 10 MB/s. The first is over after 60 s, of the other 300 MB are left then.
    const [one, two] = cyclesTogether({
      lines: [always(10 * MB)],
      replications: [usual, { ...usual, changed: growing(2 * MB) }],
      horizonS: 450,
    });
    expect(rounded(one!.rows)).toEqual([[300, 370]]);
    expect(rounded(two!.rows)).toEqual([[300, 400]]);
    expect([one!.worstLagS, two!.worstLagS]).toEqual([370, 400]);
  });

  test('weights and caps part the line; what a cap leaves goes to the others', () => {
    const [light, heavy, capped] = cyclesTogether({
      lines: [always(10 * MB)],
      replications: [usual, { ...usual, weight: 3 }, { ...usual, weight: 100, capBytesPerS: 2 * MB }],
      horizonS: 500,
    });
    // 8 MB/s are left beside the capped one: 2 and 6 MB/s; the heavy is over after 50 s, the light has 8 MB/s then for its last 200 MB.
    expect(rounded(heavy!.rows)).toEqual([[300, 360]]);
    expect(rounded(light!.rows)).toEqual([[300, 385]]);
    expect(rounded(capped!.rows)).toEqual([[300, 460]]);
  });

  test('a line that falls away by night makes cycles coalesce, and comes back to step', () => {
    const line = [
      { fromS: 0, bytesPerS: 10 * MB },
      { fromS: 600, bytesPerS: 0 },
      { fromS: 2000, bytesPerS: 10 * MB },
    ];
    const [found] = cyclesTogether({ lines: [line], replications: [{ ...usual, rpoS: 600 }], horizonS: 3600 });
    expect(rounded(found!.rows)).toEqual(
      rounded(
        rpoCycles({
          write: always(MB),
          link: line,
          workingSetBytes: null,
          amplification: 1,
          intervalS: 300,
          wireRatio: 1,
          fixedS: 10,
          horizonS: 3600,
        }).rows,
      ),
    );
    // What was cut at 600 s is over 30 s after the line is back; until then 300 s was the newest.
    expect(found!.worstLagS).toBe(1730);
    expect(found!.lateS).toBeGreaterThan(1000);
  });

  test('cuts keep their phase', () => {
    const cuts = (phaseS: number) =>
      cyclesTogether({ lines: [always(10 * MB)], replications: [{ ...usual, phaseS }], horizonS: 1000 })[0]!.rows.map(
        ({ pitS }) => pitS,
      );
    expect(cuts(0)).toEqual([300, 600, 900]);
    expect(cuts(40)).toEqual([40, 340, 640, 940]);
    expect(cuts(340)).toEqual([40, 340, 640, 940]);
  });

  test('lines know nothing of each other', () => {
    const three = [0, 1, 2].map((line) => ({ ...usual, line }));
    const together = cyclesTogether({ lines: three.map(() => always(2 * MB)), replications: three, horizonS: 3600 });
    const alone = cyclesTogether({ lines: [always(2 * MB)], replications: [usual], horizonS: 3600 });
    expect(together.map(({ rows }) => rows)).toEqual([alone[0]!.rows, alone[0]!.rows, alone[0]!.rows]);
  });
});

const step = fc.record({
  fromS: fc.integer({ min: 0, max: 3000 }),
  bytesPerS: fc.integer({ min: 0, max: 20 }).map((n) => n * MB),
});
const steps = fc.array(step, { minLength: 1, maxLength: 5 }).map((list) => [{ fromS: 0, bytesPerS: 3 * MB }, ...list]);

test('alone on its line it goes as the closed form says', () =>
  fc.assert(
    fc.property(
      steps,
      steps,
      fc.constantFrom(null, 2e9),
      fc.integer({ min: 20, max: 900 }),
      fc.integer({ min: 0, max: 30 }),
      fc.option(fc.integer({ min: 1, max: 15 }), { nil: undefined }),
      (write, line, workingSetBytes, intervalS, fixedS, cap) => {
        const writes = new Steps(write);
        const changed = (fromS: number, toS: number) => {
          const bytes = writes.upTo(toS) - writes.upTo(fromS);
          return workingSetBytes === null ? bytes : workingSetBytes * -Math.expm1(-bytes / workingSetBytes);
        };
        const most = cap === undefined ? Infinity : cap * MB;
        const link = line.map((one) => ({ ...one, bytesPerS: Math.min(one.bytesPerS, most) }));
        const terms = { intervalS, fixedS, wireRatio: 0.7, horizonS: 4000, rpoS: 600, lagAt: [1000, 4000] };
        const closed = rpoCycles({ write, link, workingSetBytes, amplification: 1, ...terms });
        const [found] = cyclesTogether({
          lines: [line],
          replications: [
            {
              ...terms,
              line: 0,
              weight: 2,
              changed,
              ...(cap === undefined ? {} : { capBytesPerS: most }),
            },
          ],
          horizonS: 4000,
          lagAt: terms.lagAt,
        });
        expect(found!.rows).toHaveLength(closed.rows.length);
        for (const [k, row] of closed.rows.entries()) {
          expect(found!.rows[k]!.pitS).toBeCloseTo(row.pitS, 6);
          expect(found!.rows[k]!.wireBytes / MB).toBeCloseTo(row.wireBytes / MB, 4);
          if (row.finishS === null) expect(found!.rows[k]!.finishS).toBeNull();
          else expect(found!.rows[k]!.finishS).toBeCloseTo(row.finishS, 6);
        }
        expect(found!.worstLagS).toBeCloseTo(closed.worstLagS, 6);
        expect(found!.lateS).toBeCloseTo(closed.lateS!, 6);
      },
    ),
  ));

/** A cap that is another in the middle of a cycle, and none at the end. */
const BY_HOURS: Step[] = [
  { fromS: 0, bytesPerS: 5 * MB },
  { fromS: 310, bytesPerS: MB },
  { fromS: 640, bytesPerS: Infinity },
];
const capAt = ({ capBytesPerS = Infinity }: SharingReplication, now: number): number =>
  typeof capBytesPerS === 'number' ? capBytesPerS : new Steps(capBytesPerS).rate(now);

/** The same in small steps of time, each shared by the solver: slow, and what is left of a step in which one ends is lost to the others. */
function bySmallSteps(
  line: readonly Step[],
  replications: readonly SharingReplication[],
  horizonS: number,
  dt: number,
) {
  const through = new Steps(line);
  const state = replications.map(({ intervalS }) => ({
    pit: 0,
    due: intervalS,
    left: 0,
    sends: false,
    rows: [] as number[],
  }));
  for (let n = 0; n * dt <= horizonS; n++) {
    const now = n * dt;
    for (const [k, one] of state.entries()) {
      const { changed, wireRatio, fixedS } = replications[k]!;
      if (!one.sends && now >= one.due - 1e-9) {
        const wire = changed(one.pit, now) * wireRatio;
        Object.assign(one, { pit: now, left: wire, sends: true, due: now + fixedS });
      }
    }
    const flows = state.flatMap((one, k) =>
      one.sends && now >= one.due - 1e-9 && one.left > 0
        ? [{ id: String(k), weight: replications[k]!.weight, cap: capAt(replications[k]!, now) }]
        : [],
    );
    const shares = shareLink({ capacity: through.rate(now), flows });
    if (!shares.ok) throw new Error(shares.reason);
    for (const { id } of flows) state[Number(id)]!.left -= shares.value.alloc[id]! * dt;
    for (const [k, one] of state.entries())
      if (one.sends && now >= one.due - 1e-9 && one.left <= 0) {
        const rate = shares.value.alloc[String(k)];
        const end = now + dt + (rate ? one.left / rate : -dt);
        one.rows.push(end);
        const { intervalS } = replications[k]!;
        const tick = (Math.floor(one.pit / intervalS + 1e-9) + 1) * intervalS;
        Object.assign(one, { sends: false, due: Math.max(tick, end) });
      }
  }
  return state.map(({ rows }) => rows);
}

test('many on one line go as small steps of time have it', () =>
  fc.assert(
    fc.property(
      fc.array(
        fc.record({
          weight: fc.integer({ min: 1, max: 5 }),
          capBytesPerS: fc.constantFrom<number | Step[]>(Infinity, 2 * MB, 5 * MB, BY_HOURS),
          rate: fc.integer({ min: 0, max: 5 }),
          intervalS: fc.constantFrom(60, 120, 300),
          fixedS: fc.constantFrom(0, 5),
        }),
        { minLength: 2, maxLength: 6 },
      ),
      fc.constantFrom(8, 16, 40),
      (made, mb) => {
        // Where the line is full all the time, a lost instant is never made up for, and goes from one to the next.
        fc.pre(made.reduce((sum, one) => sum + one.rate, 0) < 0.4 * mb);
        const line = [
          { fromS: 0, bytesPerS: mb * MB },
          { fromS: 500, bytesPerS: (mb * MB) / 2 },
        ];
        const replications = made.map(({ rate, ...one }) => ({ ...usual, ...one, changed: growing(rate * MB) }));
        const dt = 0.05;
        const slow = bySmallSteps(line, replications, 900, dt);
        const found = cyclesTogether({ lines: [line], replications, horizonS: 900 });
        for (const [k, { rows }] of found.entries()) {
          const ends = rows.flatMap(({ finishS }) => (finishS === null ? [] : [finishS]));
          expect(Math.abs(ends.length - slow[k]!.length)).toBeLessThanOrEqual(1);
          // What the others lose by that adds up where the line is full.
          for (let n = 0; n < Math.min(ends.length, slow[k]!.length); n++)
            expect(Math.abs(ends[n]! - slow[k]![n]!)).toBeLessThan(dt * 10 * (n + 2));
        }
      },
    ),
    { numRuns: 20 },
  ));

test('what a line gave is what was sent over it', () =>
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 8 }), fc.integer({ min: 1, max: 12 }), (count, mb) => {
      const replications = Array.from({ length: count }, (_, k) => ({ ...usual, weight: k + 1, fixedS: 0 }));
      const horizonS = 3000;
      const found = cyclesTogether({ lines: [always(mb * MB)], replications, horizonS });
      const sent = found
        .flatMap(({ rows }) => rows)
        .reduce((sum, row) => sum + (row.finishS === null ? 0 : row.wireBytes), 0);
      expect(sent).toBeLessThanOrEqual(mb * MB * (horizonS - 300) * (1 + 1e-9));
      // New data is sent once: up to the newest point in time that is applied.
      for (const { rows } of found) {
        const done = rows.filter(({ finishS }) => finishS !== null);
        expect(done.reduce((sum, row) => sum + row.changedBytes, 0)).toBeCloseTo((done.at(-1)?.pitS ?? 0) * MB, 0);
      }
    }),
  ));
