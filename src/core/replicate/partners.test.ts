import { changed } from '../estate/effects';
import { lookUp } from '../operation/inquiry';
import { DAY, MINUTE } from '../units/duration';
import { planChange } from '../change/plan';
import { basis } from '../../../demo/workbench';
import { lines, partners } from '../../../demo/elsewhere';
import { copying, elsewhere, replicate } from '../../../demo/replicated';
import { stage, type Stage } from '../../../demo/protected';
import { partnerAt, quotaUsed } from '../copies/quota';
import { standingOf, unpartneredWhy } from './partners';

const [atOne, atTwo] = partners as [(typeof partners)[number], (typeof partners)[number]];
const unmet = (): Stage => stage(...elsewhere.filter(({ do: kind }) => kind !== 'partner.introduce'));
const array = (at: Stage, name: string) => lookUp(at.estate, 'array', name)!;
const partner = (at: Stage, from: string, to: string) => partnerAt(at.estate, array(at, from).id, array(at, to).id)!;
const why = (at: Stage) => unpartneredWhy(at.estate, array(at, 'lintel-1').id, array(at, 'lintel-2').id);
const refusals = (at: Stage, ...operations: typeof partners) =>
  planChange(at.estate, operations, { ...basis, now: at.now, seed: 'asked' }).refusals;
const ANOTHER = 'sealed:00112233445566778899aabbccddeeff';
const replication = (at: Stage) => lookUp(at.estate, 'replication', 'Ticketing')!;

test('two arrays are partners when each was told of the other', () => {
  const at = unmet();
  expect(at.codes(replicate)).toEqual(['replication-no-partner']);
  at.run(atOne);
  expect(standingOf(at.estate, partner(at, 'lintel-1', 'lintel-2'))).toEqual({ state: 'offered', misfit: null });
  expect(refusals(at, replicate)[0]).toMatchObject({
    message: expect.stringContaining('lintel-2 does not know lintel-1 yet') as string,
    offer: { do: 'partner.introduce', params: { array: 'lintel-2', peer: 'lintel-1' } },
  });
  at.run(atTwo);
  expect(why(at)).toBeNull();
  expect(at.codes(replicate)).toEqual([]);
});

test.each([
  ['peer-unreachable', 'addresses', { addresses: ['10.41.1.99'] }],
  ['peer-self', 'addresses', { addresses: ['10.40.1.12'] }],
  ['peer-other', 'addresses', { addresses: ['10.40.1.21'] }],
  ['peer-self', 'peer', { peer: 'lintel-1' }],
  ['secret-same-both-ways', 'expectedSecret', { expectedSecret: atOne.shownSecret }],
  ['parameter-missing', 'shownSecret', { shownSecret: 'none' }],
  ['pool-unknown', 'offers', { offers: ['keel 4 TiB'] }],
  ['offered-twice', 'offers', { offers: ['quay 4 TiB', 'quay 1 TiB'] }],
])('what does not fit is found before the first word: %s at %s', (code, field, otherwise) => {
  expect(refusals(unmet(), { ...atOne, ...otherwise })).toMatchObject([{ code, field }]);
});

test('a wrong secret is found at the second introduction, and is mended at either side', () => {
  const at = unmet();
  at.run({ ...atOne, expectedSecret: ANOTHER });
  const [refusal] = refusals(at, atTwo);
  expect(refusal).toMatchObject({
    code: 'peer-fingerprint-mismatch',
    field: 'shownSecret',
    message: expect.stringContaining('lintel-1 expects another secret than lintel-2 would show') as string,
    offer: { do: 'partner.configure', params: { array: 'lintel-1', peer: 'lintel-2' }, field: 'expectedSecret' },
  });
  at.run({ do: 'partner.configure', array: 'lintel-1', peer: 'lintel-2', expectedSecret: atTwo.shownSecret });
  at.run(atTwo);
  expect(why(at)).toBeNull();
  expect(at.codes({ do: 'partner.configure', array: 'lintel-2', peer: 'lintel-1', shownSecret: ANOTHER })).toEqual([
    'peer-fingerprint-mismatch',
  ]);
});

test('an offer holds for a day', () => {
  const at = unmet();
  at.run(atOne);
  at.pass(DAY + MINUTE);
  expect(at.codes(atTwo)).toEqual(['peer-offer-over']);
  at.run({ do: 'partner.configure', array: 'lintel-1', peer: 'lintel-2', addresses: atOne.addresses });
  at.run(atTwo);
  expect(at.codes(atTwo)).toEqual(['peer-already-peered']);
});

test('one address that answers is enough; without any, what is copied breaks off and goes on again', () => {
  const at = copying();
  at.pass(30 * MINUTE);
  const ports = ['10.41.1.11', '10.41.2.12'].map((ip) => at.estate.table('port').by('ip', ip)[0]!);
  const state = (k: number, to: 'up' | 'down') =>
    at.estate.apply([changed('port', at.estate.table('port').get(ports[k]!.id)!, { state: to })]);
  state(0, 'down');
  at.pass(MINUTE);
  expect(replication(at).state).toBe('protected');
  state(1, 'down');
  at.pass(MINUTE);
  expect(replication(at)).toMatchObject({
    state: 'broken',
    reason: 'lintel-1: lintel-2 is up but its port is closed (firewall?)',
  });
  state(0, 'up');
  at.pass(10 * MINUTE);
  expect(replication(at).state).toBe('protected');
});

test('clocks that run apart break it off', () => {
  const at = copying();
  at.pass(30 * MINUTE);
  at.estate.apply([changed('array', array(at, 'lintel-2'), { clockOff: 5 * MINUTE })]);
  at.pass(MINUTE);
  expect(replication(at)).toMatchObject({ state: 'broken', reason: 'lintel-1: Clocks differ by 300 s; allowed 60' });
  at.run({ do: 'array.set-clock', array: 'lintel-2' });
  at.pass(10 * MINUTE);
  expect(replication(at).state).toBe('protected');
});

test('a secret comes to its end in its moment; renewed before, nothing stops', () => {
  const end = (at: Stage) => partner(at, 'lintel-1', 'lintel-2').secretUntil!;
  const dated = (at: Stage) => new Date(at.now + 2 * DAY).toISOString().slice(0, 10);
  const lapsing = copying();
  lapsing.run({ do: 'partner.configure', array: 'lintel-1', peer: 'lintel-2', secretUntil: dated(lapsing) });
  const said = lapsing.pass(end(lapsing) - lapsing.now + MINUTE);
  expect(said).toContain('The secret that lintel-1 shows lintel-2 has come to its end');
  expect(replication(lapsing)).toMatchObject({
    state: 'broken',
    reason: expect.stringMatching(/^lintel-2: Its key ended on /) as string,
  });
  const renewed = copying();
  renewed.run({ do: 'partner.configure', array: 'lintel-1', peer: 'lintel-2', secretUntil: dated(renewed) });
  const before = end(renewed);
  renewed.run({ do: 'partner.renew', array: 'lintel-1', peer: 'lintel-2', shownSecret: ANOTHER });
  expect(partner(renewed, 'lintel-2', 'lintel-1').expectedSecret).toBe(ANOTHER.slice('sealed:'.length));
  renewed.pass(before - renewed.now + MINUTE);
  expect(replication(renewed).state).toBe('protected');
  lapsing.run({
    do: 'partner.configure',
    array: 'lintel-1',
    peer: 'lintel-2',
    secretUntil: 'never',
  });
  lapsing.pass(10 * MINUTE);
  expect(replication(lapsing).state).toBe('protected');
});

test('who is forgotten copies no more; data and used quota stay', () => {
  const at = copying();
  at.pass(30 * MINUTE);
  const forget = { do: 'partner.revoke', array: 'lintel-1', peer: 'lintel-2' };
  expect(refusals(at, forget)[0]).toMatchObject({
    code: 'peer-confirm-forget',
    message: 'Ticketing would stop: data and images stay at both sides.',
  });
  at.run({ ...forget, confirm: 'lintel-2' });
  at.pass(MINUTE);
  expect(replication(at)).toMatchObject({ state: 'broken', reason: 'lintel-1 does not know lintel-2' });
  expect(quotaUsed(at.estate, partner(at, 'lintel-2', 'lintel-1')).volumes).toBe(2);
  at.run(atOne);
  at.pass(10 * MINUTE);
  expect(replication(at).state).toBe('protected');
});

describe('what a partner may use', () => {
  const limited = (quota: object): Stage => {
    const at = unmet();
    at.run(atOne, { ...atTwo, ...quota });
    return at;
  };
  test.each([
    ['peer-quota-pool-not-offered', { offers: [] }],
    ['peer-quota-pool-bytes', { offers: ['quay 100 GiB'] }],
    ['peer-quota-bytes', { quota: '100 GiB' }],
    ['peer-quota-volumes', { quotaVolumes: '1' }],
    ['peer-quota-expired', { quotaUntil: '2031-01-01' }],
  ])('is not exceeded: %s', (code, quota) => {
    expect(refusals(limited(quota), replicate)).toMatchObject([
      {
        code,
        offer: { do: 'partner.configure', params: { array: 'lintel-2', peer: 'lintel-1' }, field: 'offers' },
      },
    ]);
  });
  test('holds for what grows, too, and comes back with what is removed', () => {
    const at = limited({ offers: ['quay 5 TiB'] });
    at.run(replicate);
    at.pass(30 * MINUTE);
    const used = () => quotaUsed(at.estate, partner(at, 'lintel-2', 'lintel-1'));
    expect(used().volumes).toBe(2);
    expect(at.codes({ do: 'volume.resize', array: 'lintel-1', volumes: ['tickets-1'], size: '6 TiB' })).toEqual([
      'peer-quota-pool-bytes',
    ]);
    at.run({ do: 'partner.configure', array: 'lintel-2', peer: 'lintel-1', offers: ['quay 12 TiB'] });
    at.run({ do: 'volume.resize', array: 'lintel-1', volumes: ['tickets-1'], size: '6 TiB' });
    at.run({ do: 'replication.remove', replication: 'Ticketing', confirm: 'Ticketing' });
    expect(used()).toEqual({ pools: {}, volumes: 0 });
  });
  test('a pool that is dissolved is offered no more', () => {
    const at = unmet();
    at.run(atOne, atTwo);
    at.run({ do: 'pool.delete', array: 'lintel-2', name: 'quay' });
    expect(partner(at, 'lintel-2', 'lintel-1')).toMatchObject({ offered: [], offeredBytes: [] });
  });
});

test('a line between the sites must lead there', () => {
  const at = stage(...elsewhere.filter(({ do: kind }) => kind !== 'partner.introduce' && kind !== 'site-link.create'));
  expect(refusals(at, atOne)).toMatchObject([{ code: 'peer-unreachable', field: 'addresses' }]);
  at.run(...lines.slice(0, 1));
  expect(refusals(at, atOne)).toEqual([]);
});
