import type { Host, HostInterface, Target } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { networksOf, reach } from '../network/reach';
import { nameServerUp, seesByIsns } from './isns';
import { nameRefusal } from './login';
import {
  arrayGrants,
  grantOf,
  lesser,
  portalsOf,
  portalText,
  portalTexts,
  targetsOf,
  type TargetPortal,
} from './target';

/** An address a host is told of, as `TargetAddress=ip:port,group` (RFC 7143 Appendix C). */
export interface OfferedPortal {
  address: string;
  group: number;
  /** No interface of the host reaches it: it costs a login time-out each time. */
  reached: boolean;
}

export interface DiscoveredTarget {
  target: Target;
  /** Whether the host is told of it. */
  offered: boolean;
  portals: OfferedPortal[];
}

/** What of a target's portals the host reaches from which interfaces. */
function reachOf(view: EstateView, ethernet: readonly HostInterface[], portal: TargetPortal): HostInterface[] {
  const networks = networksOf(view);
  return ethernet.filter((from) => reach(networks, from, portal.port).ok);
}

/**
 * What a host finds of an array's targets. Asking portals (SendTargets=All, RFC 7143 Appendix C) it is told of those it may log in to, by any portal
 * that it reaches, and of each with all portals and their group tags, also those it cannot reach. A name server shows what shares an active domain.
 */
export function discoveredTargets(view: EstateView, host: Host, array: string): DiscoveredTarget[] {
  const ethernet = view
    .table('interface')
    .by('host', host.id)
    .filter((row) => row.kind === 'ethernet');
  return targetsOf(view, array).flatMap((target) => {
    const portals = portalsOf(view, target);
    if (portals.length === 0) return [];
    const ways = portals.map((portal) => ({ portal, from: reachOf(view, ethernet, portal) }));
    const shown = host.discovery === 'isns' ? byNameServer(view, host, target, portals) : null;
    const offered = shown
      ? shown.visible
      : target.enabled && ways.some(({ from }) => from.some((one) => maySee(view, host, target, one)));
    return [
      {
        target,
        offered,
        portals: ways
          .filter(
            ({ portal }) => !shown?.portals || portalTexts([portal]).some((text) => shown.portals!.includes(text)),
          )
          .flatMap(({ portal, from }) =>
            portal.port.addresses.map(({ ip }) => ({
              address: portalText(ip, portal.tcp),
              group: portal.group,
              reached: from.length > 0,
            })),
          ),
      },
    ];
  });
}

/** Discovery shows what the initiator may log in to; whether it can prove itself is asked at the login alone. */
function maySee(view: EstateView, host: Host, target: Target, from: HostInterface): boolean {
  if (nameRefusal(view, host, target, from) !== null) return false;
  const initiator = view
    .table('initiator')
    .by('host', host.id)
    .find((row) => row.name === host.presents);
  const { level } = grantOf(target, { name: host.presents, host, from });
  return lesser(level, arrayGrants(view, initiator, target.array)) !== 'none';
}

function byNameServer(view: EstateView, host: Host, target: Target, portals: readonly TargetPortal[]) {
  if (!nameServerUp(view) || !target.isns || host.presents === null) return { visible: false, portals: null };
  return seesByIsns(view, host.presents, target.iqn, portalTexts(portals));
}
