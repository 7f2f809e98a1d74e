import { rmSync } from 'node:fs';
import { changed } from '@/core/estate/effects';
import { waterfallParts } from '@/core/space/waterfall';
import { capacitySummary, capacityView, currentFindings, historyOf, PAST_DAYS, poolVolumes } from './capacity';
import { openTrabes, type Trabes } from './instance';
import { changeFault, freeFiles, labView, setContent, setTraffic } from './lab';
import { copyPristine } from './pristine.fixture';
import { Problem } from './problem';

let folder: string;
let trabes: Trabes;
beforeAll(() => {
  const copy = copyPristine();
  folder = copy.folder;
  trabes = openTrabes(copy.file, 'demo');
  trabes.clock.setSpeed(0);
}, 180_000);
afterAll(() => {
  trabes.plant.close();
  rmSync(folder, { recursive: true });
});

const codeOf = async (work: () => unknown): Promise<string> => {
  try {
    await work();
  } catch (error) {
    return error instanceof Problem ? error.code : String(error);
  }
  return 'none';
};
const history = (text: string) => historyOf(trabes.plant, new URLSearchParams(text));
const pools = async () => (await capacityView(trabes.plant)).arrays.flatMap((array) => array.pools);

describe('the capacity of the demo', () => {
  test('adds up over volumes, pools, arrays, sites and workloads, to the byte', async () => {
    const view = await capacityView(trabes.plant);
    const all = await pools();
    for (const part of waterfallParts) {
      const arrays = view.arrays.reduce((sum, array) => sum + array.waterfall[part], 0);
      const sites = view.sites.reduce((sum, site) => sum + site.waterfall[part], 0);
      expect([part, arrays]).toEqual([part, sites]);
      expect([part, arrays]).toEqual([part, all.reduce((sum, pool) => sum + pool.waterfall[part], 0)]);
      const workloads = view.workloads.reduce((sum, row) => sum + row.waterfall[part], 0);
      const volumes = all.reduce(
        (sum, pool) => sum + pool.volumes.reduce((total, one) => total + one.waterfall[part], 0),
        0,
      );
      expect([part, workloads]).toEqual([part, volumes]);
    }
  });

  test('tells its story: a pool that promises 239 per cent and is urgent in 19 days', async () => {
    const tide = (await pools()).find((pool) => pool.name === 'tide')!;
    expect(Math.ceil((tide.promised / tide.size) * 100)).toBe(239);
    const runway = (await capacityView(trabes.plant)).runways.find((one) => one.pool === tide.id)!;
    expect(runway.days.length).toBeGreaterThanOrEqual(120);
    const urgent = runway.marks.find((mark) => mark.percent === 90)!;
    expect(urgent.words).toBe('19 days');
    expect(typeof urgent.answer === 'string' ? null : urgent.answer.low).toBeGreaterThan(0);
  });

  test('is asked for without volumes, and a pool’s volumes alone', async () => {
    expect(
      (await capacitySummary(trabes.plant)).arrays
        .flatMap((array) => array.pools)
        .every((pool) => pool.volumes.length === 0),
    ).toBe(true);
    const [pool] = await pools();
    expect((await poolVolumes(trabes.plant, pool!.id)).volumes).toEqual(pool!.volumes);
    expect(await codeOf(() => poolVolumes(trabes.plant, 'pool_none'))).toBe('pool-unknown');
  });
});

describe('the past', () => {
  test('of one thing by days and hours, of all together by days', async () => {
    const tide = (await pools()).find((pool) => pool.name === 'tide')!;
    const one = history(`of=${tide.id}&days=30`);
    expect(one.days.length).toBeLessThanOrEqual(31);
    expect(one.days.every((day, k) => k === 0 || day.used >= one.days[k - 1]!.used)).toBe(true);
    expect(one.hours.length).toBeGreaterThan(0);
    const all = history('sum=pools');
    expect(all.days.length).toBeGreaterThanOrEqual(PAST_DAYS);
    expect(all.days.at(-1)!.used).toBeGreaterThan(tide.used);
  });
  test.each([
    ['days-wrong', 'days=0'],
    ['days-wrong', 'days=soon'],
    ['sum-wrong', 'sum=shelves'],
  ])('is refused: %s', async (code, text) => expect(await codeOf(() => history(text))).toBe(code));
});

describe('findings', () => {
  test('the planted mistakes are found, and nothing is worked out twice', async () => {
    const found = await currentFindings(trabes.plant);
    for (const check of [
      'pool-oversubscribed',
      'forecast-warning',
      'spare-too-small',
      'drive-predicted-failure',
      'drive-wear-high',
      'group-scrub-overdue',
      'pool-mixed-redundancy',
      'volume-thin-unprotected',
      'single-fabric-host',
      'zone-many-initiators',
      'alias-unused',
      'mtu-differs',
    ])
      expect(found.map((one) => one.check)).toContain(check);
    expect(found.filter((one) => one.severity === 'error').map((one) => one.check)).toEqual([
      'cluster-lun-differs',
      'name-near-miss',
      'replication-lag-over-rpo',
    ]);
    expect(await currentFindings(trabes.plant)).toBe(found);
  });
  test('every mend is an operation that can be prepared', async () => {
    for (const { mend } of await currentFindings(trabes.plant)) {
      if (!mend) continue;
      const codes = (await trabes.changes.preview([{ do: mend.do, ...mend.params }])).refusals.map(
        (refusal) => refusal.code,
      );
      expect([mend.do, codes.filter((code) => code === 'operation-unknown' || code === 'parameter-unknown')]).toEqual([
        mend.do,
        [],
      ]);
    }
  });
  test('they follow the estate', async () => {
    // Four days of cycles to another site and of moves are not what this is about.
    trabes.plant.commit({
      effects: [...trabes.plant.estate.table('wavePlan').values()].map((row) =>
        changed('wavePlan', row, { held: true }),
      ),
    });
    trabes.plant.commit({
      effects: [...trabes.plant.estate.table('replication').values()].map((row) =>
        changed('replication', row, { state: 'paused', carrying: null }),
      ),
    });
    changeFault(trabes.plant, 'drive-failed', 'purlin-1/0:1', false);
    expect((await currentFindings(trabes.plant)).map((one) => one.check)).toContain('group-degraded');
    trabes.clock.advance(4 * 86_400_000);
    expect((await currentFindings(trabes.plant)).map((one) => one.check)).not.toContain('group-degraded');
    expect((await currentFindings(trabes.plant)).map((one) => one.check)).toContain('spare-consumed');
  });
});

describe('the lab', () => {
  test('hosts delete files by name, and are refused in words', async () => {
    expect(freeFiles(trabes.plant, 'gate-1', 'tickets', '20 GiB').deleted).toBe('20 GiB');
    expect(await codeOf(() => freeFiles(trabes.plant, 'gate-1', 'tickets', '20'))).toBe('unit-missing');
    expect(await codeOf(() => freeFiles(trabes.plant, 'gate-9', 'tickets', '20 GiB'))).toBe('host-unknown');
    const had = (await capacityView(trabes.plant)).had.find((row) => row.name === 'tickets')!;
    expect(had).toMatchObject({ what: 'reclaimable', mend: { do: 'volume.reclaim' } });
  });
  test('content is set until a volume is reduced', async () => {
    const content = { family: 'x', zero: 10, common: 50, span: 0, squeeze: 'text' as const, driftDays: 0 };
    expect(setContent(trabes.plant, 'purlin-1', 'camera-02', content).content).toEqual(content);
    expect(await codeOf(() => setContent(trabes.plant, 'purlin-1', 'camera-02', { ...content, zero: 90 }))).toBe(
      'content-impossible',
    );
    expect(await codeOf(() => setContent(trabes.plant, 'purlin-1', 'camera-02', { ...content, family: null }))).toBe(
      'content-impossible',
    );
    expect(await codeOf(() => setContent(trabes.plant, 'lintel-1', 'tickets', content))).toBe('content-reduced');
    expect(await codeOf(() => setContent(trabes.plant, 'lintel-1', 'nobody', content))).toBe('volume-unknown');
  });
  test('jobs are shown with what they are about', async () => {
    changeFault(trabes.plant, 'drive-failed', 'lintel-1/0:6', false);
    const job = labView(trabes.plant).jobs.find((one) => one.kind === 'raid-rebuild')!;
    expect(job).toMatchObject({ array: 'lintel-1', subject: 'rg-1', priority: 'normal' });
    expect(job.rate).toBeGreaterThan(0);
    expect(setTraffic(trabes.plant, 'gate-1', 'tickets', '0').rate).toBe('0 MiB/s');
  });
});
