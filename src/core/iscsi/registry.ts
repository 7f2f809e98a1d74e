import type { EstateView } from '../estate/estate';
import { isControlNode, nameServerUp, seesByIsns } from './isns';
import { portalsOf, portalTexts, targetText } from './target';

/** A node as name servers hold it (RFC 4171 §6): with its entity, its portals and its domains. */
export interface RegisteredNode {
  name: string;
  role: 'target' | 'initiator';
  /** The network entity: the array or host. */
  entity: string;
  /** `ip:port` of targets, addresses of initiators. */
  portals: string[];
  domains: string[];
  control: boolean;
  /** Of an initiator, by what it is told of: targets by array and alias. */
  discovers: string[];
}

/** What is registered, targets first: targets that register, and initiators of hosts that ask a name server. Empty while none answers. */
export function registeredNodes(view: EstateView): RegisteredNode[] {
  if (!nameServerUp(view)) return [];
  const domainsOf = (name: string) =>
    view
      .table('discoveryDomain')
      .by('member', name)
      .map((domain) => domain.name)
      .sort();
  const targets = [...view.table('target').values()]
    .filter((target) => target.isns && target.enabled && portalsOf(view, target).length > 0)
    .map((target) => ({ target, text: targetText(view, target), portals: portalTexts(portalsOf(view, target)) }))
    .sort((a, b) => (a.text < b.text ? -1 : 1));
  const initiators = [...view.table('host').values()]
    .filter((host) => host.discovery === 'isns' && host.presents !== null)
    .sort((a, b) => (a.name < b.name ? -1 : 1));
  return [
    ...targets.map(({ target, text, portals }) => ({
      name: target.iqn,
      role: 'target' as const,
      entity: text,
      portals,
      domains: domainsOf(target.iqn),
      control: false,
      discovers: [],
    })),
    ...initiators.map((host) => ({
      name: host.presents!,
      role: 'initiator' as const,
      entity: host.name,
      portals: view
        .table('interface')
        .by('host', host.id)
        .flatMap((row) => row.addresses.map(({ ip }) => ip))
        .sort(),
      domains: domainsOf(host.presents!),
      control: isControlNode(view, host.presents!),
      discovers: targets
        .filter(({ target, portals }) => seesByIsns(view, host.presents!, target.iqn, portals).visible)
        .map(({ text }) => text),
    })),
  ];
}
