import type { Host, HostInterface, IpAddress } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { clusterOf, siteOf } from '../estate/relations';
import type { PathFinder } from '../attach/paths';
import { families } from '../attach/families';
import { formOf } from '../naming/diagnose';
import { shortWwn } from '../naming/wwn';
import { formatAddress } from '../network/address';
import { byName } from '../operation/draft';
import type { Post, ProtocolTag, SpanHost } from './drawn';
import { networksOfPort } from './networks';
import { postOf } from './posts';

const worst = (posts: Iterable<Post>): Post => {
  let found: Post = 'stands';
  for (const post of posts) {
    if (post === 'broken') return post;
    if (post === 'leans') found = post;
    else if (post === 'in work' && found === 'stands') found = post;
  }
  return found;
};

/** Protocols a host speaks: by the names it is on record with, and the ports it has. */
function tagsOf(view: EstateView, host: string, interfaces: readonly HostInterface[]): ProtocolTag[] {
  const forms = new Set(
    view
      .table('initiator')
      .by('host', host)
      .map((row) => formOf(row.name)),
  );
  const tags: ProtocolTag[] = [];
  if (forms.has('wwn') || interfaces.some((row) => row.kind === 'fc')) tags.push('FC');
  if (forms.has('iscsi')) tags.push('IS');
  if (forms.has('nqn')) tags.push('NV');
  return tags;
}

/** One host with its ports, and how it stands by its paths. */
export function hostModel(
  view: EstateView,
  finder: PathFinder,
  networksOf: (addresses: readonly IpAddress[]) => string[],
  host: Host,
): SpanHost {
  const paths = { usable: 0, expected: 0 };
  const mappings = view.table('mapping').by('host', host.id);
  const posts: Post[] = [];
  for (const mapping of mappings) {
    const count = finder.count(mapping);
    paths.usable += count.usable;
    paths.expected += count.expected;
    posts.push(postOf(count.usable === 0 && !finder.reaches(mapping), count.usable < count.expected));
  }
  const devices = view.table('hostDevice').by('host', host.id);
  const interfaces = [...view.table('interface').by('host', host.id)].sort(byName);
  return {
    id: host.id,
    name: host.name,
    site: siteOf(view, host).name,
    cluster: host.cluster ? (clusterOf(view, host)?.name ?? null) : null,
    os: families[host.os].label,
    post: worst(posts),
    paths,
    mapped: mappings.length,
    devices: devices.length,
    mounted: devices.filter((device) => device.mountPoint).length,
    tags: tagsOf(view, host.id, interfaces),
    interfaces: interfaces.map((row) => ({
      id: row.id,
      name: row.name,
      fc: row.kind === 'fc',
      address: row.kind === 'fc' ? shortWwn(row.wwpn ?? '') : row.addresses.map(formatAddress).join(', '),
      post: row.state === 'up' ? 'stands' : 'broken',
      networks: networksOfPort(view, row, networksOf),
    })),
  };
}
