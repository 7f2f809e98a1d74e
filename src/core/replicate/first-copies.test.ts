import { planChange } from '../change/plan';
import type { OperationDocument } from '../change/registry';
import { changed } from '../estate/effects';
import { lookUp } from '../operation/inquiry';
import { HOUR, MINUTE } from '../units/duration';
import { basis, named } from '../../../demo/workbench';
import { elsewhere, replicate } from '../../../demo/replicated';
import { stage, type Stage } from '../../../demo/protected';
import { isSeed } from './carry';
import { TRANSIT } from './choices';
import { sidesOf } from './sides';

const there: OperationDocument = {
  do: 'volume.create',
  array: 'lintel-2',
  pool: 'quay',
  name: 'there',
  size: '200 GiB',
  count: 2,
};
const { pool: _pool, ...unplaced } = replicate;
const onto = { ...unplaced, onto: ['there-1', 'there-2'] };
const row = (at: Stage) => lookUp(at.estate, 'replication', 'Ticketing')!;
const refusals = (at: Stage, ...operations: OperationDocument[]) =>
  planChange(at.estate, operations, { ...basis, now: at.now, seed: 'asked' }).refusals;
const same = (at: Stage) => {
  const { source, target } = sidesOf(at.estate, row(at));
  expect(target.map(({ written, files }) => [written, files])).toEqual(
    source.map(({ written, files }) => [written, files]),
  );
};
const steady = (at: Stage) => {
  for (const device of at.estate.table('hostDevice').values())
    at.estate.apply([changed('hostDevice', device, { writeRate: 0 })]);
};

test('volumes that are there take the copies, one for each in the order of names', () => {
  const at = stage(...elsewhere, there, onto);
  const { source, target } = sidesOf(at.estate, row(at));
  expect(source.map(({ name }) => name)).toEqual(['tickets-1', 'tickets-2']);
  expect(target.map(({ name }) => name)).toEqual(['there-1', 'there-2']);
  steady(at);
  at.pass(HOUR);
  same(at);
});

test.each<[string, OperationDocument[], object, object]>([
  ['replication-unlike-sides', [], { onto: ['there-1'] }, { field: 'onto' }],
  ['replication-unlike-sides', [], { onto: ['there-1', 'there-1'] }, { field: 'onto' }],
  [
    'replication-size-differs',
    [{ do: 'volume.resize', array: 'lintel-2', volumes: ['there-2'], size: '150 GiB' }],
    {},
    { offer: { do: 'volume.resize', params: { array: 'lintel-2', volumes: ['there-2'], size: '200 GiB' } } },
  ],
  ['volume-unknown', [], { onto: ['there-1', 'there-7'] }, { field: 'onto' }],
])('what cannot take them is refused: %s', (code, before, otherwise, more) => {
  const at = stage(...elsewhere, there, ...before);
  expect(refusals(at, { ...onto, ...otherwise })).toMatchObject([{ code, ...more }]);
});

test('what is only kept cannot take them', () => {
  const at = stage(...elsewhere, there);
  at.estate.apply([changed('volume', named(at.estate, 'volume', 'there-2'), { deletedAt: at.now })]);
  expect(refusals(at, onto)).toMatchObject([{ code: 'replication-target-unfit', field: 'onto' }]);
});

test('what they hold is overwritten only with consent', () => {
  const at = stage(...elsewhere, there);
  const volume = named(at.estate, 'volume', 'there-1');
  at.estate.apply([changed('volume', volume, { written: 2 ** 30 })]);
  expect(refusals(at, onto)).toMatchObject([{ code: 'replication-target-not-empty', field: 'overwrite' }]);
});

test('a copy that is there is compared, and little is sent', () => {
  const at = stage(...elsewhere, replicate);
  at.pass(HOUR);
  const [whole] = at.estate.table('cycle').by('replication', row(at).id);
  at.run({ do: 'replication.remove', replication: 'Ticketing', confirm: 'Ticketing' });
  const again = {
    ...unplaced,
    onto: ['tickets-1-copy', 'tickets-2-copy'],
    overwrite: true,
    first: 'seeded',
  };
  expect(refusals(at, { ...again, onto: [], pool: 'quay' })).toMatchObject([{ code: 'replication-no-seed' }]);
  at.run(again);
  at.pass(HOUR);
  const [seeded] = [...at.estate.table('cycle').by('replication', row(at).id)].sort(
    (a, b) => a.finishedAt - b.finishedAt,
  );
  expect(seeded!.wire).toBeLessThan(whole!.wire / 5);
  expect(seeded!.wire).toBeGreaterThan(0);
  expect(row(at).state).toBe('protected');
});

test('another file system is no seed', () => {
  const image = { fileSystem: 'xfs', size: 10, used: 1, free: [] } as never;
  const other = { fileSystem: 'ext4', size: 10, used: 1, free: [] } as never;
  expect(isSeed({ image }, { image })).toBe(true);
  expect(isSeed({ image }, { image: other })).toBe(false);
  expect(isSeed({ image }, { image: null })).toBe(false);
});

test('on media nothing goes over the line, and a lost line stops nothing on the road', () => {
  const at = stage(...elsewhere, { ...replicate, first: 'shipped' });
  at.pass(HOUR);
  const link = () => named(at.estate, 'siteLink', 'dark fibre');
  expect(row(at).carrying!.wire).toBe(0);
  at.estate.apply([changed('siteLink', link(), { state: 'down' })]);
  at.pass(30 * MINUTE);
  expect(row(at).state).toBe('broken');
  at.estate.apply([changed('siteLink', link(), { state: 'up' })]);
  at.pass(TRANSIT);
  expect(row(at).state).toBe('protected');
  expect(row(at).pit! - row(at).startedAt).toBeLessThan(TRANSIT + 2 * HOUR);
});
