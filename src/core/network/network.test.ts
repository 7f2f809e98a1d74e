import type { HostInterface, Port } from '../estate/entities';
import { rowOf } from '../estate/entities';
import { Estate } from '../estate/estate';
import { formatAddress, inside, parseAddress } from './ipv4';
import { networkFinder, reach } from './reach';

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
    const result = reach(networkFinder(estate), a, b);
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
  });
});
