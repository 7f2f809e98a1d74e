import { legsOf, devicesOn } from '../copies/legs';
import type { HostInterface, Port, SiteLink, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { hash32 } from '../estate/random';
import { arrayOf, hostOf, interfaceOf, portOf } from '../estate/relations';
import { RHO_LIMIT, RHO_LIMIT_MEDIA } from '../load/headroom';
import { capacityOf, fcPayloadRate } from '../network/link';
import { fabricRoutes } from '../fabric/routes';
import { linesUnder, networksOf } from '../network/reach';
import { pathFinder, type PathFinder } from '../attach/paths';
import { deviceShares } from '../attach/selector';
import { CONTROLLER_BANDWIDTH, FLASH_CHANNELS } from '../raid/choices';
import { groupHealth } from '../raid/health';
import { mediaOfGroup } from '../raid/load';
import { servingController } from '../volume/health';
import { lineRate } from '../replicate/line';
import { addedBy } from '../replicate/mirror';
import { byName } from '../operation/draft';
import { CORES, PASSED_ON_S, READ_CORE_S, WRITE_CORE_S } from './choices';
import { backgroundOf, carriedOf } from './background';
import { groupCost, groupShares } from '../demand/group-cost';
import { hitsOf, mergedOf, volumesAtWork } from '../demand/cached';
import { limitsOf } from './limits';
import { burstsOf } from './profile';
import type { LoadModel, LoadResource, LoadUse, LoadVolume, TimedWork } from './shape';
import { writtenBeside } from '../demand/written-beside';

/**
 * What every volume's I/O takes of ports, links, controllers and groups, along the paths and shares of its hosts, with failures and background
 * work as they stand; `degraded` groups are taken to have one member out. Only what volumes that count ask is in it; caches are shared with all.
 */
export function loadModel(
  view: EstateView,
  finder: PathFinder = pathFinder(view),
  degraded: ReadonlySet<string> = new Set(),
  counts: (volume: Volume) => boolean = () => true,
): LoadModel {
  const resources: LoadResource[] = [];
  const places = new Map<string, number>();
  const put = (resource: LoadResource) => {
    places.set(resource.id, resources.length);
    resources.push(resource);
  };
  for (const array of [...view.table('array').values()].sort(byName)) {
    for (const one of [...view.table('controller').by('array', array.id)].sort(byName))
      if (one.state === 'up')
        put({
          id: one.id,
          kind: 'controller',
          name: `${array.name} ${one.name}`,
          array: array.id,
          capacity: CORES,
          servers: CORES,
          limit: RHO_LIMIT,
        });
    for (const port of [...view.table('port').by('array', array.id)].sort(byName))
      if (port.role !== 'none' && port.state === 'up')
        put({
          id: port.id,
          kind: 'port',
          name: `${array.name} ${port.name}`,
          array: array.id,
          capacity: capacityOf(port),
          servers: 1,
          limit: RHO_LIMIT,
        });
    for (const group of [...view.table('raidGroup').by('array', array.id)].sort(byName)) {
      const { state, failed } = groupHealth(view, group);
      if (state === 'lost') continue;
      const lost = Math.max(failed.length, degraded.has(group.id) ? 1 : 0);
      const drives = group.drives.length - lost;
      const { flash } = mediaOfGroup(view, group);
      put({
        id: group.id,
        kind: 'group',
        name: `${array.name} ${group.name}`,
        array: array.id,
        capacity: drives,
        servers: drives * (flash ? FLASH_CHANNELS : 1),
        limit: RHO_LIMIT_MEDIA,
      });
    }
  }
  for (const isl of [...view.table('isl').values()].sort(byName))
    if (isl.state === 'up')
      put({
        id: isl.id,
        kind: 'isl',
        name: isl.name,
        array: null,
        capacity: fcPayloadRate(isl.speed) * 1e6,
        servers: 1,
        limit: RHO_LIMIT,
      });
  for (const line of [...view.table('siteLink').values()].sort(byName))
    if (line.state === 'up')
      put({
        id: line.id,
        kind: 'line',
        name: line.name,
        array: null,
        capacity: lineRate(line).bytesPerS,
        servers: 1,
        // What is copied may fill it: hosts go before.
        limit: 1,
      });

  const ways = { routes: fabricRoutes(view), lines: linesOf(view) };
  const asked = volumesAtWork(view);
  const hits = hitsOf(view);
  const volumes: LoadVolume[] = [];
  for (const volume of asked) {
    if (!counts(volume)) continue;
    const one = volumeLoad(view, finder, ways, volume, { places, hit: hits(volume), degraded });
    if (one) volumes.push(one);
  }
  const found = { resources, volumes };
  return { ...found, limits: limitsOf(view, volumes), background: backgroundOf(view, { places, resources }) };
}

/** What replications carry now, for a model of the estate as it stands otherwise. */
export const timedOf = (view: EstateView, { resources }: Pick<LoadModel, 'resources'>): TimedWork[] =>
  carriedOf(view, { places: new Map(resources.map(({ id }, k) => [id, k])), resources });

/** Links between sites that inter-switch links and networks run over. */
interface Lines {
  /** By inter-switch link. */
  under: ReadonlyMap<string, readonly SiteLink[]>;
  /** Of two ends over IP. */
  between: (from: HostInterface, to: Port) => readonly SiteLink[];
}

function linesOf(view: EstateView): Lines {
  const up = [...view.table('siteLink').values()].filter(({ state }) => state === 'up');
  const under = new Map<string, SiteLink[]>();
  for (const line of up) for (const isl of line.isls) under.set(isl, [...(under.get(isl) ?? []), line]);
  const networks = up.some((line) => line.networks.length > 0) ? networksOf(view) : null;
  return { under, between: (from, to) => (networks ? linesUnder(networks, from, to) : []) };
}

interface Known {
  places: ReadonlyMap<string, number>;
  /** Share of its reads that the cache answers. */
  hit: number;
  degraded: ReadonlySet<string>;
}

/** What a volume's I/O takes; null where no host asks for any. */
function volumeLoad(
  view: EstateView,
  finder: PathFinder,
  { routes, lines }: { routes: ReturnType<typeof fabricRoutes>; lines: Lines },
  volume: Volume,
  { places, hit, degraded }: Known,
): LoadVolume | null {
  const activity = volume.activity!;
  const devices = devicesOn(view, volume.id).filter((device) => device.state === 'online' && finder.reaches(device));
  if (devices.length === 0) return null;
  const { ioBytes } = activity;
  const sequential = activity.pattern === 'sequential';
  const uses = new Map<number, LoadUse>();
  const visit = (id: string, share: number, read: number, write: number) => {
    const resource = places.get(id);
    if (resource === undefined || share === 0) return;
    const known = uses.get(resource) ?? { resource, read: 0, write: 0, readVisits: 0, writeVisits: 0 };
    known.read += share * read;
    known.write += share * write;
    if (read > 0) known.readVisits += share;
    if (write > 0) known.writeVisits += share;
    uses.set(resource, known);
  };
  const moved = (CORES * ioBytes) / CONTROLLER_BANDWIDTH;
  const [readCore, writeCore] = [READ_CORE_S + moved, WRITE_CORE_S + 2 * moved];
  let outstanding = 0;
  let wireS = 0;
  const hosts: string[] = [];
  /** Of the I/O, the share that goes to each leg. */
  const legs = new Map<string, number>();
  const legAt = new Map(legsOf(view, volume.id).map((id) => [view.table('volume').get(id)!.array, id]));
  for (const device of devices) {
    const host = hostOf(view, device);
    hosts.push(host.id);
    outstanding += host.queueDepth;
    const { found } = finder.of(device);
    const shares = deviceShares(found, host, device);
    found.forEach((path, k) => {
      const share = shares[k]! / devices.length;
      if (share === 0) return;
      const port = portOf(view, path);
      const leg = view.table('volume').get(legAt.get(port.array) ?? volume.id)!;
      legs.set(leg.id, (legs.get(leg.id) ?? 0) + share);
      visit(path.port, share, ioBytes, ioBytes);
      wireS += (share * ioBytes) / capacityOf(port);
      const serving =
        arrayOf(view, leg).pathAccess === 'symmetric'
          ? path.controller
          : (servingController(view, leg)?.id ?? path.controller);
      visit(serving, share, readCore, writeCore);
      if (serving !== path.controller) visit(path.controller, share, PASSED_ON_S, PASSED_ON_S);
      const end = interfaceOf(view, path);
      const [from, to] = [end.switch, port.switch];
      const carried = end.kind === 'ethernet' ? lines.between(end, port) : [];
      for (const line of carried) visit(line.id, share / carried.length, ioBytes, ioBytes);
      if (!from || !to || from === to) return;
      const links = routes.shortest(from, to);
      for (const isl of links) {
        const part = (share * (routes.hops(from, to) ?? 0)) / links.length;
        visit(isl.id, part, ioBytes, ioBytes);
        const beneath = lines.under.get(isl.id) ?? [];
        for (const line of beneath) visit(line.id, part / beneath.length, ioBytes, ioBytes);
      }
    });
  }
  const media: LoadVolume['media'] = [];
  let missS = 0;
  const groupUse = (groups: ReturnType<typeof groupShares>, share: number, reads: boolean) => {
    for (const { group, part } of groups) {
      const resource = places.get(group.id);
      if (resource === undefined) continue;
      const cost = groupCost(view, group, ioBytes, sequential, degraded);
      const known = uses.get(resource) ?? { resource, read: 0, write: 0, readVisits: 0, writeVisits: 0 };
      if (reads) {
        known.read += share * part * (1 - hit) * cost.read;
        known.readVisits += share * part * (1 - hit) * cost.readOps;
        media.push({ resource, share: share * part });
        missS += (share * part * mediaOfGroup(view, group).readMs) / 1000;
      }
      known.write += (reads ? 1 : share) * part * (1 - mergedOf(activity)) * cost.write;
      known.writeVisits += (reads ? 1 : share) * part * (1 - mergedOf(activity)) * cost.writeOps;
      uses.set(resource, known);
    }
  };
  const total = [...legs.values()].reduce((sum, one) => sum + one, 0) || 1;
  for (const id of legAt.values())
    groupUse(groupShares(view, view.table('volume').get(id)!), (legs.get(id) ?? 0) / total, true);
  let fixedS = 0;
  for (const { groups, link } of writtenBeside(view, volume)) {
    groupUse(groups, 1, false);
    if (link === null) continue;
    fixedS += mirrorS(view, link, volume);
    visit(link, 1, 0, ioBytes);
  }
  return {
    id: volume.id,
    name: volume.name,
    array: volume.array,
    pool: volume.pool,
    workload: volume.workload,
    hosts: [...new Set(hosts)].sort(),
    seed: hash32(volume.workload ?? volume.id),
    bursts: burstsOf(activity),
    week: activity.week,
    reads: activity.reads,
    writes: activity.writes,
    ioBytes,
    hit,
    readS: wireS + readCore,
    missS,
    writeS: wireS + writeCore + fixedS,
    outstanding,
    uses: [...uses.values()],
    media,
  };
}

/** What a mirror over a line adds to each write, seconds. */
const mirrorS = (view: EstateView, link: string, volume: Volume): number => {
  const line = view.table('siteLink').get(link);
  return line ? addedBy(line, [volume]).ms / 1000 : 0;
};
