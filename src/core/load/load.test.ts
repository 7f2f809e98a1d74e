import { withinMeasured } from './measured';
import { backend } from './backend';
import { blame } from './blame';
import { fluidBurst } from './burst';
import { readHit } from './cache';
import { volumeHeadroom } from './headroom';
import { bucketOf, histogramQuantile, mergedHistogram } from './histogram';
import { mixture, path, type Stage } from './path';
import { exactQuantile } from './percentile';
import { ggc, mg1, mmc } from './queue';
import { rollup } from './rollup';
import { serve } from './serve';
import { randomFrom } from '../estate/random';

/** The value, to so many significant digits as the reference prints. */
const near = (value: unknown, expected: number, relative = 5e-4) => {
  expect(Math.abs((value as number) - expected)).toBeLessThanOrEqual(Math.abs(expected) * relative);
};

describe('back end', () => {
  const asked = { readIops: 8000, writeIops: 3000, readHit: 0.6, writeCoalesce: 0.2 };
  const six = { ...asked, scheme: 'parity' as const, data: 6, parity: 2 };

  test('examples of the reference', () => {
    const whole = backend(six);
    if (!whole.ok) throw new Error('lost');
    near(whole.readOps, 3200, 1e-9);
    near(whole.writeOps, 14_400, 1e-9);
    near(whole.totalOps, 17_600, 1e-9);
    const lost = backend({ ...six, failed: 1 });
    if (!lost.ok) throw new Error('whole');
    near(lost.readOps, 5200, 1e-9);
    near(lost.writeOps, 13_500, 1e-9);
    const rebuilt = backend({ ...six, failed: 1, fullStripeFraction: 0.25, rebuildExtentsPerS: 40 });
    if (!rebuilt.ok) throw new Error('whole');
    near(rebuilt.writeOps, 10_825, 1e-9);
    expect(rebuilt.rebuildOps).toBe(280);
    near(rebuilt.totalOps, 16_305, 1e-9);
    expect(
      backend({ ...asked, scheme: 'mirror', data: 3, parity: 0, failed: 1, rebuildExtentsPerS: 40 }),
    ).toMatchObject({
      readOps: 3200,
      writeOps: 4800,
      rebuildOps: 80,
      totalOps: 8080,
    });
  });

  test('more failures than the scheme survives', () => {
    expect(backend({ ...asked, scheme: 'mirror', data: 2, parity: 0, failed: 2 })).toMatchObject({
      ok: false,
      code: 'pool-protection-lost',
    });
    expect(backend({ ...six, failed: 3 }).ok).toBe(false);
  });
});

test('cache', () => near(readHit({ hMax: 0.95, cacheBytes: 64, workingSetBytes: 400 }), 0.38));

describe('queues', () => {
  test('M/M/c', () => {
    const two = mmc({ arrivalsPerS: 2400, serviceS: 5e-4, servers: 2, percentiles: [95, 99.9] });
    if (two.saturated) throw new Error('saturated');
    near(two.rho, 0.6, 1e-12);
    near(two.pWait, 0.45, 1e-12);
    near(two.waitS, 281.25e-6, 1e-12);
    near(two.responseS, 781.25e-6, 1e-12);
    near(two['responseP95'], 2.217e-3);
    near(two['responseP99.9'], 4.77e-3);
    near(two['waitP95'], 1.373e-3);
    const three = mmc({ arrivalsPerS: 2400, serviceS: 8e-4, servers: 3 });
    if (three.saturated) throw new Error('saturated');
    near(three.pWait, 0.4076);
    near(three.responseS, 1.102e-3);
  });

  test('d = 0 has a form of its own, which joins the others', () => {
    const at = (arrivalsPerS: number) => {
      const answer = mmc({ arrivalsPerS, serviceS: 1e-3, servers: 2, percentiles: [95] });
      return answer.saturated ? NaN : answer['responseP95']!;
    };
    near(at(1000), at(1000 * (1 + 1e-6)), 1e-5);
  });

  test('saturated from each of the three', () => {
    const full = { saturated: true, rho: 1.25, servedPerS: 4000, unservedPerS: 1000 };
    expect(mmc({ arrivalsPerS: 5000, serviceS: 5e-4, servers: 2 })).toEqual(full);
    expect(ggc({ arrivalsPerS: 5000, serviceS: 5e-4, servers: 2, arrivalScv: 1, serviceScv: 1 })).toEqual(full);
    expect(mg1({ arrivalsPerS: 1250, serviceS: 1e-3, scv: 1 })).toMatchObject({ saturated: true, unservedPerS: 250 });
  });

  test('M/G/1 and G/G/c', () => {
    const one = mg1({ arrivalsPerS: 700, serviceS: 1e-3, scv: 0.5 });
    if (one.saturated) throw new Error('saturated');
    near(one.waitS, 1.75e-3, 1e-9);
    const three = ggc({ arrivalsPerS: 2400, serviceS: 8e-4, servers: 3, arrivalScv: 2, serviceScv: 0.6 });
    if (three.saturated) throw new Error('saturated');
    near(three.responseS, 1.192e-3);
  });
});

describe('the way of an I/O', () => {
  const stage = (id: string, visits: number, serviceS: number, servers: number, more: Partial<Stage> = {}): Stage => ({
    id,
    visits,
    serviceS,
    servers,
    arrivalScv: 1,
    serviceScv: 1,
    ...more,
  });
  const port = stage('port', 1, 20e-6, 1);
  const controller = stage('controller', 1, 150e-6, 8, { otherPerS: 12_000 });
  const media = stage('media', 0.4, 6e-3, 24, { serviceScv: 0.4, fixedS: 50e-6 });

  test('one path, and the same as two kinds of I/O', () => {
    const one = path({ arrivalsPerS: 6000, stages: [port, controller, media], percentiles: [50, 95, 99] });
    if (one.saturated) throw new Error('saturated');
    expect(one.stages.map(({ rho }) => Math.round(rho * 1e4) / 1e4)).toEqual([0.12, 0.3375, 0.6]);
    near(one.meanS, 2.595e-3);
    near(one['p50'], 1.459e-3);
    near(one['p95'], 8.527e-3);
    near(one['p99'], 17.72e-3);
    const hit = path({ arrivalsPerS: 6000, stages: [port, controller] });
    const miss = path({
      arrivalsPerS: 2400,
      stages: [
        { ...port, otherPerS: 3600 },
        { ...controller, otherPerS: 15_600 },
        { ...media, visits: 1 },
      ],
    });
    if (hit.saturated || miss.saturated) throw new Error('saturated');
    near(hit.meanS, 0.1729e-3);
    near(hit.varianceS2, 2.303e-8);
    near(miss.meanS, 6.229e-3);
    near(miss.varianceS2, 1.443e-5);
    const both = mixture({
      classes: [
        { share: 0.6, ...hit },
        { share: 0.4, ...miss },
      ],
      percentiles: [50, 95],
    });
    near(both.meanS, 2.595e-3);
    near(both['p50'], 0.27e-3, 2e-3);
    near(both['p95'], 10.16e-3);
  });

  test('mixture of shares 3:1', () => {
    const both = mixture({
      classes: [
        { share: 3, meanS: 0.4e-3, varianceS2: 4e-8 },
        { share: 1, meanS: 6e-3, varianceS2: 1.6e-5 },
      ],
      percentiles: [50, 95],
    });
    near(both.meanS, 1.8e-3);
    near(both['p50'], 0.438e-3, 2e-3);
    near(both['p95'], 8.317e-3);
  });

  test('the first saturated stage is named', () => {
    expect(path({ arrivalsPerS: 60_000, stages: [port, controller, media] })).toMatchObject({
      saturated: true,
      stage: 'port',
    });
  });
});

describe('who gets how much', () => {
  test('the example', () => {
    const answer = serve({
      resources: { a: 1, quay: 7020, port: 1200 },
      volumes: [
        { id: 'cargo-data', iops: 6000, uses: { a: 1e-4, quay: 1.2, port: 0.05 } },
        { id: 'tickets', iops: 4000, uses: { a: 1e-4, quay: 0.9, port: 0.02 } },
        { id: 'radar-1', iops: 5000, uses: { a: 0.8e-4, port: 0.2 } },
      ],
    });
    near(answer.servedIops['cargo-data'], 3900, 1e-9);
    near(answer.servedIops['tickets'], 2600, 1e-9);
    near(answer.servedIops['radar-1'], 4375, 1e-9);
    expect(answer.boundBy).toEqual({ 'cargo-data': 'quay', tickets: 'quay', 'radar-1': 'a' });
    near(answer.used['a'], 1, 1e-9);
    near(answer.used['quay'], 7020, 1e-9);
    near(answer.used['port'], 1122, 1e-9);
  });

  test('nothing binds, nothing is asked, and of several full at once the lowest id', () => {
    const uses = { b: 1, a: 1 };
    expect(serve({ resources: { a: 10, b: 10 }, volumes: [{ id: 'v', iops: 10, uses }] }).boundBy['v']).toBeNull();
    expect(serve({ resources: { b: 10, a: 10 }, volumes: [{ id: 'v', iops: 20, uses }] }).boundBy['v']).toBe('a');
    expect(serve({ resources: { a: 10 }, volumes: [{ id: 'v', iops: 0, uses: { a: 1 } }] }).servedFraction['v']).toBe(
      1,
    );
  });

  test('what is served never exceeds a capacity, and whoever is cut meets one that is full', () => {
    for (let seed = 1; seed <= 200; seed++) {
      const random = randomFrom(`serve ${seed}`);
      const ids = ['a', 'b', 'c', 'd'];
      const resources = Object.fromEntries(ids.map((id) => [id, 1 + random() * 100]));
      const volumes = Array.from({ length: 8 }, (_, k) => ({
        id: `v${k}`,
        iops: random() * 50,
        uses: Object.fromEntries(ids.filter(() => random() < 0.5).map((id) => [id, random()])),
      }));
      const { used, boundBy, servedFraction } = serve({ resources, volumes });
      for (const id of ids) expect(used[id]!).toBeLessThanOrEqual(resources[id]! * (1 + 1e-9));
      for (const { id } of volumes)
        if (servedFraction[id]! < 1) near(used[boundBy[id]!], resources[boundBy[id]!]!, 1e-9);
    }
  });
});

test('headroom of a volume', () =>
  near(
    volumeHeadroom({
      resources: [
        { rho: 0.45, own: 0.1, rhoLimit: 0.6 },
        { rho: 0.5, own: 0.05 },
      ],
    }).factor,
    2.5,
    1e-9,
  ));

describe('neighbours and bursts', () => {
  const volumes = { tickets: 2500, 'stores-1': 4000, 'radar-1': 1500, berths: 500 };

  test('who adds what', () => {
    const answer = blame({ serviceS: 4e-4, servers: 4, volumes, victim: 'tickets' });
    near(answer.responseS, 859.5e-6);
    near(answer.addedS['stores-1'], 436.2e-6);
    near(answer.share!['stores-1'], 0.477, 1e-3);
    near(answer.share!['radar-1'], 0.346, 2e-3);
    near(answer.share!['berths'], 0.176, 3e-3);
    expect(answer.addedS['tickets']).toBeUndefined();
  });

  test('saturated: nothing can be shared out', () => {
    expect(blame({ serviceS: 4e-4, servers: 4, volumes: { ...volumes, 'stores-1': 7000 }, victim: 'tickets' })).toEqual(
      {
        responseS: null,
        addedS: { 'stores-1': null, 'radar-1': null, berths: null },
        share: null,
      },
    );
  });

  test('a burst that the mean hides', () => {
    const answer = fluidBurst({ capacityPerS: 20_000, baseIops: 6000, burstIops: 45_000, burstS: 0.5, windowS: 5 });
    near(answer.windowMeanIops, 9900, 1e-9);
    near(answer.meanUtilisation, 0.495, 1e-9);
    near(answer.peakBacklog, 12_500, 1e-9);
    near(answer.worstDelayS, 0.625, 1e-9);
    near(answer.drainS, 0.893, 1e-3);
    expect(fluidBurst({ capacityPerS: 10, baseIops: 10, burstIops: 20, burstS: 1, windowS: 5 }).drainS).toBeNull();
    expect(fluidBurst({ capacityPerS: 50, baseIops: 10, burstIops: 20, burstS: 1, windowS: 5 }).drainS).toBe(0);
  });
});

describe('telemetry', () => {
  test('latency is weighted by I/O, and idle samples say nothing of it', () => {
    expect(
      rollup({
        samples: [
          { iops: 1200, latencyS: 8e-4, bytesPerS: 0 },
          { iops: 0, latencyS: 9, bytesPerS: 0 },
          { iops: 4800, latencyS: 3e-3, bytesPerS: 0 },
        ],
      }),
    ).toEqual({ iopsMean: 2000, iopsMax: 4800, bytesPerSMean: 0, latencyMeanS: 2.56e-3, latencyMaxS: 3e-3 });
    expect(rollup({ samples: [{ iops: 0, latencyS: 1, bytesPerS: 0 }] }).latencyMeanS).toBeNull();
  });

  test('quantile of merged histograms', () => {
    const answer = histogramQuantile({
      histograms: [
        { 0: 20, 12: 100 },
        { 12: 30, 30: 40, 45: 10 },
      ],
      gamma: 1.1,
      firstS: 1e-4,
      q: 0.95,
    });
    expect(answer.bucket).toBe(30);
    near(answer.valueS, 1.664e-3);
    expect(histogramQuantile({ histograms: [{}], gamma: 1.1, firstS: 1e-4, q: 0.5 })).toEqual({
      valueS: null,
      bucket: null,
    });
  });

  test('merging is free of order, and the error stays within √γ − 1', () => {
    const random = randomFrom('histograms');
    for (let round = 0; round < 50; round++) {
      const values = Array.from({ length: 200 }, () => 1e-4 * Math.exp(random() * 8));
      const parts = [values.slice(0, 70), values.slice(70, 71), values.slice(71)].map((some) => {
        const counts: Record<string, number> = {};
        for (const value of some) {
          const bucket = bucketOf(value, 1.1, 1e-4);
          counts[bucket] = (counts[bucket] ?? 0) + 1;
        }
        return counts;
      });
      expect(mergedHistogram([parts[2]!, parts[0]!, parts[1]!])).toEqual(mergedHistogram(parts));
      for (const q of [0.5, 0.95, 0.99]) {
        const exact = exactQuantile({ values, q }).value!;
        const { valueS } = histogramQuantile({ histograms: parts, gamma: 1.1, firstS: 1e-4, q });
        expect(Math.abs(valueS! / exact - 1)).toBeLessThanOrEqual(Math.sqrt(1.1) - 1 + 1e-9);
      }
    }
  });
});

describe('withinMeasured', () => {
  const asked = (measuredRho: number, wantRho: number) =>
    withinMeasured({ resource: 'lintel-1 b', measuredRho, wantRho });

  test.each([
    [0.5, 0.6],
    [0.5, 0.2],
    [0, 0.1],
    [0.95, 1.05],
  ])('what was measured up to %s tells of %s', (measured, want) =>
    expect(asked(measured, want)).toMatchObject({ ok: true, value: want }),
  );

  test('beyond a tenth above it is a guess', () =>
    expect(asked(0.42, 0.95)).toMatchObject({
      reason: 'load-not-measured',
      message: 'lintel-1 b was never measured above 42 %; this forecast needs 95 %.',
    }));
});
