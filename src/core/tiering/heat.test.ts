import { brokenRules } from '../rules/book';
import { compacted, changed } from '../estate/effects';
import { newIds } from '../estate/new-ids';
import type { Estate } from '../estate/estate';
import { workJob } from '../work/scheduler';
import { poolUsage } from '../pool/usage';
import { carryOut, codesOf, estateAfter, mounted, named, twoTiers } from '../../../demo/workbench';
import { GIB } from '../units/bytes';
import { MINUTE } from '../units/duration';
import { heatMoves, heatPieces } from './heat';

const activity = {
  do: 'volume.activity',
  array: 'lintel-1',
  volumes: ['scanner'],
  kind: 'database',
  reads: 100,
  writes: 10,
};
const place = { do: 'pool.place-by-heat', array: 'lintel-1', name: 'hold' };

/** Flash and disks in one pool; a volume with hot data on the disks, and another that fills the flash and that nobody asks for anything. */
function tiered({ full = false } = {}) {
  const estate = estateAfter(mounted);
  const carve = (name: string, size: string, tier: string) => ({
    do: 'volume.create',
    array: 'lintel-1',
    pool: 'hold',
    name,
    size,
    provisioning: 'thick',
    tier,
  });
  carryOut(estate, [...twoTiers, ...(full ? [carve('idle', '3.6 TiB', 'ssd-nvme')] : [])], 'tiers');
  carryOut(estate, [activity], 'asks');
  const pool = named(estate, 'pool', 'hold');
  estate.apply([changed('volume', named(estate, 'volume', 'scanner'), { written: 40 * GIB })]);
  return { estate, pool };
}

/** Lets the job of a pool come to its end. */
function finish(estate: Estate): string | null {
  let said: string | null = null;
  const newId = newIds('placing');
  for (let turn = 0; turn < 200; turn++) {
    const [job] = [...estate.table('job').values()].filter(({ kind }) => kind === 'pool-place-by-heat');
    if (!job) return said;
    const done = workJob(estate, job, Math.min(job.finishesAt, job.asOf + (job.finishesAt - job.asOf) / 3), newId);
    estate.apply(compacted(done.effects));
    said = done.said;
    expect(brokenRules(estate)).toEqual([]);
  }
  throw new Error('it never ended');
}

const onFlash = (estate: Estate) =>
  heatPieces(estate, named(estate, 'pool', 'hold'))
    .filter(({ tier, heat }) => tier === 0 && heat > 1)
    .reduce((sum, one) => sum + one.count, 0);

test('into free room: what is hot rises, what nobody touches stays, and no extent is lost', () => {
  const { estate, pool } = tiered();
  const used = poolUsage(estate, pool).used;
  const hot = heatMoves(estate, pool);
  expect(hot).toBeGreaterThan(0);
  expect(onFlash(estate)).toBe(0);
  carryOut(estate, [place], 'place');
  expect(codesOf(estate, place)).toEqual(['pool-busy']);
  expect(finish(estate)).toContain('is placed by heat');
  expect(heatMoves(estate, pool)).toBe(0);
  expect(onFlash(estate)).toBe(hot);
  expect(poolUsage(estate, pool).used).toBe(used);
  expect(codesOf(estate, place)).toEqual(['pool-placed']);
});

test('where the fast media are full, cold extents make way for hot ones, two moves an exchange', () => {
  const { estate, pool } = tiered({ full: true });
  const used = poolUsage(estate, pool).used;
  const moves = heatMoves(estate, pool);
  carryOut(estate, [place], 'place');
  finish(estate);
  expect(heatMoves(estate, pool)).toBe(0);
  expect(onFlash(estate)).toBeGreaterThan(0);
  expect(onFlash(estate)).toBeLessThan(moves);
  expect(poolUsage(estate, pool).used).toBe(used);
});

test('a pool of one class has nothing to place', () => {
  const { estate } = tiered();
  expect(codesOf(estate, { ...place, name: 'quay' })).toEqual(['pool-one-class']);
});

test('with a window the work waits for it, ends with it, and goes on in the next', () => {
  const { estate, pool } = tiered({ full: true });
  const window = { do: 'pool.heat-window', array: 'lintel-1', name: 'hold', from: 22, until: 23, rate: '2 MiB/s' };
  carryOut(estate, [window], 'window');
  carryOut(estate, [place], 'place');
  const jobs = () => [...estate.table('job').values()].filter(({ kind }) => kind === 'pool-place-by-heat');
  const [job] = jobs();
  expect(new Date(job!.startedAt).getUTCHours()).toBe(22);
  const before = onFlash(estate);
  const newId = newIds('window');
  const due = workJob(estate, job!, job!.startedAt + 30 * MINUTE, newId);
  estate.apply(compacted(due.effects));
  expect(onFlash(estate)).toBeGreaterThan(before);
  const rest = heatMoves(estate, named(estate, 'pool', 'hold'));
  expect(rest).toBeGreaterThan(0);
  const over = workJob(estate, jobs()[0]!, job!.startedAt + 60 * MINUTE, newId);
  estate.apply(compacted(over.effects));
  expect(over.said).toMatch(/the window for moves is over; .* move in the next/);
  expect(jobs()).toHaveLength(1);
  expect(jobs()[0]!.startedAt).toBe(job!.startedAt + 24 * 60 * MINUTE);
  expect(heatMoves(estate, named(estate, 'pool', 'hold'))).toBe(rest);
  expect(brokenRules(estate)).toEqual([]);
  expect(pool.id).toBe(jobs()[0]!.pool);
});
