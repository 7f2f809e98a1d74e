import { allotmentRoom } from './allotment';
import { innermost, matchRules, type Fact, type RequestRule } from './rules';

const TIB = 2 ** 40;
const derived = (value: Fact['value'], ageS = 60): Fact => ({ value, origin: 'derived', ageS });
const declared = (value: Fact['value']): Fact => ({ value, origin: 'declared' });
const facts = {
  protection: derived(2),
  media: derived('ssd-nvme'),
  reduction: derived(['compression', 'dedupe'], 9000),
  availability: declared('two-room'),
  costPerTiB: declared(48),
  place: declared('Nordkai'),
  spare: declared(null),
  sealed: declared(true),
};
const orders = {
  availability: ['one-box', 'two-box', 'two-room'],
  media: ['hdd-7k', 'hdd-10k', 'hdd-15k', 'ssd-sata', 'ssd-sas', 'ssd-nvme'],
};
const judged = (...rules: RequestRule[]) => {
  const answer = matchRules({ facts, rules, orders, maxFactAgeS: 3600 });
  if (!answer.ok) throw new Error(answer.message);
  return answer.value;
};
const outcome = (rule: RequestRule) => judged(rule).results[0]!.outcome;

describe('rules', () => {
  test('the examples', () => {
    expect(
      judged(
        { op: 'atLeast', key: 'protection', value: 2 },
        { op: 'atLeast', key: 'media', value: 'ssd-sata' },
        { op: 'range', key: 'costPerTiB', min: 40, max: 60 },
        { op: 'in', key: 'place', values: ['Nordkai'] },
        { op: 'not', rule: { op: 'equals', key: 'availability', value: 'one-box' } },
      ),
    ).toMatchObject({ matches: true, results: new Array(5).fill({ outcome: 'pass' }) as object[] });
    expect(outcome({ op: 'in', key: 'reduction', values: ['dedupe'] })).toBe('unknown');
    expect(outcome({ op: 'not', rule: { op: 'equals', key: 'encryption', value: true } })).toBe('unknown');
    expect(outcome({ op: 'equals', key: 'costPerTiB', value: '48' })).toBe('type');
    expect(outcome({ op: 'atLeast', key: 'place', value: 'Oever' })).toBe('type');
    expect(judged()).toEqual({ matches: true, results: [] });
  });

  test('sets, cases, kinds, ends and orders', () => {
    const fresh = (rule: RequestRule) => {
      const answer = matchRules({ facts, rules: [rule], orders });
      return answer.ok ? answer.value.results[0]!.outcome : answer.reason;
    };
    expect(fresh({ op: 'equals', key: 'reduction', value: ['dedupe', 'compression', 'dedupe'] })).toBe('pass');
    expect(fresh({ op: 'equals', key: 'reduction', value: ['dedupe'] })).toBe('fail');
    expect(fresh({ op: 'equals', key: 'reduction', value: 'dedupe' })).toBe('type');
    expect(fresh({ op: 'equals', key: 'place', value: 'nordkai' })).toBe('fail');
    expect(fresh({ op: 'equals', key: 'sealed', value: 1 })).toBe('type');
    expect(fresh({ op: 'in', key: 'sealed', values: [1, 'true'] })).toBe('fail');
    expect(fresh({ op: 'in', key: 'sealed', values: [true] })).toBe('pass');
    expect(fresh({ op: 'in', key: 'reduction', values: ['dedupe', 'other'] })).toBe('pass');
    expect(fresh({ op: 'range', key: 'protection', min: 3 })).toBe('fail');
    expect(fresh({ op: 'range', key: 'protection', min: null, max: 2 })).toBe('pass');
    expect(fresh({ op: 'range', key: 'availability', min: 'two-box', max: 'one-box' })).toBe('fail');
    expect(fresh({ op: 'range', key: 'availability', min: 'two-box' })).toBe('pass');
    expect(fresh({ op: 'range', key: 'availability', min: 'three-box' })).toBe('type');
    expect(fresh({ op: 'atLeast', key: 'reduction', value: 1 })).toBe('type');
    expect(fresh({ op: 'atLeast', key: 'sealed', value: 1 })).toBe('type');
    expect(fresh({ op: 'atLeast', key: 'media', value: 2 })).toBe('type');
    expect(fresh({ op: 'equals', key: 'spare', value: 1 })).toBe('unknown');
    // A key that every object has is no fact.
    expect(fresh({ op: 'equals', key: 'constructor', value: 'x' })).toBe('unknown');
    const twice: RequestRule = { op: 'not', rule: { op: 'not', rule: { op: 'equals', key: 'protection', value: 2 } } };
    expect(fresh(twice)).toBe('pass');
    expect(innermost(twice).key).toBe('protection');
  });

  test('an age that is just allowed is fresh; what is declared never ages', () => {
    const at = (ageS: number, origin: Fact['origin']) =>
      matchRules({
        facts: { protection: { value: 2, origin, ageS } },
        rules: [{ op: 'equals', key: 'protection', value: 2 }],
        maxFactAgeS: 60,
      });
    expect(at(60, 'derived')).toMatchObject({ value: { matches: true } });
    expect(at(61, 'derived')).toMatchObject({ value: { matches: false } });
    expect(at(1e9, 'declared')).toMatchObject({ value: { matches: true } });
  });

  test('what cannot be asked is refused before anything is judged, rule by rule, inside a not as well', () => {
    const asked = (...rules: unknown[]) => matchRules({ facts: {}, rules: rules as RequestRule[] });
    expect(asked({ op: 'like', key: 'a', value: 1 })).toMatchObject({
      reason: 'rule-operator',
      message: 'Unknown comparison like.',
    });
    expect(asked({ op: 'not', rule: { op: 'range', key: 'a' } })).toMatchObject({ reason: 'rule-range-empty' });
    expect(asked({ op: 'range', key: 'a', min: 5, max: 4 })).toMatchObject({
      reason: 'rule-range-inverted',
      message: '5 is above 4.',
    });
    expect(asked({ op: 'range', key: 'a', min: 4, max: 4 }).ok).toBe(true);
    expect(asked({ op: 'range', key: 'a', min: 5, max: 4 }, { op: 'like' })).toMatchObject({
      reason: 'rule-range-inverted',
    });
  });
});

describe('allotments', () => {
  const quota = { bytes: 12 * TIB, volumes: 6, pools: { quay: 8 * TIB } };
  const usage = { volumes: 3, pools: { quay: 5 * TIB, hold: 2 * TIB } };
  const asked = (...request: [string, number][]) =>
    allotmentRoom({ quota, usage, request: request.map(([pool, bytes]) => ({ pool, bytes: bytes * TIB })) });

  test('the example, and every refusal with its figures', () => {
    expect(asked(['quay', 2], ['hold', 2])).toMatchObject({ ok: true, value: { leftBytes: TIB } });
    expect(asked(['quay', 2], ['quay', 2])).toMatchObject({
      reason: 'allotment-pool',
      message: 'quay: 1 TiB left, 2 TiB wanted.',
    });
    expect(asked(['hold', 1], ['hold', 1], ['hold', 1], ['hold', 1])).toMatchObject({
      reason: 'allotment-volumes',
      message: '6 volumes allowed, 3 used.',
    });
    expect(asked(['hold', 6])).toMatchObject({
      reason: 'allotment-total',
      message: '5 TiB left over all pools, 6 TiB wanted.',
    });
    expect(asked(['hold', 5])).toMatchObject({ value: { leftBytes: 0 } });
    expect(asked()).toMatchObject({ value: { leftBytes: 5 * TIB } });
  });

  test('without a number of volumes or bounds of pools only the whole counts', () => {
    expect(
      allotmentRoom({ quota: { bytes: 10 }, usage: { volumes: 99, pools: {} }, request: [{ pool: 'x', bytes: 10 }] }),
    ).toMatchObject({ value: { leftBytes: 0 } });
  });
});
