import type { HostInterface, IpAddress, Port } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { switchOf } from '../estate/relations';
import { networksOf } from '../network/reach';
import { byName } from '../operation/draft';
import type { ProtocolTag, SpanNetwork } from './drawn';
import { postOf } from './posts';

export const protocolTags: Record<Port['role'], ProtocolTag> = { none: '', fc: 'FC', iscsi: 'IS', 'nvme-tcp': 'NV' };

type NetworksOf = (addresses: readonly IpAddress[]) => string[];

/** Networks that addresses lie in, each once. */
export function networksByAddress(view: EstateView): NetworksOf {
  const networks = networksOf(view);
  return (addresses) => [...new Set(addresses.flatMap((address) => networks.at(address)?.id ?? []))];
}

/** What a port of an array or a host leads into: the fabric of its switch, or the networks of its addresses. */
export function networksOfPort(view: EstateView, port: Port | HostInterface, networksOf: NetworksOf): string[] {
  if (port.kind !== 'fc') return networksOf(port.addresses);
  const at = port.switch === null ? undefined : switchOf(view, port);
  return at ? [at.fabric] : [];
}

/** What lies between ports and hosts, with how many ports lead into each, and over which protocols arrays serve there. */
export function networkModels(view: EstateView): SpanNetwork[] {
  const networksOf = networksByAddress(view);
  const members = new Map<string, number>();
  const served = new Map<string, Set<ProtocolTag>>();
  const count = (port: Port | HostInterface): string[] => {
    const networks = networksOfPort(view, port, networksOf);
    for (const network of networks) members.set(network, (members.get(network) ?? 0) + 1);
    return networks;
  };
  for (const row of view.table('interface').values()) if (row.host !== null) count(row);
  for (const array of [...view.table('array').values()].sort(byName))
    for (const port of [...view.table('port').by('array', array.id)].sort(byName)) {
      const tag = protocolTags[port.role];
      for (const network of count(port))
        if (tag) served.set(network, (served.get(network) ?? new Set<ProtocolTag>()).add(tag));
    }
  const fabrics = [...view.table('fabric').values()].sort(byName).map((fabric): SpanNetwork => {
    const switches = view.table('switch').by('fabric', fabric.id);
    const up = switches.filter((row) => row.state === 'up').length;
    return {
      id: fabric.id,
      kind: 'fabric',
      name: fabric.name,
      detail: `${switches.length} ${switches.length === 1 ? 'switch' : 'switches'}`,
      mtu: null,
      tags: ['FC'],
      post: postOf(up === 0 && switches.length > 0, up < switches.length),
      members: members.get(fabric.id) ?? 0,
    };
  });
  const networks = [...view.table('network').values()].sort(byName).map((network): SpanNetwork => ({
    id: network.id,
    kind: 'network',
    name: network.name,
    detail: network.cidr,
    mtu: network.mtu,
    tags: [...(served.get(network.id) ?? [])],
    post: network.state === 'up' ? 'stands' : 'broken',
    members: members.get(network.id) ?? 0,
  }));
  return [...fabrics, ...networks];
}
