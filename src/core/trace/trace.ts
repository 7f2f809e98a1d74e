import { deviceAt } from '../copies/legs';
import type { Host, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import { mappingOf, pathFinder } from '../attach/paths';
import type { MissingSession } from '../attach/sessions';
import { hopNumber, hops, portHopNames, unreached, type HopFound, type TraceHop } from './hop';
import { deviceHop, fileSystemHop, lunHop } from './host-hops';
import { mappingHop } from './mapping-hop';
import { legsOf, pairsOf, type Legs, type TracePair } from './pairs';
import { portHops } from './port-hops';
import { reasons } from './reasons';
import { storageHops } from './storage-hops';

export type { HopState, TraceHop } from './hop';
export type { TracePair } from './pairs';

export interface Trace {
  host: string;
  volume: string;
  array: string;
  whole: boolean;
  hops: TraceHop[];
  legs: Legs;
  pairs: TracePair[];
}

const breaksAt = (gap: MissingSession): number => hopNumber(reasons[gap.reason].hop);
const byEnds = (a: MissingSession, b: MissingSession): number =>
  `${a.interface} ${a.port}` < `${b.interface} ${b.port}` ? -1 : 1;

/** The chain from the drives to the file system, hop by hop, for a host and a volume. The pair of ports that gets furthest speaks for its hops. */
export function trace(view: EstateView, host: Host, volume: Volume): Trace {
  const array = arrayOf(view, volume);
  const mapping = mappingOf(view, host.id, volume.id);
  const device = deviceAt(view, host.id, volume.id);
  const finder = pathFinder(view);
  const paths = mapping ? finder.paths(mapping) : null;
  const furthest = paths
    ? ([...paths.missing].sort((a, b) => breaksAt(b) - breaksAt(a) || byEnds(a, b))[0] ??
      // A port in reach that serves another transport is no path that is expected, yet it may be why there is none.
      finder.sessions(host.id, volume.array).missing.find((gap) => gap.reason === 'port-role-off'))
    : undefined;
  const good = paths?.found.find((path) => path.state === 'optimized') ?? paths?.found[0];
  const told: HopFound[] = [
    ...storageHops(view, volume),
    mappingHop(view, host, volume, mapping),
    ...(mapping && paths ? portHops(view, host, array, mapping, paths, good, furthest) : portHopNames.map(unreached)),
    lunHop(host, mapping, paths),
    deviceHop(host, volume, mapping, paths, device),
    fileSystemHop(view, host, volume, device, mapping),
  ];
  let broken = false;
  const chain = told.map((one, k): TraceHop => {
    const state = broken ? 'not-reached' : one.state;
    const hop = {
      number: k + 1,
      hop: hops[k]!,
      object: one.object,
      state,
      reason: one.reason ?? null,
      evidence: one.evidence,
      advice: one.advice ?? null,
      mend: one.mend ?? null,
    };
    if (one.state === 'fail') broken = true;
    return state === 'not-reached' ? { ...hop, reason: null, advice: null, mend: null } : hop;
  });
  return {
    host: host.name,
    volume: volume.name,
    array: array.name,
    whole: !broken,
    hops: chain,
    legs: paths ? legsOf(view, paths) : { holding: [], broken: [] },
    pairs: paths ? pairsOf(view, paths) : [],
  };
}
