import { z } from 'zod';
import type { HostInterface, IpAddress, Port } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, hostOf } from '../estate/relations';
import { familyOf, formatAddress, inside, LEAST_IPV6_MTU, parseAddress } from '../network/address';
import { networkOf } from '../network/reach';
import type { Inquiry } from '../operation/inquiry';
import type { Subject } from '../operation/refusal';

export const mtuSchema = z.coerce.number().int().min(576, 'an MTU is at least 576').max(9216, 'an MTU is at most 9216');

/** Who has the address already, in words. */
export function addressHolder(view: EstateView, ip: string, except?: string): string | null {
  const port = view
    .table('port')
    .by('ip', ip)
    .find((row) => row.id !== except);
  if (port) return `port ${port.name} of ${arrayOf(view, port).name}`;
  const held = view
    .table('interface')
    .by('ip', ip)
    .find((row) => row.id !== except);
  return held ? `${held.name} of ${held.host ? hostOf(view, held)?.name : 'nobody'}` : null;
}

/** Reads addresses and refuses what is malformed, doubled or held by another. */
export function readAddresses(
  view: EstateView,
  asks: Inquiry,
  texts: readonly string[],
  field: string,
  owner: string,
  except?: string,
): IpAddress[] {
  const seen = new Set<string>();
  return texts.flatMap((text) => {
    const subject = { kind: 'network', name: text } as const;
    const address = asks.value(parseAddress(text), field, subject);
    if (!address) return [];
    const holder = seen.has(address.ip) ? owner : addressHolder(view, address.ip, except);
    if (holder)
      asks.refuse({
        code: 'duplicate-ip',
        field,
        subject,
        message: `${address.ip} belongs to ${holder} already.`,
        mend: 'Choose an address that is free.',
      });
    seen.add(address.ip);
    return [address];
  });
}

/** Reads `up1`, `up2 standby`, `up3 unused`. */
export const readUplinks = (texts: readonly string[]): HostInterface['uplinks'] =>
  texts.flatMap((text) => {
    const [name, use = 'active'] = text.trim().split(/\s+/);
    return name ? [{ name, use: isUse(use) ? use : 'active' }] : [];
  });

const isUse = (text: string): text is HostInterface['uplinks'][number]['use'] =>
  text === 'active' || text === 'standby' || text === 'unused';

/** Refuses an uplink whose use is no such word, or that is named twice. */
export function askUplinks(
  asks: Inquiry,
  texts: readonly string[],
  subject: Subject,
  field = 'uplinks',
): HostInterface['uplinks'] {
  for (const text of texts) {
    const [name, use = 'active', ...rest] = text.trim().split(/\s+/);
    if (!isUse(use) || rest.length > 0)
      asks.refuse({
        code: 'uplink-use-unknown',
        field,
        subject,
        message: `${name} is to be ${[use, ...rest].join(' ')}, which an uplink cannot be.`,
        mend: `Write ${name} alone, ${name} standby or ${name} unused.`,
      });
  }
  const uplinks = readUplinks(texts);
  const twice = uplinks.find((one, k) => uplinks.findIndex((other) => other.name === one.name) < k);
  if (twice)
    asks.refuse({
      code: 'uplink-twice',
      field,
      subject,
      message: `${twice.name} is named twice among the uplinks.`,
      mend: 'Leave one of them out.',
    });
  return uplinks;
}

/** A row that has addresses while it is being set up. */
type Addressed = Pick<HostInterface | Port, 'addresses' | 'mtu' | 'gateway'>;

/** A gateway that was written, as it is kept; undefined where none was, null where it shall go. It must speak a family of the addresses. */
export function readGateway(
  asks: Inquiry,
  text: string | undefined,
  addresses: readonly IpAddress[],
  field = 'gateway',
): string | null | undefined {
  const written = text?.trim();
  if (!written) return undefined;
  if (written === 'none') return null;
  const subject = { kind: 'network', name: written } as const;
  const ip = asks.value(parseAddress(written, true), field, subject)?.ip;
  if (ip && addresses.length > 0 && !addresses.some((address) => familyOf(address.ip) === familyOf(ip)))
    asks.refuse({
      code: 'address-family-differs',
      field,
      subject,
      message: `${ip} is an ${familyOf(ip)} address, and every address here is ${familyOf(addresses[0]!.ip)}.`,
      mend: 'Write the router’s address of that family.',
    });
  return ip;
}

/** Refuses an MTU over which an address cannot be used. */
export function refuseSmallMtu(
  asks: Inquiry,
  row: Pick<Addressed, 'addresses' | 'mtu'>,
  subject: Subject,
  field = 'mtu',
): void {
  const six = row.addresses.find((address) => familyOf(address.ip) === 'IPv6');
  if (six && row.mtu < LEAST_IPV6_MTU)
    asks.refuse({
      code: 'mtu-too-small',
      field,
      subject,
      message: `IPv6 needs an MTU of ${LEAST_IPV6_MTU}, and ${row.mtu} is set beside ${six.ip}.`,
      mend: `Set ${LEAST_IPV6_MTU} or more.`,
    });
}

/** What the addresses of an end mean for its networks: unknown ones, frames that do not fit, a gateway out of reach, ends that send others. */
export function networkNotes(view: EstateView, row: Addressed, who: string, others: readonly Sender[]): string[] {
  const notes = row.addresses.flatMap((address) => {
    const network = networkOf(view, address);
    if (!network) return [`${formatAddress(address)} lies in no known network.`];
    return network.mtu < row.mtu ? [`${network.name} carries frames of ${network.mtu}; ${who} sends ${row.mtu}.`] : [];
  });
  const { gateway } = row;
  if (gateway && !row.addresses.some((address) => inside(gateway, address)))
    notes.push(`Gateway ${gateway} lies in no subnet of ${who}.`);
  const unlike = others.filter(
    (other) =>
      other.mtu !== row.mtu &&
      row.addresses.some((a) => other.addresses.some((b) => inside(a.ip, b) || inside(b.ip, a))),
  );
  if (unlike.length > 0)
    notes.push(
      `${unlike[0]!.name} sends frames of ${unlike[0]!.mtu}${unlike.length > 1 ? `, and ${unlike.length - 1} more ${unlike.length === 2 ? 'differs' : 'differ'} too` : ''}: they meet at the smaller of both.`,
    );
  return notes;
}

/** Another end whose frames may be of another size. */
export type Sender = Pick<Addressed, 'addresses' | 'mtu'> & { name: string };

/** Portals that hosts meet. */
export const portalSenders = (view: EstateView): Sender[] =>
  [...view.table('port').values()]
    .filter((port) => port.role === 'iscsi' || port.role === 'nvme-tcp')
    .map((port) => ({ ...port, name: `${arrayOf(view, port).name} ${port.name}` }));

/** Host interfaces that meet portals. */
export const hostSenders = (view: EstateView): Sender[] =>
  [...view.table('interface').values()]
    .filter((row) => row.host !== null && row.addresses.length > 0)
    .map((row) => ({ ...row, name: `${hostOf(view, row)?.name} ${row.name}` }));
