import fc from 'fast-check';
import { diagnose, type KnownName } from './diagnose';
import { parseNqn } from './nqn';
import { formatWwn, organisationOf, parseWwn } from './wwn';

const reason = (result: { ok: boolean; reason?: string }) => (result.ok ? 'ok' : result.reason);

describe('Fibre Channel names', () => {
  test.each([
    [' 0x500005E005300001 ', '500005e005300001'],
    ['50:00:05:e0:05:30:00:01', '500005e005300001'],
    ['5000-05e0-0530-0001', '500005e005300001'],
    ['naa.500005e005300001', '500005e005300001'],
    ['50 00 05 e0 05 30 00 01', '500005e005300001'],
    ['1000.0000.5e00.0001', '100000005e000001'],
  ])('%s is read', (text, digits) => expect(parseWwn(text)).toMatchObject({ ok: true, value: digits }));

  test.each([
    ['', 'empty'],
    ['50:00:05:e0:05:30:00:0O', 'bad-char'],
    ['50:0005e0:05:30:00:01', 'bad-grouping'],
    ['50:00-05:e0:05:30:00:01', 'bad-grouping'],
    ['5000', 'too-short'],
    ['500005e00530000112', 'too-long'],
    ['600005e00530000112', 'naa-length-mismatch'],
    ['600005e005300001', 'naa-length-mismatch'],
    ['0000000000000000', 'all-zero'],
    ['ffffffffffffffff', 'all-ones'],
    ['700005e005300001', 'naa-unknown'],
    ['100105e005300001', 'naa1-bits-not-zero'],
    ['600005e005300001600005e005300001', 'volume-id-not-port-name'],
  ])('%s is refused: %s', (text, why) => expect(reason(parseWwn(text))).toBe(why));

  test('a bad character is told with its place and what was meant', () => {
    expect(parseWwn('50:00:05:e0:05:30:00:0O')).toMatchObject({ at: 23 });
    expect(parseWwn('50:00:05:e0:05:30:00:0O')).toHaveProperty(
      'message',
      expect.stringContaining('letter O where the digit 0 is meant'),
    );
  });

  test('volume names', () => {
    expect(reason(parseWwn(`6${'1'.repeat(31)}`, 'volume'))).toBe('ok');
    expect(reason(parseWwn('100000005e000001', 'volume'))).toBe('naa-not-for-volume');
  });

  test('organisation of each format', () => {
    expect(organisationOf('500005e005300001')).toBe('00005e');
    expect(organisationOf('100000005e000001')).toBe('00005e');
    expect(organisationOf('c0005e0005300001')).toBe('00005e');
  });

  test('what is written is read again', () =>
    fc.assert(
      fc.property(fc.stringMatching(/^5[0-9a-f]{15}$/), (digits) => {
        for (const text of [
          formatWwn(digits),
          digits.toUpperCase(),
          `0x${digits}`,
          digits.replace(/....(?!$)/g, '$&-'),
        ])
          expect(parseWwn(text)).toMatchObject({ ok: true, value: digits });
      }),
    ));
});

describe('NQNs', () => {
  test.each([
    ['nqn.2031-04.example.skarholt:berth-sim', 'ok'],
    ['nqn.2014-08.org.nvmexpress:uuid:12345678-1234-1234-1234-123456789abc', 'ok'],
    ['', 'empty'],
    [`nqn.2031-04.example:${'a'.repeat(220)}`, 'too-long'],
    ['nqn.2031-04.example:a b', 'space-inside'],
    ['NQN.2031-04.example:a', 'bad-prefix'],
    ['iqn.2031-04.example:a', 'bad-prefix'],
    ['nqn.2031.example:a', 'bad-date'],
    ['nqn.2031-13.example:a', 'month-out-of-range'],
    ['nqn.2031-05.example:a', 'date-in-future'],
    ['nqn.1984-05.example:a', 'date-before-domains'],
    ['nqn.2014-08.org.nvmexpress.discovery', 'discovery-nqn-wrong-role'],
    ['nqn.2014-08.org.nvmexpress:uuid:1234', 'bad-uuid'],
    ['nqn.2014-08.org.nvmexpress:uuid:00000000-0000-0000-0000-000000000000', 'bad-uuid'],
    ['nqn.2014-08.org.nvmexpress:mine', 'reserved-authority'],
    ['nqn.2031-04', 'missing-authority'],
    ['nqn.2031-04.-bad:a', 'bad-authority'],
    ['nqn.2031-04.example', 'missing-string'],
    ['nqn.2031-04.example:', 'missing-string'],
  ])('%s: %s', (text, why) => expect(reason(parseNqn(text, 'host', '2031-04'))).toBe(why));

  test('capitals are kept and warned about', () => {
    expect(parseNqn('nqn.2031-04.example.skarholt:Berth', 'host', '2031-04')).toMatchObject({
      value: 'nqn.2031-04.example.skarholt:Berth',
      warnings: ['upper-case'],
    });
    expect(reason(parseNqn('nqn.2014-08.org.nvmexpress.discovery', 'discovery', '2031-04'))).toBe('ok');
  });
});

describe('what is wrong with a name nobody knows', () => {
  const known: KnownName[] = [
    { name: 'iqn.2021-04.com.example:db01', role: 'initiator', owner: 'db-1' },
    { name: 'iqn.2021-04.com.example:array', role: 'target', owner: 'lintel-1' },
    { name: 'nqn.2031-04.example:berth', role: 'host', owner: 'berth-sim' },
    { name: '50000a51c1000001', role: 'port', owner: 'cargo-db-1' },
    { name: '20000a51c1000001', role: 'node', owner: 'cargo-db-1' },
  ];
  test.each([
    ['iqn.2021-04.com.example:db01', 'initiator', 'exact'],
    ['IQN.2021-04.com.example:DB01', 'initiator', 'exact-after-normalisation'],
    ['50:00:0a:51:c1:00:00:01', 'port', 'exact-after-normalisation'],
    ['nqn.2031-04.example:Berth', 'host', 'case-differs'],
    ['iqn.2021-04.com.example:array', 'initiator', 'role-swapped'],
    ['20:00:0a:51:c1:00:00:01', 'port', 'role-swapped'],
    ['nqn.2031-04.example:berth', 'initiator', 'role-swapped'],
    ['nqn.2031-04.example:other', 'initiator', 'wrong-kind'],
    ['iqn.2022-04.com.example:db01', 'initiator', 'date-differs'],
    ['iqn.2021-04.com.example:db10', 'initiator', 'near-miss'],
    ['50:00:0a:51:c1:00:00:02', 'port', 'near-miss'],
    ['iqn.2021-04.com.example:somebody', 'initiator', 'unknown'],
  ] as const)('%s as %s: %s', (given, role, is) => expect(diagnose(given, role, known).is).toBe(is));

  test('the slip is told with its place', () =>
    expect(diagnose('iqn.2021-04.com.example:db10', 'initiator', known)).toMatchObject({
      distance: 1,
      position: 27,
      message: expect.stringContaining('two neighbours swapped, at position 27') as string,
    }));
});
