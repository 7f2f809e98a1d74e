import { stage } from '../../../demo/protected';
import { named } from '../../../demo/workbench';
import { readRule, ruleText } from '../classes/rule-text';
import type { RequestRule } from '../classes/rules';
import { changed } from '../estate/effects';
import { COUNTED_IO, headroomsOf, poolHeadrooms } from '../performance/pool-headroom';
import { takenOf } from '../pool/allotments';
import { GIB, TIB } from '../units/bytes';
import { contradictions, poolFacts, volumeFacts } from './facts';
import { placesFor } from './place';

const array = 'lintel-1';
const rule = (line: string): RequestRule => {
  const read = readRule(line);
  if (!read.ok) throw new Error(read.message);
  return read.value;
};

describe('rules as they are written', () => {
  test.each([
    'media at least ssd-sata',
    'cost between 40 and 60',
    'cost at most 60',
    'place is Nordkai',
    'place is not Molenhaven',
    'place one of Nordkai, Oever',
    'place none of Nordkai, Oever',
    'encryption is yes',
    'reduction is compression, dedupe',
    'not: cost between 1 and 2',
  ])('%s', (line) => expect(ruleText(rule(line))).toBe(line));

  test('what they are read as, and what cannot be read', () => {
    expect(rule('hours is not office hours')).toEqual({
      op: 'not',
      rule: { op: 'equals', key: 'hours', value: 'office hours' },
    });
    expect(rule('encryption is no')).toEqual({ op: 'equals', key: 'encryption', value: false });
    expect(readRule('make it quick')).toMatchObject({ reason: 'rule-unread' });
    expect(readRule('cost between 60 and 40')).toMatchObject({ reason: 'rule-range-inverted' });
  });
});

describe('facts', () => {
  test('what is read of a pool, what is said of it, and what a volume has by itself', () => {
    const at = stage({ do: 'fact.declare', array, pool: 'quay', key: 'cost', value: '52' });
    const pool = () => named(at.estate, 'pool', 'quay');
    const facts = poolFacts(at.estate, pool());
    expect(facts.cost).toEqual({ value: 52, origin: 'declared' });
    expect(facts.media).toEqual({ value: 'ssd-nvme', origin: 'derived', ageS: 0 });
    expect(facts.encryption!.value).toBe(false);
    expect(facts.site!.value).toBe('Nordkai');
    expect(facts.protection!.value).toBeGreaterThan(0);
    const group = at.estate.table('raidGroup').by('pool', pool().id)[0]!;
    const drive = at.estate.table('drive').get(group.drives[0]!)!;
    at.estate.apply([changed('drive', drive, { state: 'failed' })]);
    expect(poolFacts(at.estate, pool()).protection!.value).toBe((facts.protection!.value as number) - 1);
    at.estate.apply([changed('drive', at.estate.table('drive').get(drive.id)!, { state: 'ok' })]);

    const declare = { do: 'fact.declare', array, volumes: ['tickets-1'] };
    expect(at.codes({ ...declare, key: 'media', value: 'hdd-7k', reason: 'x' })).toEqual(['fact-derived']);
    expect(at.codes({ ...declare, key: 'cost', value: '10' })).toEqual(['fact-without-reason']);
    at.run({ ...declare, key: 'cost', value: '10', reason: 'Paid by the harbour office.' });
    const volume = named(at.estate, 'volume', 'tickets-1');
    expect(volumeFacts(at.estate, volume).cost!.value).toBe(10);
    expect(volumeFacts(at.estate, named(at.estate, 'volume', 'tickets-2')).cost!.value).toBe(52);
    at.run({ do: 'fact.withdraw', array, volumes: ['tickets-1'], key: 'cost' });
    expect(volumeFacts(at.estate, volume).cost!.value).toBe(52);
    expect(at.codes({ do: 'fact.withdraw', array, pool: 'quay', key: 'hours' })).toEqual(['fact-not-declared']);
  });

  test('what is read wins over what is said; an array that is silent leaves nothing known', () => {
    const at = stage({ do: 'fact.declare', array, pool: 'quay', key: 'media', value: 'hdd-7k' });
    const pool = named(at.estate, 'pool', 'quay');
    expect(poolFacts(at.estate, pool).media!.value).toBe('ssd-nvme');
    expect(contradictions(at.estate, pool)).toEqual([{ key: 'media', declared: 'hdd-7k', derived: 'ssd-nvme' }]);
    for (const controller of at.estate.table('controller').by('array', pool.array))
      at.estate.apply([changed('controller', controller, { state: 'down' })]);
    expect(poolFacts(at.estate, pool).protection).toBeUndefined();
    expect(contradictions(at.estate, pool)).toEqual([]);
  });

  test('words of a key have an order; one that is none is refused', () => {
    const at = stage();
    const order = (words: string[], key = 'availability') => ({ do: 'fact-order.set', key, words });
    expect(at.codes(order(['one-box']))).toEqual(['order-too-short']);
    expect(at.codes(order(['a', 'a']))).toEqual(['order-word-twice']);
    expect(at.codes(order(['a', 'b'], 'media'))).toEqual(['order-is-known']);
    at.run(order(['one-box', 'two-box', 'two-room']));
    at.run({ do: 'fact.declare', array, pool: 'quay', key: 'availability', value: 'two-box' });
    at.run({ do: 'class.create', name: 'steady', rules: ['availability at least two-box'] });
    at.run({ do: 'class.apply', array, class: 'steady', volumes: ['tickets-1'] });
    at.run({ do: 'class.create', name: 'both', rules: ['availability at least two-room'] });
    expect(at.codes({ do: 'class.apply', array, class: 'both', volumes: ['tickets-1'] })).toEqual([
      'rule-no-longer-met',
    ]);
    at.run({ do: 'class.delete', class: 'steady' });
    expect(at.estate.table('classUse').size).toBe(0);
  });

  test('rules that contradict themselves are refused', () => {
    const at = stage();
    const make = (...rules: string[]) => at.codes({ do: 'class.create', name: 'odd', rules });
    expect(make('place is Nordkai', 'place is Oever')).toEqual(['rules-contradict']);
    expect(make('cost at least 60', 'cost at most 40')).toEqual(['rules-contradict']);
    expect(make('cost between 60 and 40')).toEqual(['rule-range-inverted']);
    expect(make('quick please')).toEqual(['rule-unread']);
    expect(make('cost at least 40', 'cost at most 60', 'place is Nordkai')).toEqual([]);
  });
});

describe('headroom and places', () => {
  const busy = () =>
    stage({ do: 'volume.activity', array, volumes: ['tickets-1'], reads: 20_000, writes: 2000, week: 'office' });

  test('what a pool can still serve is less with more asked, and the worst state counts', () => {
    const idle = stage();
    const at = busy();
    const pool = (one: typeof at) =>
      poolHeadrooms(one.estate, named(one.estate, 'array', array).id).get(named(one.estate, 'pool', 'quay').id)!;
    const left = (one: typeof at) => pool(one).limit - pool(one).used;
    expect(left(at)).toBeLessThan(left(idle));
    expect(pool(at).state).not.toBe('as it stands');
    expect(COUNTED_IO.ioBytes).toBe(8192);
  });

  test('the best place, why not the others, and which rule to loosen', () => {
    const at = busy();
    at.run({ do: 'fact.declare', array, pool: 'quay', key: 'place', value: 'Nordkai' });
    const headroom = headroomsOf(at.estate);
    const ask = (...rules: string[]) =>
      placesFor(at.estate, { bytes: 100 * GIB, iops: 500, rules: rules.map(rule), replica: false }, headroom);
    const fits = ask('place is Nordkai');
    expect(fits.pools[0]).toMatchObject({ name: 'quay', outcomes: ['pass'], reasons: [] });
    expect(fits.pools[0]!.score).toBeGreaterThan(0);
    expect(fits.says).toMatch(/lintel-1 quay (alone fits|first); its weakest point is/);
    const none = ask('place is Oever', 'encryption is no');
    expect(none.pools[0]).toMatchObject({ score: null, reasons: ['rules'], outcomes: ['fail', 'pass'] });
    expect(none.rules).toEqual([
      { text: 'place is Oever', leavesOut: none.pools.length, alone: expect.any(Number) as number },
      { text: 'encryption is no', leavesOut: expect.any(Number) as number, alone: 0 },
    ]);
    expect(none.says).toMatch(/^No pool fits; .*Loosen place, or ask for less\.$/);
    // Who shall reach it: a host that is plugged in nowhere does not.
    at.run({
      do: 'host.create',
      name: 'far-1',
      os: 'linux',
      site: 'Nordkai',
      initiators: ['iqn.2031-04.example.skarholt:far-1'],
    });
    const from = (name: string) =>
      placesFor(
        at.estate,
        { bytes: GIB, iops: 0, rules: [], replica: false, hosts: [named(at.estate, 'host', name)] },
        headroom,
      );
    expect(from('gate-1').pools[0]!.score).not.toBeNull();
    expect(from('far-1').pools[0]).toMatchObject({ score: null, against: ['far-1 does not reach it'] });
    const vast = placesFor(at.estate, { bytes: 9000 * TIB, iops: 1, rules: [], replica: true }, headroom);
    expect(vast.pools.every(({ reasons }) => reasons.includes('capacity'))).toBe(true);
    expect(vast.pools[0]!.against).toContain('no array to copy to');
  });
});

describe('allotments', () => {
  const carve = (more: object = {}) => ({
    do: 'allotment.carve',
    allotment: 'Ticketing desk',
    array,
    pool: 'quay',
    name: 'desk',
    size: '40 GiB',
    ...more,
  });
  const own = () =>
    stage({
      do: 'allotment.create',
      name: 'Ticketing desk',
      contact: 'R. Visser',
      size: '100 GiB',
      volumes: 3,
      pools: ['lintel-1 quay 90 GiB'],
    });

  test('a consumer takes within it, all or nothing, and what is beyond is refused with the figures', () => {
    const at = own();
    expect(at.codes(carve({ size: '95 GiB' }))).toEqual(['allotment-pool']);
    expect(at.codes(carve({ count: 4, size: '1 GiB' }))).toEqual(['allotment-volumes']);
    expect(at.codes(carve({ count: 3 }))).toEqual(['allotment-pool']);
    at.run(carve({ count: 2 }));
    expect(takenOf(at.estate, named(at.estate, 'allotment', 'Ticketing desk').id)).toMatchObject({
      volumes: 2,
      bytes: 80 * GIB,
    });
    expect(at.codes(carve({ name: 'more', size: '11 GiB' }))).toEqual(['allotment-pool']);
    at.run(carve({ name: 'more', size: '10 GiB' }));
    expect(at.codes(carve({ name: 'most', size: '1 GiB' }))).toEqual(['allotment-volumes']);
  });

  test('growing counts too; what is retired for good is given back', () => {
    const at = own();
    at.run(carve());
    const grow = (size: string) => ({ do: 'volume.resize', array, volumes: ['desk'], size });
    expect(at.codes(grow('91 GiB'))).toEqual(['allotment-pool']);
    at.run(grow('90 GiB'));
    expect(at.codes({ do: 'allotment.configure', allotment: 'Ticketing desk', size: '50 GiB' })).toEqual([
      'allotment-below-use',
    ]);
    expect(at.codes({ do: 'allotment.delete', allotment: 'Ticketing desk' })).toEqual(['allotment-taken']);
    at.run({ do: 'volume.delete', array, volumes: ['desk'], keepDays: 0 });
    at.run({ do: 'allotment.delete', allotment: 'Ticketing desk' });
    expect(at.estate.table('allotmentUse').size).toBe(0);
  });

  test('only from pools that fit its classes; volumes that there are can be counted once', () => {
    const at = own();
    at.run({ do: 'class.create', name: 'safe', rules: ['encryption is yes'] });
    at.run({ do: 'allotment.configure', allotment: 'Ticketing desk', classes: ['safe'] });
    expect(at.codes(carve())).toEqual(['allotment-class']);
    at.run({ do: 'class.delete', class: 'safe' });
    expect(at.codes(carve())).toEqual([]);
    at.run({ do: 'allotment.configure', allotment: 'Ticketing desk', size: '1 TiB', pools: [] });
    const take = { do: 'allotment.take', allotment: 'Ticketing desk', array, volumes: ['tickets-1'] };
    at.run(take);
    expect(at.codes(take)).toEqual(['allotment-counted']);
    at.run({ do: 'allotment.release', array, volumes: ['tickets-1'] });
    expect(at.codes(take)).toEqual([]);
    expect(
      at.codes({ do: 'allotment.create', name: 'Other', size: '1 TiB', pools: ['lintel-1 nowhere 1 TiB'] }),
    ).toEqual(['allotment-pool-unread']);
  });
});
