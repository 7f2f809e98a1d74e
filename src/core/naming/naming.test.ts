import fc from 'fast-check';
import { colonPairs, identityNames, makeNaa, makeWwpn } from './identity';
import { parseIscsiName, proposeIqn } from './iscsi';
import { diagnose } from './diagnose';
import { nameSeries, parseName, parseWorkloadName } from './names';
import { parseNqn } from './nqn';
import { editDistance, nearMiss } from './nearness';

const reason = (text: string) => {
  const result = parseIscsiName(text, '2031-04');
  return result.ok ? result.value : result.reason;
};

describe('iSCSI names', () => {
  test.each([
    ['iqn.2031-04.example.skarholt:gate-1', 'iqn.2031-04.example.skarholt:gate-1'],
    [' IQN.2031-04.Example.Skarholt:Gate-1 ', 'iqn.2031-04.example.skarholt:gate-1'],
    ['iqn.2031-04.example.skarholt', 'iqn.2031-04.example.skarholt'],
    ['eui.02004567A425678D', 'eui.02004567a425678d'],
    ['naa.52004567ba64678d', 'naa.52004567ba64678d'],
    ['', 'empty'],
    ['iqn.2031-04.example.skarholt:gate-1,i,0x00023d000001', 'port-name-not-node-name'],
    ['iqn.2031-04.example.skarholt:gate 1', 'space-inside'],
    [`iqn.2031-04.example.${'a'.repeat(220)}`, 'too-long'],
    ['nqn.2031-04.example.skarholt:gate-1', 'bad-prefix'],
    ['iqn.2031-04.example.skarholt:gate_1', 'bad-char'],
    ['iqn.31-04.example.skarholt:gate-1', 'bad-date'],
    ['iqn.2031-13.example.skarholt:gate-1', 'month-out-of-range'],
    ['iqn.2031-05.example.skarholt:gate-1', 'date-in-future'],
    ['iqn.1984-05.example.skarholt:gate-1', 'date-before-domains'],
    ['iqn.2031-04:gate-1', 'missing-authority'],
    ['iqn.2031-04.-x.skarholt:gate-1', 'bad-authority'],
    ['iqn.2031-04.example.skarholt:', 'empty-suffix'],
    ['eui.0200', 'eui-length'],
    ['eui.0200456zA425678D', 'bad-char'],
    ['naa.5200', 'naa-length'],
    ['naa.82004567ba64678d', 'naa-unknown'],
    ['naa.62004567ba64678d', 'naa-length-mismatch'],
    // The profile maps a soft hyphen and a zero-width space to nothing, and prohibits controls and formats.
    ['iqn.2031-04.example.skarholt:ga\u00adte\u200b-1', 'iqn.2031-04.example.skarholt:gate-1'],
    ['iqn.2031-04.example.skarholt:gate\u007f1', 'bad-char'],
    ['iqn.2031-04.example.skarholt:gate\u00851', 'bad-char'],
    ['iqn.2031-04.example.skarholt:gate\u00901', 'bad-char'],
    ['iqn.2031-04.example.skarholt:gate\u202e1', 'bad-char'],
    ['iqn.2031-04.example.skarholt:gate\u00021', 'bad-char'],
  ])('%p gives %p', (text, expected) => expect(reason(text)).toBe(expected));

  test('says where the wrong character stands and what may be meant', () => {
    const result = parseIscsiName('iqn.2031-04.example.skarholt:gate_1', '2031-04');
    expect(result).toMatchObject({ ok: false, at: 34 });
    expect(!result.ok && result.message).toContain('Perhaps - is meant');
  });

  test('a proposed name is a name', () => {
    expect(reason(proposeIqn('iqn.2031-04.example.skarholt', 'Gate_1'))).toBe('iqn.2031-04.example.skarholt:gate-1');
  });
});

describe('names that nobody knows', () => {
  const known = [
    { name: '500005e005300001', role: 'port' as const, owner: 'gate-1' },
    { name: 'iqn.2031-04.example.skarholt:gate-1', role: 'initiator' as const, owner: 'gate-1' },
  ];
  test.each([
    ['0x500005E005300001', 'port', 'exact-after-normalisation'],
    ['naa.500005e005300001', 'port', 'exact-after-normalisation'],
    ['50:00:05:e0:05:30:00:01', 'port', 'exact-after-normalisation'],
    ['naa.500005e005300002', 'port', 'near-miss'],
    ['naa.500005e005300001', 'initiator', 'wrong-kind-or-swapped'],
    ['500005e005300001', 'initiator', 'role-swapped'],
  ] as const)('%s as %s: %s', (given, role, is) => {
    const found = diagnose(given, role, known).is;
    if (is === 'wrong-kind-or-swapped') expect(['role-swapped', 'unknown']).toContain(found);
    else expect(found).toBe(is);
  });
  test.each(['\u007f', '\u0090', '\u00ad', '\u200b', '\u0002'])('an NQN takes no %j', (sign) =>
    expect(parseNqn(`nqn.2031-04.example.skarholt:be${sign}rth`, 'host', '2031-04')).toMatchObject({
      reason: 'space-inside',
      at: 32,
    }),
  );
  test('nor does a workload', () =>
    expect(parseWorkloadName('Tide\u200btables')).toMatchObject({ reason: 'name-bad-char', at: 5 }));
});

test('one volume has a name in every protocol: NAA, NGUID, EUI-64 and UUID, with the company in its place', () => {
  const naa = makeNaa('00005e', 'tickets');
  const [nguid, eui, uuid] = identityNames(naa, true).map(({ value }) => value);
  expect(identityNames(naa, false)).toEqual([{ label: 'NAA', value: `naa.${naa}` }]);
  expect(nguid).toMatch(/^[0-9a-f]{16}00005e[0-9a-f]{10}$/);
  expect(eui).toMatch(/^00005e[0-9a-f]{10}$/);
  expect(uuid).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-8[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
  expect(identityNames(makeNaa('00005e', 'other'), true).map(({ value }) => value)).not.toContain(uuid);
});

describe('nearness', () => {
  test('swapped neighbours are one slip', () => {
    expect(nearMiss('iqn.2021-04.com.example:db10', ['iqn.2021-04.com.example:db01'])).toEqual({
      known: 'iqn.2021-04.com.example:db01',
      distance: 1,
      position: 27,
    });
  });
  test('nothing near, or known', () => {
    expect(nearMiss('abc', ['abc'])).toBeNull();
    expect(nearMiss('abcdef', ['uvwxyz'])).toBeNull();
  });
  test('is a distance: zero to itself and symmetric', () =>
    fc.assert(
      fc.property(fc.string({ maxLength: 12 }), fc.string({ maxLength: 12 }), (a, b) => {
        expect(editDistance(a, a)).toBe(0);
        expect(editDistance(a, b)).toBe(editDistance(b, a));
      }),
    ));
});

test('series of names', () => {
  expect(nameSeries('booking', 1)).toEqual(['booking']);
  expect(nameSeries('booking', 3)).toEqual(['booking-1', 'booking-2', 'booking-3']);
  expect(nameSeries('log-##', 2, 9)).toEqual(['log-09', 'log-10']);
  expect(nameSeries('v#x', 1)).toEqual(['v1x']);
  expect(nameSeries('d', 11)[0]).toBe('d-01');
});

test('names of things', () => {
  expect(parseName(' rg-2 ', 'RAID group')).toMatchObject({ ok: true, value: 'rg-2' });
  expect(parseName('', 'pool')).toMatchObject({ reason: 'name-missing' });
  expect(parseName('a b', 'pool')).toMatchObject({ reason: 'name-bad-char', at: 2 });
  expect(parseName('-a', 'pool')).toMatchObject({ reason: 'name-bad-start' });
  expect(parseName('a'.repeat(64), 'pool')).toMatchObject({ reason: 'name-too-long' });
});

test('identities are made from a seed and stay', () => {
  expect(makeNaa('0a5c10', 'vol_1')).toMatch(/^60a5c10[0-9a-f]{25}$/);
  expect(makeNaa('0a5c10', 'vol_1')).toBe(makeNaa('0a5c10', 'vol_1'));
  expect(makeNaa('0a5c10', 'vol_1')).not.toBe(makeNaa('0a5c10', 'vol_2'));
  expect(colonPairs(makeWwpn('0a5c10', 'p'))).toMatch(/^50:a5:c1:0[0-9a-f](:[0-9a-f]{2}){4}$/);
});
