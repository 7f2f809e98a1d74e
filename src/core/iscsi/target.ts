import type { AccessLevel, Host, HostInterface, Initiator, Port, Proof, Target } from '../estate/entities';
import { changed, type Effect } from '../estate/effects';
import type { EstateView } from '../estate/estate';
import { arrayOf, portOf } from '../estate/relations';
import { inside } from '../network/address';
import { ISCSI_PORT, listensAt } from '../network/portal';
import { lookUp } from '../operation/inquiry';

/** Targets of an array: the main one first, the others by name. */
export const targetsOf = (view: EstateView, array: string): Target[] =>
  [...view.table('target').by('array', array)].sort(
    (a, b) => Number(b.main) - Number(a.main) || (a.name < b.name ? -1 : 1),
  );

/** The target that shows what mappings show that name none. */
export const mainTarget = (view: EstateView, array: string): Target | undefined =>
  view
    .table('target')
    .by('array', array)
    .find((row) => row.main);

export const targetByIqn = (view: EstateView, iqn: string): Target | undefined =>
  view.table('target').by('iqn', iqn)[0];

/** How people call a target: the main one by its array. */
export function targetText(view: EstateView, target: Target): string {
  const array = arrayOf(view, target).name;
  return target.main ? array : `${array}/${target.name}`;
}

/** A target as people write it: its array, `array/name`, or its iSCSI name. */
export function lookUpTarget(view: EstateView, ref: string): Target | undefined {
  const [first = '', name, ...rest] = ref.trim().split('/');
  const array = rest.length === 0 ? lookUp(view, 'array', first) : undefined;
  if (array) return name === undefined ? mainTarget(view, array.id) : lookUp(view, 'target', name, array.id);
  return targetByIqn(view, ref.trim());
}

/** Where a target answers. */
export interface TargetPortal {
  port: Port;
  tcp: number;
  /** Target portal group tag. */
  group: number;
}

/** Portals of a target, by the names of their ports: those it names as long as they serve iSCSI, else every iSCSI port of its array. */
export function portalsOf(view: EstateView, target: Target): TargetPortal[] {
  const named = target.portals;
  const portals =
    named === null
      ? view
          .table('port')
          .by('array', target.array)
          .map((port) => ({ port, tcp: null, group: null }))
      : named.flatMap((portal) => {
          const port = portOf(view, portal);
          return port ? [{ ...portal, port }] : [];
        });
  return portals
    .filter(({ port }) => port.role === 'iscsi')
    .map(({ port, tcp, group }) => ({ port, tcp: tcp ?? listensAt(port), group: group ?? port.portalGroup }))
    .sort((a, b) => (a.port.name < b.port.name ? -1 : 1));
}

/** `ip:port` of everything a target answers at. */
export const portalTexts = (portals: readonly TargetPortal[]): string[] =>
  portals.flatMap(({ port, tcp }) => port.addresses.map(({ ip }) => portalText(ip, tcp)));

/** An address as portals are written: IPv6 in brackets (RFC 7143 Appendix C). */
export const portalText = (ip: string, tcp: number = ISCSI_PORT): string =>
  `${ip.includes(':') ? `[${ip}]` : ip}:${tcp}`;

/** What a target grants one initiator that asks from one interface, and what it demands of it. */
export interface Grant {
  level: AccessLevel;
  auth: Proof;
  /** The rule that decides, as it is written; null where what is usual does. */
  by: string | null;
}

/** A rule's `who`, read once: an address with its prefix length, or a name. */
function subnetOf(who: string): { ip: string; prefix: number } | null {
  const [ip = '', prefix] = who.split('/');
  if (!/^[\d.]+$/.test(ip) && !ip.includes(':')) return null;
  if (/^(iqn|eui|naa)\./.test(who)) return null;
  const whole = ip.includes(':') ? 128 : 32;
  return { ip, prefix: prefix === undefined ? whole : Number(prefix) };
}

/** Ranks of rules that name an initiator or its host, above every prefix length; and that of one that does not fit. */
const [BY_NAME, BY_HOST, NOT_FOR_IT] = [1000, 500, -1];

/**
 * The rule that is nearest to the initiator decides: its own name, then the name of its host (which resolves to the addresses of its ports), then the
 * longest prefix that an address of the interface lies in. Where none fits, what is usual holds.
 */
export function grantOf(
  target: Target,
  { name, host, from }: { name: string | null; host: Host; from?: Pick<HostInterface, 'addresses'> },
): Grant {
  let best: { rank: number; rule: Target['rules'][number] } | null = null;
  const rankOf = (who: string): number => {
    if (who === name) return BY_NAME;
    if (who.toLowerCase() === host.name.toLowerCase()) return BY_HOST;
    const net = subnetOf(who);
    return net && from?.addresses.some((address) => inside(address.ip, net)) ? net.prefix : NOT_FOR_IT;
  };
  for (const rule of target.rules) {
    const rank = rankOf(rule.who);
    if (rank >= 0 && rank > (best?.rank ?? -1)) best = { rank, rule };
  }
  return best
    ? { level: best.rule.level, auth: best.rule.auth ?? target.auth, by: best.rule.who }
    : { level: target.usual, auth: target.auth, by: null };
}

/** Targets with rules for hosts or initiators, each rule under the new name of whom it is for, or gone with it (`null`). */
export function ruledAnew(view: EstateView, renamed: Readonly<Record<string, string | null>>): Effect[] {
  const names = new Map(Object.entries(renamed).map(([old, name]) => [old.toLowerCase(), name]));
  return [...view.table('target').values()]
    .filter((target) => target.rules.some((rule) => names.has(rule.who.toLowerCase())))
    .map((target) =>
      changed('target', target, {
        rules: target.rules.flatMap((rule) => {
          const name = names.get(rule.who.toLowerCase());
          if (name === undefined) return rule;
          return name === null ? [] : { ...rule, who: name };
        }),
      }),
    );
}

/** Whether some rule asks where an initiator comes from, so that interfaces of one host may be treated differently. */
export const asksForAddresses = (target: Target): boolean => target.rules.some((rule) => subnetOf(rule.who) !== null);

/** Connections of one session: the smaller of what both sides take (RFC 7143 §13.2, MaxConnections). */
export const agreedConnections = (host: Pick<Host, 'connections'>, target: Pick<Target, 'maxConnections'>): number =>
  Math.min(host.connections, target.maxConnections);

const rank: Record<AccessLevel, number> = { none: 0, 'read-only': 1, 'read-write': 2 };
export const lesser = (a: AccessLevel, b: AccessLevel): AccessLevel => (rank[a] < rank[b] ? a : b);

/** What an array grants an initiator on its own record, whichever target it asks. */
export const arrayGrants = (view: EstateView, initiator: Initiator | undefined, array: string): AccessLevel =>
  (initiator &&
    view
      .table('access')
      .by('initiator', initiator.id)
      .find((row) => row.array === array)?.level) ??
  'read-write';
