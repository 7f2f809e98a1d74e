import { planChange } from '../plan';
import { askable, type OperationDocument } from '../registry';
import { lookUp } from '../../operation/inquiry';
import { brokenRules } from '../../rules/book';
import { HOUR } from '../../units/duration';
import { basis, named } from '../../../../demo/workbench';
import { elsewhere, yard } from '../../../../demo/replicated';
import { stage, type Stage } from '../../../../demo/protected';
import { deckStage } from '../../../../demo/stretched';

const give: OperationDocument = {
  do: 'storage.give-two-sites',
  host: 'gate-1',
  size: '100 GiB',
  count: 2,
  name: 'fares',
  to: 'lintel-2',
  toPool: 'quay',
  link: 'dark fibre',
  rpo: '10 min',
  standby: 'yard-1',
};
const ready = (): Stage => stage(...elsewhere, yard);
const refusals = (at: Stage, operation: OperationDocument) =>
  planChange(at.estate, [operation], { ...basis, now: at.now, seed: 'asked' }).refusals;

test('the best pair of pools is named: one for it, one at an array it can be copied to', () => {
  const at = ready();
  const says = (draft: Record<string, unknown>) =>
    askable('storage.give-two-sites')!.foretell(at.estate, draft, { now: at.now, month: '2031-04', newId: () => 'x' })
      .fields.toPool!.says;
  expect(says({ host: 'gate-1' })).toBe('Takes as much as is written.');
  expect(says({ host: 'gate-1', size: '100 GiB' })).toBe('Best pair: lintel-1 quay with lintel-2 quay.');
  expect(says({ host: 'gate-1', size: '900 TiB' })).toMatch(/^No pool fits; .*no room/);
});

test('storage is given, copied to the other site, and shown there to who takes over', () => {
  const at = ready();
  at.run(give);
  const row = lookUp(at.estate, 'replication', 'fares')!;
  expect(row).toMatchObject({ rpo: 600_000, mode: 'async', state: 'copying' });
  const twins = row.secondaries.map((id) => at.estate.table('volume').get(id)!);
  expect(twins.map(({ name }) => name)).toEqual(['fares-1-copy', 'fares-2-copy']);
  const seen = at.estate.table('hostDevice').by('host', named(at.estate, 'host', 'yard-1').id);
  expect(seen.map(({ volume }) => volume).sort()).toEqual(twins.map(({ id }) => id).sort());
  at.pass(HOUR);
  expect(lookUp(at.estate, 'replication', 'fares')!.state).toBe('protected');
  // Closed to hosts until its site takes over.
  expect(
    at.codes({ do: 'host-device.mount', host: 'yard-1', device: seen[0]!.name, mountPoint: '/srv/fares' }),
  ).toContain('replication-target');
  at.run(
    ...['fares-1', 'fares-2'].map((device) => ({ do: 'host-device.unmount', host: 'gate-1', device })),
    { do: 'replication.switch', replication: 'fares', stopped: true },
    { do: 'host.rescan', host: 'yard-1' },
  );
  expect(
    at.codes({ do: 'host-device.mount', host: 'yard-1', device: seen[0]!.name, mountPoint: '/srv/fares' }),
  ).toEqual([]);
  expect(brokenRules(at.estate)).toEqual([]);
});

test('a mirror is given the same way', () => {
  const at = ready();
  const { rpo: _rpo, ...mirror } = give;
  at.run({ ...mirror, mode: 'sync' });
  expect(lookUp(at.estate, 'replication', 'fares')).toMatchObject({ mode: 'sync', rpo: null });
});

test.each([
  ['host-elsewhere', 'standby', { standby: 'gate-1' }],
  ['array-unknown', 'to', { to: 'lintel-9' }],
  ['pool-unknown', 'toPool', { toPool: 'keel' }],
  ['siteLink-unknown', 'link', { link: 'string' }],
])('what is not there is refused: %s', (code, field, otherwise) => {
  const [refusal] = refusals(ready(), { ...give, ...otherwise });
  expect(refusal!.field).toBe(field);
  expect([code, 'site-link-unknown']).toContain(refusal!.code);
});

test('it is taken back from both sites, and leaves no trace', () => {
  const at = ready();
  const before = [...at.estate.table('volume').values()].map(({ name }) => name).sort();
  at.run(give);
  at.pass(HOUR);
  const names = ['fares-1', 'fares-2', 'fares-1-copy', 'fares-2-copy'];
  const back: OperationDocument = {
    do: 'storage.take-back-two-sites',
    host: 'gate-1',
    array: 'lintel-1',
    volumes: ['fares-1', 'fares-2'],
    replication: 'fares',
    confirm: names,
    keepDays: 0,
  };
  expect(refusals(at, { ...back, volumes: ['fares-1'] })).toMatchObject([
    { code: 'replication-unlike-sides', field: 'volumes' },
  ]);
  at.run(back);
  expect(lookUp(at.estate, 'replication', 'fares')).toBeUndefined();
  const left = [...at.estate.table('volume').values()].filter(({ deletedAt }) => deletedAt === null);
  expect(left.map(({ name }) => name).sort()).toEqual(before);
  expect(at.estate.table('mapping').by('host', named(at.estate, 'host', 'yard-1').id)).toEqual([]);
  expect(brokenRules(at.estate)).toEqual([]);
});

describe('over one identity at both sites', () => {
  const deck: OperationDocument = {
    do: 'storage.give-two-sites',
    cluster: 'deck',
    pool: 'lintel-1/quay',
    size: '50 GiB',
    name: 'cabin',
    workload: 'Cabin desk',
    mount: false,
    to: 'lintel-2',
    toPool: 'quay',
    link: 'dark fibre',
    mode: 'stretched',
    witness: 'oever-1',
  };
  const seen = (at: Stage, name: string) =>
    at.estate
      .table('mapping')
      .by('volume', named(at.estate, 'volume', name).id)
      .map(({ host, lun }) => `${at.estate.table('host').get(host)!.name} ${lun}`)
      .sort();

  test('hosts of both sites see both legs under one number', () => {
    const at = deckStage();
    at.run(deck);
    expect(seen(at, 'cabin-leg')).toEqual(seen(at, 'cabin'));
    expect(seen(at, 'cabin')).toHaveLength(2);
    at.pass(HOUR);
    expect(lookUp(at.estate, 'replication', 'Cabin desk')!.state).toBe('protected');
    expect(brokenRules(at.estate)).toEqual([]);
  });

  test('or each host the leg at its own site', () => {
    const at = deckStage();
    at.run({ ...deck, uniform: false });
    expect(seen(at, 'cabin-leg').map((one) => one.split(' ')[0])).toEqual(['deck-3']);
  });

  test('a witness is needed', () => {
    const at = deckStage();
    const { witness: _witness, ...bare } = deck;
    expect(at.codes(bare)).toContain('witness-unknown');
  });

  test('it is taken back from both sites', () => {
    const at = deckStage();
    const before = [...at.estate.table('volume').values()].map(({ name }) => name).sort();
    at.run(deck);
    at.pass(HOUR);
    at.run({
      do: 'storage.take-back-two-sites',
      cluster: 'deck',
      array: 'lintel-1',
      volumes: ['cabin'],
      replication: 'Cabin desk',
      confirm: ['cabin', 'cabin-leg'],
      keepDays: 0,
    });
    const left = [...at.estate.table('volume').values()].filter(({ deletedAt }) => deletedAt === null);
    expect(left.map(({ name }) => name).sort()).toEqual(before);
    expect(lookUp(at.estate, 'replication', 'Cabin desk')).toBeUndefined();
    expect(brokenRules(at.estate)).toEqual([]);
  });
});
