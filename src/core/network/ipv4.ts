import { notParsed, parsed, type Parsed } from '../units/parsed';
import type { IpAddress } from '../estate/entities';

/** Addresses are compared far more often than there are different ones, so each is read once. */
const known = new Map<string, number>();
const MOST_KNOWN = 200_000;

function toNumber(ip: string): number {
  let number = known.get(ip);
  if (number === undefined) {
    number = ip.split('.').reduce((sum, part) => sum * 256 + Number(part), 0);
    if (known.size >= MOST_KNOWN) known.clear();
    known.set(ip, number);
  }
  return number;
}
const size = (prefix: number): number => 2 ** (32 - prefix);

/** Reads `10.40.1.21/24`. Reasons: empty, bad-address, prefix-missing, bad-prefix, network-address, broadcast-address. */
export function parseAddress(text: string): Parsed<IpAddress> {
  const trimmed = text.trim();
  if (trimmed === '')
    return notParsed('empty', 'No address is given. Write one with its prefix, such as 10.40.1.21/24.');
  const [ip = '', prefixText, ...rest] = trimmed.split('/');
  const parts = ip.split('.');
  if (
    rest.length > 0 ||
    parts.length !== 4 ||
    !parts.every((part) => /^(0|[1-9]\d{0,2})$/.test(part) && Number(part) <= 255)
  )
    return notParsed(
      'bad-address',
      `${trimmed} is no IPv4 address. Write four numbers from 0 to 255 and the prefix, such as 10.40.1.21/24.`,
    );
  if (prefixText === undefined)
    return notParsed('prefix-missing', `${trimmed} has no prefix. Write how many bits name the subnet: ${trimmed}/24.`);
  const prefix = Number(prefixText);
  if (!/^\d{1,2}$/.test(prefixText) || prefix < 8 || prefix > 32)
    return notParsed('bad-prefix', `/${prefixText} is no usable prefix; it runs from /8 to /32.`);
  const number = toNumber(ip);
  if (prefix < 31 && number % size(prefix) === 0)
    return notParsed('network-address', `${trimmed} names the subnet itself. Write the address of one machine in it.`);
  if (prefix < 31 && number % size(prefix) === size(prefix) - 1)
    return notParsed(
      'broadcast-address',
      `${trimmed} is the subnet's broadcast address. Write the address of one machine in it.`,
    );
  return parsed({ ip, prefix });
}

/** Whether `ip` lies in the subnet of `of`. */
export const inside = (ip: string, of: IpAddress): boolean =>
  Math.floor(toNumber(ip) / size(of.prefix)) === Math.floor(toNumber(of.ip) / size(of.prefix));

export const formatAddress = (address: IpAddress): string => `${address.ip}/${address.prefix}`;

/** Whether the address lies in the network `10.40.1.0/24`. */
export function inNetwork(address: IpAddress, cidr: string): boolean {
  const [ip = '', prefix = '32'] = cidr.split('/');
  return inside(address.ip, { ip, prefix: Number(prefix) });
}
