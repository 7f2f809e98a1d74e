import { randomFrom } from '../estate/random';
import { serve } from '../load/serve';
import { waterFill } from '../qos/water-fill';
import { HOUR } from '../units/duration';
import { Book } from './book';
import { BUCKETS, SLOTS_AN_HOUR } from './choices';
import { Course } from './course';
import type { Listener, VolumeFigures } from './figures';
import { hadBeen } from './had-been';
import { oneSlot } from './one-slot';
import { burstAt, burstsOf } from './profile';
import { addRow, emptyRow, mergedRows, packRow, quantileOf, unpackRow, type LoadRow } from './row';
import { limit, madeUp, model, volume } from './models.fixture';
import { limitedAt, solveLimit } from './solve-limit';
import { spread } from './spread';
import { topOf, type LoadSummary } from './top';
import { correlation, whyAt } from './why';

describe('what is done', () => {
  test('without floors and weights it is `serve`', () => {
    for (let seed = 1; seed <= 100; seed++) {
      const made = madeUp(`serve ${seed}`);
      const slot = 12_345_678;
      const { volumes } = oneSlot(made, slot);
      const answer = serve({
        resources: Object.fromEntries(made.resources.map(({ id, capacity }) => [id, capacity])),
        volumes: made.volumes.map(({ id, uses }, k) => ({
          id,
          iops: volumes[k]!.asked,
          uses: Object.fromEntries(uses.map(({ resource, read }) => [`r${resource}`, read])),
        })),
      });
      made.volumes.forEach(({ id }, k) => {
        expect(volumes[k]!.served).toBeCloseTo(answer.servedIops[id]!, 6);
        expect(volumes[k]!.boundBy < 0 ? null : `r${volumes[k]!.boundBy}`).toBe(answer.boundBy[id]);
      });
    }
  });

  test('floors are served first, and weight gets the rest', () => {
    const both = model(
      [100],
      [volume('a', 100, [[0, 1]]), volume('b', 100, [[0, 1]])],
      [
        limit([{ volume: 0, iops: null, floor: 70 }], { id: 'promise' }),
        limit([{ volume: 1, iops: null, floor: null }], { id: 'heavy', weight: 2 }),
      ],
    );
    const { volumes } = oneSlot(both, 0);
    expect(volumes[0]!.served).toBeGreaterThanOrEqual(70);
    expect(volumes[0]!.served + volumes[1]!.served).toBeCloseTo(100, 6);
    const equal = oneSlot(model([100], both.volumes), 0).volumes;
    expect(equal[0]!.served).toBeCloseTo(50, 6);
  });

  test('a weight below 1 gives way, and promises hold in their hours alone', () => {
    const volumes = [volume('a', 100, [[0, 1]]), volume('b', 100, [[0, 1]])];
    const light = limit([{ volume: 0, iops: null, floor: null }], { weight: 0.5 });
    const { volumes: shared } = oneSlot(model([90], volumes, [light]), 0);
    expect(shared[0]!.served).toBeCloseTo(30, 6);
    expect(shared[1]!.served).toBeCloseTo(60, 6);
    const morning = limit([{ volume: 0, iops: null, floor: 80 }], { fromHour: 6, untilHour: 12 });
    const servedAt = (hour: number) =>
      oneSlot(model([90], volumes, [morning]), hour * SLOTS_AN_HOUR).volumes[0]!.served;
    expect(servedAt(7)).toBeGreaterThan(80);
    expect(servedAt(13)).toBeCloseTo(45, 6);
  });

  test('what is asked is done, waits, or is given up: nothing else', () => {
    for (let seed = 1; seed <= 40; seed++) {
      const made = madeUp(`kept ${seed}`);
      made.limits.push(limit([{ volume: 0, iops: 30, floor: null }], { burst: 500 }));
      const course = new Course(made, 0);
      const sums = made.volumes.map(() => ({ asked: 0, served: 0, refused: 0 }));
      let over = 0;
      const listener: Listener = {
        volume(k, from, to, f) {
          const seconds = (to - from) * 5;
          sums[k]!.asked += f.asked * seconds;
          sums[k]!.served += f.served * seconds;
          sums[k]!.refused += f.refused * seconds;
        },
        resource(k, _from, _to, used) {
          over = Math.max(over, used / made.resources[k]!.capacity);
        },
      };
      course.run(2 * SLOTS_AN_HOUR, listener);
      const { queued, tokens } = course.state();
      made.volumes.forEach(({ id }, k) => {
        const { asked, served, refused } = sums[k]!;
        expect(Math.abs(asked - served - refused - (queued[id] ?? 0))).toBeLessThan(1e-4 * (1 + asked));
      });
      expect(over).toBeLessThanOrEqual(1 + 1e-6);
      for (const one of Object.values(tokens)) expect(one).toBeGreaterThanOrEqual(0);
    }
  });
});

describe('time', () => {
  test('a course in pieces is the course in one, whatever waits at the seams', () => {
    const made = madeUp('pieces');
    made.limits.push(limit([{ volume: 0, iops: 20, floor: null }], { burst: 300 }));
    const hour = (run: (book: Book) => void) => {
      const book = new Book(0, 60, 24).by(made);
      run(book);
      return [...book.all()].map(({ subject, parts }) => ({ subject, row: mergedRows(parts) }));
    };
    const whole = hour((book) => new Course(made, 0).run(1440, book));
    const pieces = hour((book) => {
      let state;
      let at = 0;
      for (const until of [100, 101, 720, 733, 1440]) {
        const course: Course = new Course(made, at, state);
        course.run(until, book);
        state = course.state();
        at = until;
      }
    });
    for (const [k, { subject, row }] of whole.entries()) {
      expect(pieces[k]!.subject).toBe(subject);
      for (const field of ['asked', 'served', 'refused', 'bytes', 'mostIops', 'mostQueue', 'used'] as const)
        expect(pieces[k]!.row[field]).toBeCloseTo(row[field], 3);
    }
  });

  test('an hour keeps its mean, whatever bursts in it', () => {
    const bursty = burstsOf({ burst: 30, burstSeconds: 10, burstsAnHour: 6 });
    const made = model([1e9], [volume('a', 1000, [[0, 1]], { bursts: bursty })]);
    const book = new Book(0, SLOTS_AN_HOUR, 1).by(made);
    new Course(made, 0).run(SLOTS_AN_HOUR, book);
    const row = [...book.all()].find(({ subject }) => subject === 'a')!.parts[0]!;
    expect(row.asked / 3600).toBeCloseTo(1000, 6);
    expect(row.mostIops).toBeCloseTo(30_000, 6);
  });

  test('bursts begin and end where they say', () => {
    const bursts = burstsOf({ burst: 5, burstSeconds: 15, burstsAnHour: 4 });
    for (let slot = 0; slot < 2000; slot++) {
      const { on, until } = burstAt(bursts, 99, slot);
      expect(until).toBeGreaterThan(slot);
      expect(burstAt(bursts, 99, until - 1).on).toBe(on);
      if (until < 1e9) expect(burstAt(bursts, 99, until).on || burstAt(bursts, 99, until).until > until).toBe(true);
    }
  });

  test('limits hold in their hours, over midnight too', () => {
    const night = limit([{ volume: 0, iops: 10, floor: null }], { fromHour: 22, untilHour: 5 });
    const made = model([1e9], [volume('a', 100, [[0, 1]])], [night]);
    const servedAt = (hour: number) => oneSlot(made, hour * SLOTS_AN_HOUR).volumes[0]!.served;
    expect(servedAt(23)).toBeCloseTo(10, 6);
    expect(servedAt(3)).toBeCloseTo(10, 6);
    expect(servedAt(5)).toBeCloseTo(100, 6);
  });

  test('a shared limit is shared by weight; the tightest applies', () => {
    const made = model(
      [1e9],
      [volume('a', 1000, [[0, 1]]), volume('b', 1000, [[0, 1]])],
      [
        limit(
          [
            { volume: 0, iops: 600, floor: null },
            { volume: 1, iops: 600, floor: null },
          ],
          { id: 'both', shared: true, together: 600 },
        ),
        limit([{ volume: 1, iops: 100, floor: null }], { id: 'one' }),
      ],
    );
    const { volumes } = oneSlot(made, 0);
    const filled = waterFill({
      capacity: 600,
      items: [
        { id: 'a', weight: 1, demand: 1000 },
        { id: 'b', weight: 1, demand: 100 },
      ],
    });
    if (!filled.ok) throw new Error(filled.refusal.code);
    expect(volumes[0]!.served).toBeCloseTo(filled.alloc['a']!, 6);
    expect(volumes[1]!.served).toBeCloseTo(100, 6);
    expect(volumes.map(({ limited }) => limited)).toEqual([true, true]);
  });

  test('what is saved up is spent at once, and then the limit holds', () => {
    const made = model(
      [1e9],
      [volume('a', 100, [[0, 1]])],
      [limit([{ volume: 0, iops: 40, floor: null }], { burst: 600 })],
    );
    const seen: VolumeFigures[] = [];
    new Course(made, 0).run(8, {
      volume: (_, from, to, figures) => {
        for (let slot = from; slot < to; slot++) seen[slot] = figures;
      },
      resource: () => undefined,
    });
    expect(seen[0]!.served).toBeCloseTo(100, 6);
    expect(seen[0]!.limited).toBe(false);
    expect(seen[7]!.served).toBeCloseTo(40, 6);
    expect(seen[7]!.limited).toBe(true);
  });
});

describe('rows', () => {
  const row = (seed: string): LoadRow => {
    const random = randomFrom(seed);
    const one = emptyRow();
    Object.assign(one, {
      slots: 12,
      asked: 5,
      served: 4,
      mostIops: random() * 9,
      mostIopsAt: Math.floor(random() * 99),
    });
    spread(one.counts, 100, 1e-3 * (1 + random()), 1e-6 * random());
    return one;
  };

  test('they add up in any order, and read back as they were written', () => {
    const rows = ['a', 'b', 'c'].map(row);
    const [one, other] = [mergedRows(rows), mergedRows([...rows].reverse())];
    expect({ ...one, counts: [] }).toEqual({ ...other, counts: [] });
    one.counts.forEach((n, k) => expect(n).toBeCloseTo(other.counts[k]!, 9));
    const back = unpackRow(packRow(one));
    expect({ ...back, counts: [] }).toEqual({ ...one, counts: [] });
    expect(quantileOf(back, 0.95)).toBe(quantileOf(one, 0.95));
    expect(() => unpackRow(new Uint8Array(3))).toThrow('too short');
    const sum = emptyRow();
    addRow(sum, one);
    expect(sum.slots).toBe(36);
  });

  test('what is spread over buckets is all there, about its mean', () => {
    for (const [mean, variance] of [
      [1e-3, 1e-6],
      [2e-5, 0],
      [9, 4],
    ] as const) {
      const counts = new Float64Array(BUCKETS);
      spread(counts, 1000, mean, variance);
      expect(counts.reduce((sum, n) => sum + n, 0)).toBeCloseTo(1000, 6);
    }
  });
});

describe('why, and what would cure it', () => {
  const noisy = () =>
    model([100], [volume('victim', 10, [[0, 1]]), volume('noisy', 85, [[0, 1]]), volume('far', 5, [])], []);

  test('the neighbour that adds most comes first; who shares nothing is not named', () => {
    const why = whyAt(noisy(), 0, 'victim')!;
    expect(why.neighbours.map(({ id }) => id)).toEqual(['noisy']);
    expect(why.neighbours[0]!.share).toBe(1);
    expect(why.resources[0]).toMatchObject({ rho: 0.95, own: 0.1 });
    expect(whyAt(noisy(), 0, 'nobody')).toBeNull();
  });

  test('the proposed limit keeps the target, and a little more would not', () => {
    const made = noisy();
    const free = whyAt(made, 0, 'victim')!.p95S;
    const target = free * 0.5;
    const proposal = solveLimit(made, 0, { x: 'noisy', y: 'victim', targetS: target });
    if (!proposal?.ok) throw new Error('no proposal');
    expect(proposal.p95S).toBeLessThanOrEqual(target * (1 + 1e-9));
    const more = whyAt(limitedAt(made, 1, proposal.iops * 1.1), 0, 'victim')!;
    expect(more.p95S).toBeGreaterThan(target);
    expect(solveLimit(made, 0, { x: 'noisy', y: 'victim', targetS: 1e-7 })).toMatchObject({
      code: 'qos-target-missed-without-x',
    });
    expect(solveLimit(made, 0, { x: 'noisy', y: 'victim', targetS: 9 })).toMatchObject({ code: 'qos-target-met' });
  });

  test('a span as it would have been: without a change it is as it was', () => {
    const made = noisy();
    const basis = [{ at: 0, model: made, state: { queued: {}, tokens: {} } }];
    const asked = { from: 0, to: HOUR, volume: 'noisy', replaces: null, keep: () => true, points: 60 };
    const was = hadBeen(basis, asked, null);
    const same = hadBeen(basis, asked, { label: 'none', iops: null, burst: 0 });
    expect(same.whole.get('victim')!.mostLatency).toBe(was.whole.get('victim')!.mostLatency);
    const limited = hadBeen(basis, asked, { label: 'half', iops: 40, burst: 0 });
    expect(limited.heldSlots).toBe(720);
    expect(limited.whole.get('victim')!.mostLatency).toBeLessThan(was.whole.get('victim')!.mostLatency);
  });

  test('correlation', () => {
    expect(correlation([1, 2, 3], [2, 4, 6])).toBeCloseTo(1, 12);
    expect(correlation([1, 2, 3], [3, 2, 1])).toBeCloseTo(-1, 12);
    expect(correlation([1, 1], [2, 3])).toBe(0);
    expect(correlation([0.1 + 0.2, 0.3], [2, 3])).toBe(0);
  });
});

test('top five: by the mean and by the greatest five seconds, ties by id, as sorting gives', () => {
  const random = randomFrom('top');
  const rows = Array.from({ length: 500 }, (_, k): LoadSummary => {
    const iops = Math.floor(random() * 40);
    return {
      id: `v${String(k).padStart(3, '0')}`,
      name: '',
      of: '',
      fullness: random(),
      iops,
      mostIops: iops * random() * 10,
      mostIopsAt: 0,
      latencyS: random(),
      p95S: random(),
      mostLatencyS: random(),
      mostLatencyAt: 0,
      bytesPerS: 1,
      mostBytesPerS: 1,
      unserved: 0,
      mostUnserved: 0,
      mostQueue: 0,
      held: 0,
    };
  });
  const sorted = [...rows].sort((a, b) => b.iops - a.iops || (a.id < b.id ? -1 : 1)).slice(0, 5);
  expect(topOf(rows, 'iops', 'mean')).toEqual(sorted);
  expect(topOf(rows, 'unserved', 'most')).toEqual([]);
});
