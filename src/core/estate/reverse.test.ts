import { estateAfter, mapped, mounted } from '../../../demo/workbench';
import { changed, compacted, created, deleted, rowName, type Effect } from './effects';
import { rowOf, type Kind, type Rows } from './entities';
import type { Estate } from './estate';
import { references, referredIds, rowsReferring } from './references';
import { reverse } from './reverse';

const one = <K extends Kind>(estate: Estate, kind: K, name?: string): Rows[K] =>
  [...estate.table(kind).values()].find((row) => name === undefined || (row as { name?: string }).name === name)!;
const why = (estate: Estate, ...effects: Effect[]): string[] =>
  reverse(estate, effects).conflicts.map((conflict) => `${conflict.kind} ${conflict.name} ${conflict.why}`);

describe('effects turned round', () => {
  test('put back only the fields they changed, last first', () => {
    const estate = estateAfter(mapped);
    const pool = one(estate, 'pool');
    const first = changed('pool', pool, { notice: 60 });
    const second = changed('pool', first.after as Rows['pool'], { notice: 50, alertTo: 'us' });
    estate.apply([first, second, changed('pool', second.after as Rows['pool'], { urgent: 95 })]);
    const { effects, conflicts } = reverse(estate, [second]);
    expect(conflicts).toEqual([]);
    expect(effects).toEqual([
      {
        kind: 'pool',
        id: pool.id,
        before: estate.table('pool').get(pool.id),
        after: { ...pool, notice: 60, urgent: 95 },
      },
    ]);
    estate.apply(effects);
    expect(reverse(estate, [first]).conflicts).toEqual([]);
    expect(why(estate, second)).toEqual([
      'pool quay has another notice by now',
      'pool quay has another alert to by now',
    ]);
  });

  test('say what came again, and what was taken away', () => {
    const estate = estateAfter(mapped);
    const host = one(estate, 'host');
    expect(why(estate, deleted('host', host))).toEqual(['host gate-1 is there again']);
    expect(why(estate, created('host', { ...host, id: 'host_x', name: 'gone' }))).toEqual([
      'host gone has been taken away since',
    ]);
  });

  test('call extents, jobs and logins by what they belong to', () => {
    const estate = estateAfter([
      ...mapped,
      { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'thick', size: '1 GiB', provisioning: 'thick' },
    ]);
    const run = one(estate, 'extent');
    const gone = (row: Rows['extent']) => why(estate, changed('extent', row, { count: row.count + 1 }));
    expect(gone(run)).toEqual(['volume thick has another count by now']);
    const store = { ...run, id: 'ext_s', volume: null, store: one(estate, 'pool').id };
    expect(gone(store)).toEqual(['pool quay has been taken away since']);
    expect(gone({ ...store, store: 'pool_none' })).toEqual(['extent ext_s has been taken away since']);
    const job = rowOf('job', {
      id: 'job_x',
      kind: 'volume-convert',
      array: one(estate, 'array', 'lintel-1').id,
      raidGroup: one(estate, 'raidGroup').id,
      drive: null,
      asOf: 0,
      startedAt: 0,
      finishesAt: 1,
    });
    const over = 'has come out of the work this step began, which is over';
    expect(why(estate, created('job', job))).toEqual([`raidGroup rg-1 ${over}`]);
    expect(why(estate, created('job', { ...job, volume: one(estate, 'volume', 'thick').id }))).toEqual([
      `volume thick ${over}`,
    ]);
    expect(why(estate, created('job', { ...job, raidGroup: null, pool: one(estate, 'pool').id }))).toEqual([
      `pool quay ${over}`,
    ]);
    expect(why(estate, created('job', { ...job, raidGroup: null }))).toEqual([`job job_x ${over}`]);
    for (const kind of ['raid-initialise', 'raid-scrub'] as const)
      expect(why(estate, created('job', { ...job, kind }))).toEqual([]);
    const login = {
      id: 'log_x',
      host: one(estate, 'host').id,
      array: one(estate, 'array', 'lintel-1').id,
      target: null,
    };
    expect(why(estate, created('login', login))).toEqual(['array lintel-1 has been taken away since']);
  });

  test('keep what holds data, a file system or a pool by now', () => {
    const estate = estateAfter(mounted);
    const volume = one(estate, 'volume', 'tickets-1');
    expect(why(estate, created('volume', { ...volume, written: 0 }))[0]).toBe(
      'volume tickets-1 holds data written since',
    );
    const device = [...estate.table('hostDevice').values()].find((row) => row.fileSystem)!;
    expect(why(estate, created('hostDevice', { ...device, fileSystem: null }))).toEqual([
      `hostDevice ${device.name} carries a file system made since`,
    ]);
    const group = one(estate, 'raidGroup');
    expect(why(estate, created('raidGroup', { ...group, pool: null }))[0]).toBe('raidGroup rg-1 carries a pool by now');
    // As it was made, nothing of this is new.
    expect(why(estate, created('hostDevice', device))).toEqual([]);
  });

  test('take along what cannot be without, and what rests on that; others keep what they use', () => {
    const estate = estateAfter(mapped.slice(0, 4));
    const host = one(estate, 'host');
    const initiator = one(estate, 'initiator');
    const array = one(estate, 'array', 'lintel-1');
    estate.apply([created('access', { id: 'acc_x', array: array.id, initiator: initiator.id, level: 'none' })]);
    const { effects, conflicts } = reverse(estate, [created('host', host)]);
    expect(conflicts).toEqual([]);
    expect(effects.map((effect) => [effect.kind, effect.after])).toEqual(
      expect.arrayContaining([
        ['initiator', null],
        ['interface', null],
        ['access', null],
        ['host', null],
      ]),
    );
    const all = estateAfter(mapped);
    expect(why(all, created('host', one(all, 'host')))).toContain('host gate-1 is used by mapping LUN 0');
    // A mapping that is taken back with it keeps nothing.
    const mappings = [...all.table('mapping').values()].map((row) => created('mapping', row));
    expect(why(all, created('host', one(all, 'host')), ...mappings)).toEqual([]);
  });

  test('keep a spare that is at work in another group by now', () => {
    const estate = estateAfter(mapped);
    const group = one(estate, 'raidGroup');
    const member = estate.table('drive').get(group.drives[0]!)!;
    const before = { ...member, raidGroup: null, spare: 'shared' as const };
    expect(why(estate, changed('drive', before, { spare: 'no' }))).toEqual([
      `drive slot ${member.slot} is at work in RAID group rg-1 by now`,
    ]);
  });
});

describe('rows that refer to others', () => {
  const reference = (from: string, field: string) =>
    references.find((one) => one.from === from && one.field === field)!;

  test('are found by index and without one', () => {
    const estate = estateAfter(mapped);
    const group = one(estate, 'raidGroup');
    const volume = one(estate, 'volume');
    expect(rowsReferring(estate, reference('raidGroup', 'drives'), group.drives[3]!)).toEqual([group]);
    expect(rowsReferring(estate, reference('mapping', 'volume'), volume.id)).toHaveLength(1);
    const mapping = one(estate, 'mapping');
    const port = one(estate, 'port');
    estate.apply([changed('mapping', mapping, { ports: [port.id] })]);
    expect(rowsReferring(estate, reference('mapping', 'ports'), port.id).map((row) => row.id)).toEqual([mapping.id]);
    expect(rowsReferring(estate, reference('target', 'authServer'), 'auth_none')).toEqual([]);
    expect(referredIds(group, 'drives')).toEqual(group.drives);
    expect(referredIds(group, 'pool')).toEqual([group.pool]);
    expect(referredIds({ ...group, pool: null }, 'pool')).toEqual([]);
    expect(references.filter((one) => one.from === 'extent').map((one) => one.onDelete)).toEqual([
      'goes-along',
      'goes-along',
      'goes-along',
      'refuse',
    ]);
  });
});

test('effects of one row become one; what comes and goes leaves none; names fit a sentence', () => {
  const estate = estateAfter(mapped);
  const pool = one(estate, 'pool');
  const first = changed('pool', pool, { notice: 60 });
  const second = changed('pool', first.after as Rows['pool'], { notice: 50 });
  expect(compacted([first, second])).toEqual([{ ...second, before: pool }]);
  const fresh = { ...pool, id: 'pool_x' };
  expect(compacted([created('pool', fresh), first, deleted('pool', fresh)])).toEqual([first]);
  expect(compacted([first])).toEqual([first]);
  const drive = one(estate, 'drive');
  expect([rowName('drive', drive), rowName('mapping', one(estate, 'mapping')), rowName('pool', pool)]).toEqual([
    `slot ${drive.slot}`,
    'LUN 0',
    'quay',
  ]);
  expect(rowName('enclosure', one(estate, 'enclosure'))).toMatch(/^enc_/);
});
