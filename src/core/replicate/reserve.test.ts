import type { OperationDocument } from '../change/registry';
import { writingOf } from '../copies/writing';
import { planChange } from '../change/plan';
import { changed } from '../estate/effects';
import { lookUp } from '../operation/inquiry';
import { keptForCopies } from '../pool/kept';
import { availableExtents, poolUsage } from '../pool/usage';
import { brokenRules } from '../rules/book';
import { DAY, HOUR, MINUTE } from '../units/duration';
import { copying, elsewhere, replicate } from '../../../demo/replicated';
import { stage, type Stage } from '../../../demo/protected';
import { basis, named } from '../../../demo/workbench';
import { bytesAtRisk } from './carry';
import { keptBytes, reservesOf } from './reserve';

const row = ({ estate }: Stage) => lookUp(estate, 'replication', 'Ticketing')!;
const pool = (at: Stage, array: string) => lookUp(at.estate, 'pool', 'quay', named(at.estate, 'array', array).id)!;
const left = (at: Stage, array: string) => availableExtents(at.estate, pool(at, array));
const refusals = (at: Stage, operation: OperationDocument) =>
  planChange(at.estate, [operation], { ...basis, now: at.now, seed: 'asked' }).refusals;

test('what is kept back is free no more, at either side, and all figures say so', () => {
  const at = stage(...elsewhere);
  const before = { here: left(at, 'lintel-1'), there: left(at, 'lintel-2') };
  at.run({ ...replicate, sourceReserve: 3, targetReserve: 5 });
  for (const [array, percent, was] of [
    ['lintel-1', 3, before.here],
    ['lintel-2', 5, before.there],
  ] as const) {
    const { capacity, available } = poolUsage(at.estate, pool(at, array));
    expect(keptForCopies(at.estate, pool(at, array).id, capacity)).toBe(Math.ceil((capacity * percent) / 100));
    expect(available).toBe(left(at, array));
    expect(was - left(at, array)).toBe(Math.ceil((capacity * percent) / 100));
  }
  at.run({ do: 'replication.configure', replication: 'Ticketing', sourceReserve: 0, targetReserve: 0 });
  expect(row(at).reserves).toEqual([]);
  expect(left(at, 'lintel-1')).toBe(before.here);
  expect(brokenRules(at.estate)).toEqual([]);
});

test('too much is refused with what would fit, and that fits', () => {
  const at = stage(...elsewhere);
  at.estate.apply([changed('pool', pool(at, 'lintel-1'), { reserve: 50 })]);
  const [refusal] = refusals(at, { ...replicate, sourceReserve: 50 });
  expect(refusal).toMatchObject({ code: 'reserve-does-not-fit', field: 'sourceReserve', subject: { name: 'quay' } });
  const most = Number(/at most (\d+) %/.exec(refusal!.message)![1]);
  expect(refusals(at, { ...replicate, sourceReserve: most })).toEqual([]);
  expect(refusals(at, { ...replicate, sourceReserve: most + 1 }).map(({ code }) => code)).toEqual([
    'reserve-does-not-fit',
  ]);
});

test('cycles may use what is kept for them, where others may not', () => {
  const at = stage(...elsewhere);
  at.run({ ...replicate, targetReserve: 20 });
  const target = pool(at, 'lintel-2');
  const { available } = poolUsage(at.estate, target);
  // Somebody takes all that is left.
  at.run({
    do: 'volume.create',
    array: 'lintel-2',
    pool: 'quay',
    name: 'ballast',
    size: `${available * target.extentSize} B`,
    provisioning: 'thick',
  });
  expect(left(at, 'lintel-2')).toBe(0);
  at.pass(HOUR);
  expect(row(at)).toMatchObject({ state: 'protected', reason: '' });
});

test('what outgrows the reserve of the source is compared whole', () => {
  const at = copying();
  at.pass(HOUR);
  at.estate.apply([changed('siteLink', named(at.estate, 'siteLink', 'dark fibre'), { state: 'down' })]);
  at.pass(DAY);
  const risk = bytesAtRisk(at.estate, row(at), at.now);
  const size = pool(at, 'lintel-1');
  const percent = (risk / 2 / poolUsage(at.estate, size).size) * 100;
  at.estate.apply([
    changed('replication', row(at), {
      reservePools: [size.id, pool(at, 'lintel-2').id],
      reserves: [percent, 0],
    }),
  ]);
  expect(keptBytes(at.estate, row(at)).source).toBeLessThan(risk);
  at.estate.apply([changed('siteLink', named(at.estate, 'siteLink', 'dark fibre'), { state: 'up' })]);
  const said = at.pass(1000);
  expect(said).toContain('Ticketing must compare all: what changed outgrew the reserve of its source');
  expect(row(at)).toMatchObject({ compare: 'all' });
  expect(row(at).carrying!.changed).toBeGreaterThan(risk);
  at.pass(HOUR);
  expect(row(at)).toMatchObject({ state: 'protected', compare: 'changed' });
});

test('what should be kept grows with the interval at both sides, and with images at the target', () => {
  const at = copying();
  const volumes = row(at).primaries.map((id) => at.estate.table('volume').get(id)!);
  const writing = writingOf(at.estate, volumes);
  const small = reservesOf(writing, { interval: 5 * MINUTE });
  const large = reservesOf(writing, { interval: HOUR });
  expect(large.source).toBeGreaterThan(small.source);
  expect(large.target).toBeGreaterThan(small.target);
  expect(reservesOf(writing, { interval: HOUR, imagesDaily: 7 }).target).toBeGreaterThan(large.target);
  expect(reservesOf(writing, { interval: HOUR, images: 3 }).target).toBeCloseTo(large.target * 2, 0);
});
