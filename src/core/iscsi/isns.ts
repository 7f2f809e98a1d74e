import type { EstateView } from '../estate/estate';

/** Domains that are active: in at least one enabled set (RFC 4171 §2.4). */
function activeDomainsOf(view: EstateView, name: string) {
  return view
    .table('discoveryDomain')
    .by('member', name)
    .filter((domain) =>
      view
        .table('domainSet')
        .by('domain', domain.id)
        .some((set) => set.enabled),
    );
}

export interface Seen {
  visible: boolean;
  /** `ip:port` that are offered; null for all of the target's. */
  portals: string[] | null;
  /** Sets that hold a domain of both and are not enabled: enabling one would do. */
  wouldHelp: string[];
  /** Domains that hold both and are not active. */
  domains: string[];
}

/**
 * Whether the name server shows `target` to `initiator`: an active domain holds both, or neither is in any domain and the default domain is on.
 * Where shared active domains name portals of the target, only those are offered (RFC 4171).
 */
export function seesByIsns(
  view: EstateView,
  initiator: string,
  target: string,
  targetPortals: readonly string[],
): Seen {
  const shared = activeDomainsOf(view, initiator).filter((domain) => domain.members.includes(target));
  const sets = [...view.table('domainSet').values()];
  const wouldHelp = sets
    .filter(
      (set) =>
        !set.enabled &&
        set.domains.some((id) => {
          const domain = view.table('discoveryDomain').get(id);
          return domain?.members.includes(initiator) && domain.members.includes(target);
        }),
    )
    .map((set) => set.name)
    .sort();
  const undomained = (name: string) => view.table('discoveryDomain').countBy('member', name) === 0;
  const byDefault =
    undomained(initiator) &&
    undomained(target) &&
    [...view.table('nameServer').values()].some((server) => server.state === 'up' && server.defaultDomain);
  const domains = view
    .table('discoveryDomain')
    .by('member', initiator)
    .filter((domain) => domain.members.includes(target) && !shared.includes(domain))
    .map((domain) => domain.name)
    .sort();
  if (isControlNode(view, initiator)) return { visible: true, portals: null, wouldHelp, domains };
  if (shared.length === 0) return { visible: byDefault, portals: null, wouldHelp, domains };
  const named = [...new Set(shared.flatMap((domain) => domain.portals))].filter((portal) =>
    targetPortals.includes(portal),
  );
  return { visible: true, portals: named.length > 0 ? named : null, wouldHelp, domains };
}

/** Whether a name server that is up takes a node for one of its control nodes (RFC 4171 §2.4): it sees all that is registered. */
export const isControlNode = (view: EstateView, name: string): boolean =>
  [...view.table('nameServer').values()].some((server) => server.state === 'up' && server.controlNodes.includes(name));

/** Whether any name server answers. */
export const nameServerUp = (view: EstateView): boolean =>
  [...view.table('nameServer').values()].some((server) => server.state === 'up');
