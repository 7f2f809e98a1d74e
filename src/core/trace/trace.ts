import { siteStateWords } from '../stretch/told';
import { siteNames } from '../stretch/state';
import { resultOf } from '../stretch/decide';
import { deviceAt } from '../copies/legs';
import type { Host, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import { mappingOf, pathFinder } from '../attach/paths';
import type { MissingSession } from '../attach/sessions';
import { hopNumber, hops, portHopNames, unreached, type HopFound, type TraceHop } from './hop';
import { deviceHop, fileSystemHop, lunHop } from './host-hops';
import { mappingHop } from './mapping-hop';
import { pairsOf, waysOf, type Legs, type TracePair } from './pairs';
import { legOf, legsOf, shownAs } from '../copies/legs';
import { newWays } from '../moving/prepare';
import { moveOf, poolById, staysWithin, targetOf } from '../moving/roads';
import { placeOf } from '../replicate/stretched';
import { counted } from '../units/counted';
import { portHops } from './port-hops';
import { reasons } from './reasons';
import { outsideHop, storageHops } from './storage-hops';

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
  /** Of a stretched volume: which of its legs is traced, and how both stand. */
  stretched: { name: string; site: string; says: string } | null;
  /** Where it goes while hosts work with it, in a sentence. */
  moving: string | null;
}

const breaksAt = (gap: MissingSession): number => hopNumber(reasons[gap.reason].hop);
const byEnds = (a: MissingSession, b: MissingSession): number =>
  `${a.interface} ${a.port}` < `${b.interface} ${b.port}` ? -1 : 1;

/** The leg of a stretched volume by which a host goes: one that serves beside it, else one that serves; else the one that is asked for. */
function tracedLeg(view: EstateView, host: Host, volume: Volume): Volume {
  const legs = legsOf(view, volume.id).map((id) => view.table('volume').get(id)!);
  if (legs.length === 1) return volume;
  const finder = pathFinder(view);
  const serving = legs.filter((leg) => {
    const mapping = mappingOf(view, host.id, leg.id);
    return mapping !== undefined && finder.count(mapping).usable > 0;
  });
  return serving.find((leg) => arrayOf(view, leg).site === host.site) ?? serving[0] ?? volume;
}

function stretchedOf(view: EstateView, volume: Volume): Trace['stretched'] {
  const leg = legOf(view, volume.id);
  if (!leg) return null;
  const { row, site } = leg;
  const says = siteNames.map(
    (one) => `${placeOf(view, row, one).name} ${siteStateWords[resultOf(row.stretch.pair[one])]}`,
  );
  return { name: row.name, site: placeOf(view, row, site).name, says: says.join(', ') };
}

/** Where a volume goes, and how its host will reach it there: its new paths stand ready before the cut, and are not used. */
function movingOf(view: EstateView, host: Host, volume: Volume): string | null {
  const row = moveOf(view, volume.id);
  if (!row || row.volume !== volume.id) return null;
  const pool = poolById(view, row.toPool);
  const there = `${arrayOf(view, pool).name} ${pool.name}`;
  const cut = row.state === 'proving' || row.state === 'cleaning';
  if (cut) return `It was taken over from ${arrayOf(view, poolById(view, row.fromPool)).name}, and can be rolled back.`;
  if (row.twin === null) return `It is to go to ${there}.`;
  if (staysWithin(view, row)) return `It goes to ${there}; paths stay as they are.`;
  const way = newWays(view, volume, targetOf(view, row), row.identity).find((one) => one.host.id === host.id);
  const paths = way?.paths ?? 0;
  return `It goes to ${there}: ${counted(paths, 'new path')} ${paths === 1 ? 'stands' : 'stand'} ready at ${host.name}, not used before the cut.`;
}

/** The chain from the drives to the file system, hop by hop, for a host and a volume. The pair of ports that gets furthest speaks for its hops. */
export function trace(view: EstateView, host: Host, asked: Volume): Trace {
  const volume = tracedLeg(view, host, asked);
  const shown = view.table('volume').get(shownAs(view, volume.id))!;
  const array = arrayOf(view, volume);
  const mapping = mappingOf(view, host.id, volume.id);
  const device = deviceAt(view, host.id, volume.id);
  const finder = pathFinder(view);
  const paths = mapping ? finder.paths(mapping) : null;
  const all = mapping ? finder.of({ host: host.id, volume: volume.id }) : null;
  const furthest = paths
    ? ([...paths.missing].sort((a, b) => breaksAt(b) - breaksAt(a) || byEnds(a, b))[0] ??
      // A port in reach that serves another transport is no path that is expected, yet it may be why there is none.
      finder.sessions(host.id, volume.array).missing.find((gap) => gap.reason === 'port-role-off'))
    : undefined;
  const good = paths?.found.find((path) => path.state === 'optimized') ?? paths?.found[0];
  const outside = outsideHop(view, volume);
  // What lies on an outside array has one hop more, before all others.
  const more = outside ? 1 : 0;
  const told: HopFound[] = [
    ...(outside ? [outside] : []),
    ...storageHops(view, volume),
    mappingHop(view, host, volume, mapping),
    ...(mapping && paths ? portHops(view, host, array, mapping, paths, good, furthest) : portHopNames.map(unreached)),
    lunHop(host, mapping, all),
    deviceHop(host, shown, mapping, all, device),
    fileSystemHop(view, host, volume, device, mapping),
  ];
  let broken = false;
  const chain = told.map((one, k): TraceHop => {
    const state = broken ? 'not-reached' : one.state;
    const hop = {
      number: k + 1,
      hop: k < more ? 'Outside array' : hops[k - more]!,
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
    legs: all ? waysOf(view, all) : { holding: [], broken: [] },
    pairs: (all ? pairsOf(view, all) : []).map((pair) =>
      pair.breaksAt === null ? pair : { ...pair, breaksAt: pair.breaksAt + more },
    ),
    stretched: stretchedOf(view, volume),
    moving: movingOf(view, host, volume),
  };
}
