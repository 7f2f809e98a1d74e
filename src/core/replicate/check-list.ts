import { isMirrored } from '../copies/replica';
import { siteNames } from '../stretch/state';
import { placeNames } from './stretched';
import { pathFinder, type PathFinder } from '../attach/paths';
import type { Host, Replication, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, hostOf, siteOf, workloadOf } from '../estate/relations';
import { nextStep, type NextStep } from '../operation/next-step';
import { someOf } from '../units/counted';
import { unreachedWhy } from './sides';

/** One line of what must hold where storage is given over two sites. */
export interface ListedCheck {
  /** What must hold. */
  asks: string;
  holds: boolean;
  /** How it is. */
  says: string;
  mend: NextStep | null;
}

const volumesOf = (view: EstateView, ids: readonly string[]): Volume[] =>
  ids.map((id) => view.table('volume').get(id)!);

/** Hosts at a site that see some volumes. */
function hostsAt(view: EstateView, volumes: readonly Volume[], site: string): Host[] {
  const seen = volumes
    .flatMap((volume) => view.table('mapping').by('volume', volume.id))
    .map((one) => hostOf(view, one));
  return [...new Set(seen)].filter((host) => host.site === site);
}

function seenThere(view: EstateView, volumes: readonly Volume[]): ListedCheck {
  const array = arrayOf(view, volumes[0]!);
  const site = siteOf(view, array);
  const hosts = hostsAt(view, volumes, site.id);
  const bare = volumes.filter((volume) => hostsAt(view, [volume], site.id).length === 0);
  return {
    asks: `A host at ${site.name} sees it`,
    holds: bare.length === 0,
    says:
      bare.length === 0
        ? someOf(hosts.map(({ name }) => name))
        : `no host at ${site.name} sees ${someOf(bare.map(({ name }) => name))}`,
    mend:
      bare.length === 0
        ? null
        : nextStep(
            `Map ${someOf(bare.map(({ name }) => name))}`,
            'mapping.create',
            { array: array.name, volumes: bare.map(({ name }) => name) },
            'host',
          ),
  };
}

function pathsThere(view: EstateView, finder: PathFinder, volumes: readonly Volume[]): ListedCheck {
  const short = volumes
    .flatMap((volume) => view.table('mapping').by('volume', volume.id))
    .map((mapping) => ({ mapping, count: finder.count(mapping), volume: view.table('volume').get(mapping.volume)! }))
    .filter(({ count }) => count.usable < count.expected || count.usable === 0);
  const [first] = short;
  return {
    asks: 'Every host has all its paths',
    holds: !first,
    says: first
      ? `${hostOf(view, first.mapping).name} has ${first.count.usable} of ${first.count.expected} to ${first.volume.name}${short.length > 1 ? `, and ${short.length - 1} more fall short` : ''}`
      : 'none is missing',
    mend: null,
  };
}

function copiedInTime(view: EstateView, volumes: readonly Volume[]): ListedCheck {
  const bare = volumes.filter((volume) => (volume.plan ?? workloadOf(view, volume)?.plan ?? null) === null);
  const workload = bare[0] && workloadOf(view, bare[0]);
  return {
    asks: 'A plan makes copies of it',
    holds: bare.length === 0,
    says: bare.length === 0 ? 'every volume has one' : `${someOf(bare.map(({ name }) => name))} has none`,
    mend: workload ? nextStep('Attach a plan', 'plan.attach', { workloads: [workload.name] }, 'plan') : null,
  };
}

function wholeThere(view: EstateView, row: Replication): ListedCheck {
  const unreached = unreachedWhy(view, row);
  const holds = row.state === 'protected' && unreached === null;
  const onItsWay = row.pit === null ? 'its first copy is on its way' : 'what differs is on its way';
  const good = isMirrored(row) ? 'every write stands at both' : 'it is copied in its rhythm';
  return {
    asks: row.stretch === null ? 'It is whole at the other site' : 'Both sites serve it',
    holds,
    says: holds ? good : (unreached ?? (row.reason || onItsWay)),
    mend: null,
  };
}

function alike(row: Replication, first: readonly Volume[], second: readonly Volume[]): ListedCheck {
  const unlike = first.filter((volume, k) => volume.size !== second[k]!.size);
  return {
    asks: row.stretch === null ? 'Both sides are of one size' : 'Both legs are of one size',
    holds: unlike.length === 0,
    says: unlike.length === 0 ? 'volume by volume' : `${someOf(unlike.map(({ name }) => name))} differs`,
    mend: null,
  };
}

function decides(view: EstateView, row: Replication): ListedCheck[] {
  if (row.stretch === null) return [];
  const { pair, sightlessAt } = row.stretch;
  const { W, ...places } = placeNames(view, row);
  const blind = siteNames.filter((site) => sightlessAt[site] !== null).map((site) => places[site]);
  const asked = pair.A.arb === 'W' && pair.B.arb === 'W';
  const holds = blind.length === 0 && asked;
  const wrong =
    blind.length > 0
      ? `${blind.join(' and ')} ${blind.length === 1 ? 'does' : 'do'} not see ${W}`
      : `${W} is not asked`;
  return [
    {
      asks: 'Both sites see the witness',
      holds,
      says: holds ? `${W} decides` : wrong,
      mend: null,
    },
  ];
}

/** What must hold where storage is given over two sites, line by line. */
export function twoSiteChecks(view: EstateView, row: Replication): ListedCheck[] {
  const [first, second] = [volumesOf(view, row.primaries), volumesOf(view, row.secondaries)];
  return [
    wholeThere(view, row),
    alike(row, first, second),
    ...decides(view, row),
    seenThere(view, first),
    seenThere(view, second),
    pathsThere(view, pathFinder(view), [...first, ...second]),
    copiedInTime(view, first),
  ];
}
