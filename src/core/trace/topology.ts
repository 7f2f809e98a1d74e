import type { Host } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { clusterOf, controllerOf, fabricOf, interfaceOf, portOf, volumeOf } from '../estate/relations';
import { mappingOf, pathFinder } from '../attach/paths';
import { trafficRates } from '../attach/port-load';
import { capacityOf, fcPayloadRate } from '../network/link';
import { fabricRoutes } from '../fabric/routes';
import { networksOf } from '../network/reach';
import { lineRate } from '../replicate/line';
import { sentOver } from '../replicate/line-load';
import type { Milliseconds } from '../units/duration';
import { byName } from '../operation/draft';
import { adapterId, componentsOf } from '../whatif/components';
import { outage } from '../whatif/outage';

export type NodeKind = 'host' | 'hosts' | 'switch' | 'network' | 'array';
export type Mark = 'trace' | 'failed' | 'hurt' | 'lost';

export interface TopologyNode {
  id: string;
  kind: NodeKind;
  name: string;
  detail: string;
  site: string;
  up: boolean;
  mark: Mark | null;
}

export interface TopologyEdge {
  id: string;
  from: string;
  to: string;
  /** `hba0`, `a0, b0`, `a1-a2-1` */
  label: string;
  kind: 'host-port' | 'array-port' | 'isl' | 'line';
  /** `fc` or `ip` */
  over: 'fc' | 'ip';
  /** Cables it stands for, and those of them that are up. */
  count: number;
  up: number;
  /** Bytes a second that are written over it, and what it carries in all. */
  rate: number;
  capacity: number;
  mark: Mark | null;
}

export interface Topology {
  nodes: TopologyNode[];
  edges: TopologyEdge[];
}

/** What is laid over the drawing: the way from a host to a volume, or components taken as failed. */
export interface Overlaid {
  trace?: { host: string; volume: string };
  failed?: readonly string[];
}

/** Beyond so many hosts, those that hang on the same switches and networks are drawn as one. */
const MOST_HOSTS = 40;

interface End {
  id: string;
  name: string;
  hub: string;
  up: boolean;
  rate: number;
  capacity: number;
  over: 'fc' | 'ip';
}

/** Hosts, switches, networks and arrays, and what joins them. */
export function topology(view: EstateView, now: Milliseconds, laid: Overlaid = {}): Topology {
  const rates = trafficRates(view);
  const networks = networksOf(view);
  const siteName = (id: string) => view.table('site').get(id)?.name ?? '';
  const marks = marksOf(view, laid);
  const markOf = (...ids: string[]): Mark | null => {
    for (const kind of ['failed', 'lost', 'hurt', 'trace'] as const)
      if (ids.some((id) => marks.get(id) === kind)) return kind;
    return null;
  };
  /** A cable that ends at something dead is dead, too. */
  const hubUp = (id: string): boolean =>
    (view.table('switch').get(id) ?? view.table('network').get(id))?.state === 'up';
  const ends = (
    rows: readonly {
      id: string;
      name: string;
      kind: 'fc' | 'ethernet';
      switch: string | null;
      addresses: readonly { ip: string; prefix: number }[];
      state: 'up' | 'down';
      speed: number;
      mtu: number;
    }[],
  ): End[] =>
    [...rows].sort(byName).flatMap((row) => {
      const hub =
        row.kind === 'fc' ? row.switch : row.addresses[0] ? (networks.at(row.addresses[0])?.id ?? null) : null;
      return hub
        ? [
            {
              id: row.id,
              name: row.name,
              hub,
              up: row.state === 'up' && hubUp(hub),
              rate: rates.get(row.id) ?? 0,
              capacity: capacityOf(row),
              over: row.kind === 'fc' ? ('fc' as const) : ('ip' as const),
            },
          ]
        : [];
    });
  const nodes: TopologyNode[] = [];
  const edges: TopologyEdge[] = [];
  /** One line from a node to each hub, however many cables it stands for. */
  const joined = (id: string, kind: 'host-port' | 'array-port', all: readonly End[]) => {
    const hubs = new Map<string, End[]>();
    for (const end of all) hubs.set(end.hub, [...(hubs.get(end.hub) ?? []), end]);
    for (const [hub, own] of hubs)
      edges.push({
        id: `${id} ${hub}`,
        from: kind === 'host-port' ? id : hub,
        to: kind === 'host-port' ? hub : id,
        label: own.length > 6 ? `${own.length} ports` : [...new Set(own.map((end) => end.name))].join(', '),
        kind,
        over: own[0]!.over,
        count: own.length,
        up: own.filter((end) => end.up).length,
        rate: own.reduce((sum, end) => sum + end.rate, 0),
        capacity: own.reduce((sum, end) => sum + end.capacity, 0),
        mark: markOf(...own.map((end) => end.id)),
      });
  };
  const hosts = [...view.table('host').values()].sort(byName);
  const portsOf = (host: Host) => ends(view.table('interface').by('host', host.id));
  for (const group of grouped(hosts, portsOf)) {
    const [first] = group;
    const id = group.length === 1 ? first!.id : `hosts ${first!.id}`;
    nodes.push({
      id,
      kind: group.length === 1 ? 'host' : 'hosts',
      name: group.length === 1 ? first!.name : `${group.length} hosts`,
      detail:
        group.length === 1
          ? first!.cluster
            ? `cluster ${clusterOf(view, first!)?.name}`
            : ''
          : `${first!.name} … ${group.at(-1)!.name}`,
      site: siteName(first!.site),
      up: true,
      mark: markOf(...group.map((host) => host.id)),
    });
    joined(id, 'host-port', group.flatMap(portsOf));
  }
  for (const row of [...view.table('switch').values()].sort(byName))
    nodes.push({
      id: row.id,
      kind: 'switch',
      name: row.name,
      detail: `fabric ${fabricOf(view, row).name}, domain ${row.domain}`,
      site: siteName(row.site),
      up: row.state === 'up',
      mark: markOf(row.id),
    });
  const used = new Set(edges.map((edge) => edge.to));
  for (const row of [...view.table('array').values()].sort(byName)) {
    nodes.push({
      id: row.id,
      kind: 'array',
      name: row.name,
      detail: row.model,
      site: siteName(row.site),
      up: view
        .table('controller')
        .by('array', row.id)
        .some((one) => one.state === 'up'),
      mark: markOf(row.id),
    });
    const serving = view
      .table('port')
      .by('array', row.id)
      .filter((port) => port.role !== 'none')
      .map((port) => (controllerOf(view, port).state === 'down' ? { ...port, state: 'down' as const } : port));
    joined(row.id, 'array-port', ends(serving));
  }
  const linesUnder = (network: string) =>
    [...view.table('siteLink').values()]
      .flatMap(({ name, networks }) => (networks.includes(network) ? [name] : []))
      .join(', ');
  for (const edge of edges) used.add(edge.kind === 'array-port' ? edge.from : edge.to);
  for (const row of [...view.table('network').values()].sort(byName))
    if (used.has(row.id))
      nodes.push({
        id: row.id,
        kind: 'network',
        name: row.name,
        detail: [row.cidr, linesUnder(row.id)].filter((part) => part !== '').join(' over '),
        site: siteName(row.site),
        up: row.state === 'up',
        mark: markOf(row.id),
      });
  for (const isl of [...view.table('isl').values()].sort(byName))
    edges.push({
      id: isl.id,
      from: isl.a,
      to: isl.b,
      label: `${isl.name}${view
        .table('siteLink')
        .by('isl', isl.id)
        .map((link) => ` over ${link.name}`)
        .join('')}`,
      kind: 'isl',
      over: 'fc',
      count: 1,
      up: isl.state === 'up' && hubUp(isl.a) && hubUp(isl.b) ? 1 : 0,
      rate: rates.get(isl.id) ?? 0,
      capacity: 1e6 * fcPayloadRate(isl.speed),
      mark: markOf(isl.id),
    });
  return { nodes, edges: [...edges, ...siteLines(view, now, markOf)] };
}

/** Links between sites, from an array to another: those that copy over it, else the first of each site. Where a site has no array, none is drawn. */
function siteLines(view: EstateView, now: Milliseconds, markOf: (...ids: string[]) => Mark | null): TopologyEdge[] {
  const arrayAt = (site: string) => [...view.table('array').by('site', site)].sort(byName)[0]?.id;
  return [...view.table('siteLink').values()].sort(byName).flatMap((link): TopologyEdge[] => {
    const users = view.table('replication').by('link', link.id);
    const ends = users[0]
      ? [users[0].primaries[0]!, users[0].secondaries[0]!].map((id) => view.table('volume').get(id)!.array)
      : link.sites.map(arrayAt);
    const [from, to] = ends;
    if (!from || !to) return [];
    return [
      {
        id: link.id,
        from,
        to,
        label: link.name,
        kind: 'line',
        over: 'ip',
        count: 1,
        up: link.state === 'up' ? 1 : 0,
        rate: sentOver(view, link, now),
        capacity: lineRate(link).bytesPerS,
        mark: markOf(link.id),
      },
    ];
  });
}

/** Each host by itself while they are few; else those with the same switches and networks together. */
function grouped(hosts: readonly Host[], portsOf: (host: Host) => readonly End[]): Host[][] {
  if (hosts.length <= MOST_HOSTS) return hosts.map((host) => [host]);
  const groups = new Map<string, Host[]>();
  for (const host of hosts) {
    const key = [...new Set(portsOf(host).map((end) => end.hub))].sort().join(' ');
    const known = groups.get(key);
    if (known) known.push(host);
    else groups.set(key, [host]);
  }
  return [...groups.values()];
}

function marksOf(view: EstateView, { trace, failed }: Overlaid): Map<string, Mark> {
  const marks = new Map<string, Mark>();
  if (trace) {
    const mapping = mappingOf(view, trace.host, trace.volume);
    const routes = fabricRoutes(view);
    marks.set(trace.host, 'trace').set(volumeOf(view, trace).array, 'trace');
    for (const path of mapping ? pathFinder(view).paths(mapping).found : []) {
      marks.set(path.interface, 'trace').set(path.port, 'trace');
      const [from, to] = [interfaceOf(view, path).switch, portOf(view, path).switch];
      if (!from || !to) {
        if (path.network) marks.set(path.network, 'trace');
        continue;
      }
      marks.set(from, 'trace').set(to, 'trace');
      for (const isl of routes.shortest(from, to)) marks.set(isl.id, 'trace').set(isl.a, 'trace').set(isl.b, 'trace');
    }
  }
  if (failed && failed.length > 0) {
    const components = componentsOf(view);
    const report = outage(view, failed, components);
    const ids = new Map([...view.table('host').values()].map((host) => [host.name, host.id]));
    for (const hurt of [...report.hurt].reverse())
      marks.set(ids.get(hurt.host)!, hurt.verdict === 'lost' ? 'lost' : 'hurt');
    const down = new Set(failed);
    /** What falls with a whole is marked like it. */
    for (const one of components.values())
      if (down.has(one.id) || one.within.some((parent) => down.has(parent))) down.add(one.id);
    for (const id of down) marks.set(id, 'failed');
    for (const row of view.table('interface').values())
      if (row.host && down.has(adapterId(row.host, row.adapter))) marks.set(row.id, 'failed');
  }
  return marks;
}
