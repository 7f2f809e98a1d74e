import ipaddr from 'ipaddr.js';
import type { IpAddress } from '../estate/entities';
import { notParsed, parsed, type Parsed } from '../units/parsed';

export type Family = 'IPv4' | 'IPv6';
export const familyOf = (ip: string): Family => (ip.includes(':') ? 'IPv6' : 'IPv4');

/** Bits of an address of the family. */
export const bitsOf = (family: Family): number => (family === 'IPv6' ? 128 : 32);

/** Addresses are compared far more often than there are different ones, so each is read once. */
const known = new Map<string, readonly number[]>();
const MOST_KNOWN = 200_000;

function octetsOf(ip: string): readonly number[] {
  let octets = known.get(ip);
  if (octets === undefined) {
    octets = ipaddr.isValid(ip) ? ipaddr.parse(ip).toByteArray() : [];
    if (known.size >= MOST_KNOWN) known.clear();
    known.set(ip, octets);
  }
  return octets;
}

const LEAST_PREFIX = 8;
const IPV4 = /^(0|[1-9]\d{0,2})(\.(0|[1-9]\d{0,2})){3}$/;
const EXAMPLE: Record<Family, string> = { IPv4: '10.40.1.21/24', IPv6: '2001:db8:40:1::21/64' };

/**
 * Reads `10.40.1.21/24` or `2001:db8:40:1::21/64`; IPv6 comes out as RFC 5952 writes it. `alone` reads an address without a prefix. Reasons: empty,
 * bad-address, not-of-one-machine, prefix-missing, bad-prefix, network-address, broadcast-address.
 */
export function parseAddress(text: string, alone = false): Parsed<IpAddress> {
  const trimmed = text.trim().replace(/^\[(.*)\](\/.*)?$/, '$1$2');
  if (trimmed === '')
    return notParsed(
      'empty',
      `No address is given. Write one${alone ? '' : ' with its prefix'}, such as ${EXAMPLE.IPv4.slice(0, alone ? -3 : undefined)}.`,
    );
  const [written = '', prefixText, ...rest] = trimmed.split('/');
  const family = familyOf(written);
  const example = alone ? EXAMPLE[family].replace(/\/.*/, '') : EXAMPLE[family];
  const fits = family === 'IPv6' ? ipaddr.IPv6.isValid(written) && !written.includes('%') : isIpv4(written);
  if (rest.length > 0 || !fits)
    return notParsed(
      'bad-address',
      family === 'IPv6'
        ? `${trimmed} is no IPv6 address. Write groups of up to four hexadecimal digits${alone ? '' : ' and the prefix'}, such as ${example}.`
        : `${trimmed} is no IPv4 address. Write four numbers from 0 to 255${alone ? '' : ' and the prefix'}, such as ${example}.`,
    );
  const address = ipaddr.parse(written);
  const ip = address.kind() === 'ipv6' ? (address as ipaddr.IPv6).toRFC5952String() : address.toString();
  const range = address.range();
  const odd = oddRanges[range];
  if (odd)
    return notParsed('not-of-one-machine', `${ip} ${odd}. Write the address of one machine, such as ${example}.`);
  const bits = bitsOf(family);
  if (alone && prefixText === undefined) return parsed({ ip, prefix: bits });
  if (prefixText === undefined)
    return notParsed(
      'prefix-missing',
      `${ip} has no prefix. Write how many bits name the subnet: ${ip}/${family === 'IPv6' ? 64 : 24}.`,
    );
  const prefix = Number(prefixText);
  if (!/^\d{1,3}$/.test(prefixText) || prefix < LEAST_PREFIX || prefix > bits)
    return notParsed('bad-prefix', `/${prefixText} is no usable prefix; it runs from /${LEAST_PREFIX} to /${bits}.`);
  // The two addresses of a point-to-point subnet, and one that stands alone, are machines (RFC 3021, RFC 6164).
  if (prefix < bits - 1) {
    const host = hostBits(octetsOf(ip), prefix);
    if (host === 'zeros')
      return notParsed(
        'network-address',
        `${ip}/${prefix} names the subnet itself. Write the address of one machine in it.`,
      );
    if (host === 'ones' && family === 'IPv4')
      return notParsed(
        'broadcast-address',
        `${ip}/${prefix} is the subnet's broadcast address. Write the address of one machine in it.`,
      );
  }
  return parsed({ ip, prefix });
}

const isIpv4 = (text: string): boolean => IPV4.test(text) && text.split('.').every((part) => Number(part) <= 255);

/** Ranges (as the address library names them) that belong to no single machine of a storage network. */
const oddRanges: Record<string, string> = {
  multicast: 'is an address of a group (multicast)',
  broadcast: 'is the broadcast address',
  unspecified: 'is no address but the sign for none',
  loopback: 'is the loopback address',
  linkLocal: 'is link-local: it holds on one link only',
  ipv4Mapped: 'is an IPv4 address in the dress of IPv6',
};

/** What the bits behind the prefix are. */
function hostBits(octets: readonly number[], prefix: number): 'zeros' | 'ones' | 'mixed' {
  let [zeros, ones] = [true, true];
  for (let bit = prefix; bit < octets.length * 8; bit += 1) {
    const set = (octets[bit >> 3]! >> (7 - (bit & 7))) & 1;
    if (set) zeros = false;
    else ones = false;
  }
  if (zeros) return 'zeros';
  return ones ? 'ones' : 'mixed';
}

/** Whether `ip` lies in the subnet of `of`; addresses of two families never do. */
export function inside(ip: string, of: IpAddress): boolean {
  const [a, b] = [octetsOf(ip), octetsOf(of.ip)];
  if (a.length !== b.length || a.length === 0) return false;
  const whole = of.prefix >> 3;
  for (let k = 0; k < whole; k += 1) if (a[k] !== b[k]) return false;
  const rest = of.prefix & 7;
  return rest === 0 || (a[whole]! ^ b[whole]!) >> (8 - rest) === 0;
}

export const formatAddress = (address: IpAddress): string => `${address.ip}/${address.prefix}`;

/** Whether the address lies in the network `10.40.1.0/24`, `2001:db8:40:1::/64`. */
export function inNetwork(address: IpAddress, cidr: string): boolean {
  const [ip = '', prefix] = cidr.split('/');
  return inside(address.ip, { ip, prefix: prefix === undefined ? bitsOf(familyOf(ip)) : Number(prefix) });
}

/** The largest payload of an echo request that goes unfragmented through an MTU: less the IP header (20 or 40 bytes) and 8 of ICMP. */
export const echoPayload = (mtu: number, family: Family): number => mtu - (family === 'IPv6' ? 48 : 28);

/** The least MTU over which IPv6 runs (RFC 8200 §5). */
export const LEAST_IPV6_MTU = 1280;
