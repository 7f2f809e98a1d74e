import type { ArrayRow, Host } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import { lookUpAddress } from '../network/portal';
import { networksOf, reach } from '../network/reach';
import { discoveryLog, DISCOVERY_PORT, type DiscoveryEntry } from './connect';
import { serviceText, walkDiscovery, type DiscoveryService, type LogPage, type Walk } from './referrals';

/** An entry of a discovery log with the array that serves it, and the one whose referral led there; empty where the host asked it itself. */
export interface FoundEntry extends DiscoveryEntry {
  array: string;
  referredBy: string;
}

/** What a host finds by discovery, and which referrals lead nowhere or in a circle, in words. */
export interface Discovered {
  entries: FoundEntry[];
  warnings: string[];
}

export const servicesOf = (view: EstateView, array: ArrayRow): DiscoveryService[] =>
  view
    .table('port')
    .by('array', array.id)
    .filter((port) => port.role === 'nvme-tcp')
    .flatMap((port) => port.addresses.map(({ ip }) => ({ address: ip, service: DISCOVERY_PORT })));

/** The array whose discovery service answers at an address. */
export function arrayAt(view: EstateView, { address, service }: DiscoveryService): ArrayRow | undefined {
  const port = service === DISCOVERY_PORT ? lookUpAddress(view, address) : undefined;
  return port?.role === 'nvme-tcp' ? arrayOf(view, port) : undefined;
}

export const referralsOf = (array: ArrayRow): DiscoveryService[] =>
  array.referrals.map(({ ip, service }) => ({ address: ip, service }));

/** Asks the discovery service of every array in reach, and follows what they refer to. A host without NQN finds nothing. */
export function discover(view: EstateView, host: Host): Discovered {
  const found: Discovered = { entries: [], warnings: [] };
  if (host.nqn === null) return found;
  const networks = networksOf(view);
  const ends = view.table('interface').by('host', host.id);
  const reached = ({ address }: DiscoveryService): boolean => {
    const port = lookUpAddress(view, address);
    return port !== undefined && ends.some((from) => from.kind === 'ethernet' && reach(networks, from, port).ok);
  };
  const read = (service: DiscoveryService): LogPage<DiscoveryEntry & { array: string }> | null => {
    const array = arrayAt(view, service);
    if (!array || !reached(service)) return null;
    return {
      generation: 0,
      entries: discoveryLog(view, host, array).map((entry) => ({ ...entry, array: array.name })),
      referrals: referralsOf(array),
    };
  };
  const nameAt = (service: DiscoveryService): string => arrayAt(view, service)?.name ?? serviceText(service);
  const asked = new Set<string>();
  for (const array of [...view.table('array').values()].sort((a, b) => (a.name < b.name ? -1 : 1))) {
    const first = servicesOf(view, array).find(reached);
    if (!first || asked.has(array.name)) continue;
    const walk = walkDiscovery([first], read);
    for (const { at, by } of walk.asked) {
      const name = nameAt(at);
      if (asked.has(name)) continue;
      asked.add(name);
      const entries = walk.entries.filter((entry) => entry.array === name);
      const seen = new Set<string>();
      for (const entry of entries) {
        const key = `${entry.nqn} ${entry.address} ${entry.service}`;
        if (seen.has(key)) continue;
        seen.add(key);
        found.entries.push({ ...entry, referredBy: by ? nameAt(by) : '' });
      }
    }
    found.warnings.push(...walkWarnings(view, host, walk, nameAt));
  }
  found.warnings = [...new Set(found.warnings)];
  return found;
}

/** Where referrals lead nowhere, in a circle or too deep, in sentences. */
function walkWarnings<Entry>(
  view: EstateView,
  host: Host,
  walk: Pick<Walk<Entry>, 'loops' | 'tooDeep' | 'silent'>,
  nameAt: (service: DiscoveryService) => string,
): string[] {
  return [
    ...walk.silent.map((at) =>
      arrayAt(view, at)
        ? `A referral leads to ${nameAt(at)} at ${serviceText(at)}, which ${host.name} does not reach.`
        : `Nothing answers at ${serviceText(at)}, to which a referral leads.`,
    ),
    ...walk.loops.map(({ from, to }) => `${nameAt(from)} refers to ${nameAt(to)}, which leads back to it.`),
    ...walk.tooDeep.map(
      ({ from, to }) => `The referral of ${nameAt(from)} to ${nameAt(to)} lies too deep to be followed.`,
    ),
  ];
}
