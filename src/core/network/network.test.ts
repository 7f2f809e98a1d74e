import type { HostInterface, Port } from '../estate/entities';
import { rowOf } from '../estate/entities';
import { Estate } from '../estate/estate';
import fc from 'fast-check';
import ipaddr from 'ipaddr.js';
import { echoPayload, formatAddress, inNetwork, inside, parseAddress } from './address';
import { listensAt, splitPortal } from './portal';
import { networksOf, reach } from './reach';

test.each([
  ['10.40.1.21/24', '10.40.1.21/24'],
  [' 10.0.0.1/31', '10.0.0.1/31'],
  ['', 'empty'],
  ['10.40.1', 'bad-address'],
  ['10.40.1.256/24', 'bad-address'],
  ['10.40.01.2/24', 'bad-address'],
  ['10.40.1.21', 'prefix-missing'],
  ['10.40.1.21/33', 'bad-prefix'],
  ['10.40.1.0/24', 'network-address'],
  ['10.40.1.255/24', 'broadcast-address'],
  ['224.0.0.9/24', 'not-of-one-machine'],
  ['127.0.0.1/8', 'not-of-one-machine'],
  ['0x0a.40.1.1/24', 'bad-address'],
  ['10.40.1.21/24/24', 'bad-address'],
  ['2001:DB8:40:1:0:0:0:21/64', '2001:db8:40:1::21/64'],
  ['[2001:db8:40:1::21]/64', '2001:db8:40:1::21/64'],
  ['2001:db8:40:1::21', 'prefix-missing'],
  ['2001:db8:40:1::21/129', 'bad-prefix'],
  ['2001:db8:40:1::/64', 'network-address'],
  ['2001:db8:40:1::/127', '2001:db8:40:1::/127'],
  ['2001:db8:40:1:ffff:ffff:ffff:ffff/64', '2001:db8:40:1:ffff:ffff:ffff:ffff/64'],
  ['2001:db8:::1/64', 'bad-address'],
  ['2001:db8:40:1::21%eth0/64', 'bad-address'],
  ['fe80::1/64', 'not-of-one-machine'],
  ['ff02::1/64', 'not-of-one-machine'],
  ['::1/64', 'not-of-one-machine'],
  ['::ffff:10.40.1.21/64', 'not-of-one-machine'],
])('address %p gives %p', (text, expected) => {
  const result = parseAddress(text);
  expect(result.ok ? formatAddress(result.value) : result.reason).toBe(expected);
});

test('inside a subnet', () => {
  expect(inside('10.40.1.200', { ip: '10.40.1.21', prefix: 24 })).toBe(true);
  expect(inside('10.40.2.1', { ip: '10.40.1.21', prefix: 24 })).toBe(false);
  expect(inside('192.168.0.1', { ip: '192.168.0.1', prefix: 32 })).toBe(true);
});

describe('reach', () => {
  const estate = Estate.of([
    {
      kind: 'network',
      row: rowOf('network', { id: 'net_a', name: 'a', site: 's', cidr: '10.40.1.0/24', mtu: 9000, state: 'up' }),
    },
    {
      kind: 'network',
      row: rowOf('network', { id: 'net_b', name: 'b', site: 's', cidr: '10.40.2.0/24', mtu: 1500, state: 'up' }),
    },
    {
      kind: 'network',
      row: rowOf('network', { id: 'net_c', name: 'c', site: 's', cidr: '10.40.3.0/24', mtu: 9000, state: 'down' }),
    },
  ]);
  const from = (ip: string | null, more: Partial<HostInterface> = {}): HostInterface => ({
    ...rowOf('interface', { id: 'if', name: 'eth0', host: 'h', mtu: 9000, state: 'up', addresses: [] }),
    addresses: ip ? [{ ip, prefix: 24 }] : [],
    ...more,
  });
  const to = (ip: string | null, more: Partial<Port> = {}): Port => ({
    ...rowOf('port', {
      id: 'p',
      name: 'a-e0',
      array: 'x',
      controller: 'c',
      kind: 'ethernet',
      role: 'iscsi',
      speed: 25,
      wwpn: null,
      mtu: 9000,
      portalGroup: 1,
      state: 'up',
      addresses: [],
    }),
    addresses: ip ? [{ ip, prefix: 24 }] : [],
    ...more,
  });
  const why = (a: HostInterface, b: Port) => {
    const result = reach(networksOf(estate), a, b);
    return result.ok ? result.warnings.join() : result.reason;
  };
  test('one subnet', () => expect(why(from('10.40.1.5'), to('10.40.1.1'))).toBe(''));
  test('differing frames', () => expect(why(from('10.40.1.5', { mtu: 1500 }), to('10.40.1.1'))).toBe('mtu-differs'));
  test('order of reasons', () => {
    expect(why(from('10.40.1.5', { state: 'down' }), to(null, { state: 'down' }))).toBe('interface-down');
    expect(why(from(null), to(null))).toBe('interface-without-address');
    expect(why(from('10.40.1.5'), to(null, { state: 'down' }))).toBe('portal-down');
    expect(why(from('10.40.1.5'), to(null))).toBe('portal-without-address');
    expect(why(from('10.40.1.5'), to('10.40.2.1'))).toBe('no-route');
    expect(why(from('10.40.1.5'), to('10.40.2.1', { addresses: [{ ip: '10.40.2.1', prefix: 16 }] }))).toBe(
      'prefix-mismatch',
    );
    expect(why(from('10.40.2.5'), to('10.40.2.1'))).toBe('mtu-black-hole');
    expect(why(from('10.40.3.5'), to('10.40.3.1'))).toBe('network-down');
    expect(why(from('10.40.1.5'), to('2001:db8::1'))).toBe('address-family-differs');
  });
});

test('an address alone needs no prefix, and may be written in brackets', () => {
  const read = (text: string) => {
    const result = parseAddress(text, true);
    return result.ok ? formatAddress(result.value) : result.reason;
  };
  expect(['10.40.1.5', '[2001:db8::5]', '10.40.1', ''].map(read)).toEqual([
    '10.40.1.5/32',
    '2001:db8::5/128',
    'bad-address',
    'empty',
  ]);
});

test('inside agrees with a library’s match, in both families', () => {
  const octet = fc.nat(255);
  const four = fc.tuple(octet, octet, octet, octet).map((parts) => parts.join('.'));
  const word = fc.nat(0xffff).map((value) => value.toString(16));
  const six = fc.array(word, { minLength: 8, maxLength: 8 }).map((words) => words.join(':'));
  const near = (ip: string, bit: number): string => {
    const bytes = ipaddr.parse(ip).toByteArray();
    bytes[bit >> 3]! ^= 0x80 >> (bit & 7);
    return ipaddr.fromByteArray(bytes).toString();
  };
  const trial = (ip: fc.Arbitrary<string>, bits: number) =>
    fc.assert(
      fc.property(ip, fc.nat(bits - 1), fc.integer({ min: 0, max: bits }), (a, bit, prefix) => {
        const b = near(a, bit);
        expect(inside(b, { ip: a, prefix })).toBe(bit >= prefix);
        expect(inside(b, { ip: a, prefix })).toBe(ipaddr.parse(b).match(ipaddr.parse(a) as never, prefix));
      }),
    );
  trial(four, 32);
  trial(six, 128);
});

test('families never share a subnet; networks know their own', () => {
  expect(inside('10.40.1.1', { ip: '2001:db8::1', prefix: 0 })).toBe(false);
  expect(inNetwork({ ip: '2001:db8:40:1::21', prefix: 64 }, '2001:db8:40:1::/64')).toBe(true);
  expect(inNetwork({ ip: '2001:db8:40:2::21', prefix: 64 }, '2001:db8:40:1::/64')).toBe(false);
});

test('the largest echo that goes unfragmented', () =>
  expect([echoPayload(1500, 'IPv4'), echoPayload(9000, 'IPv6')]).toEqual([1472, 8952]));

test.each([
  ['10.40.1.11', '10.40.1.11', null],
  [' 10.40.1.11:3261 ', '10.40.1.11', 3261],
  ['[2001:DB8::11]:3261', '2001:db8::11', 3261],
  ['[2001:db8::11]', '2001:db8::11', null],
  ['2001:db8::11', '2001:db8::11', null],
])('portal %p', (text, ip, tcp) => expect(splitPortal(text)).toEqual({ ip, tcp }));

test('ports listen where their role usually does, unless another port is set', () =>
  expect([
    listensAt({ role: 'iscsi', tcpPort: null }),
    listensAt({ role: 'nvme-tcp', tcpPort: null }),
    listensAt({ role: 'iscsi', tcpPort: 860 }),
  ]).toEqual([3260, 4420, 860]));
