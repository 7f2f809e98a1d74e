import { siteStateWords } from '../stretch/told';
import { mappingOf, pathFinder, type PathCount, type PathFinder } from '../attach/paths';
import { legOf, type Leg } from '../copies/legs';
import type { Host, Mapping } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { arrayOf, hostOf, poolOf, siteOf } from '../estate/relations';
import { byName } from '../operation/draft';
import { atRest, resultOf, type SiteResult, answersHosts } from '../stretch/decide';
import { faultTable, orderedPairs, type FaultCell, type FaultRow } from '../stretch/fault-table';
import { failed, siteNames, type SiteName } from '../stretch/state';
import type { Milliseconds } from '../units/duration';
import { addedBy } from './mirror';
import { presentLine } from './line';
import { pauseOf, silentWords } from './stretch-words';
import { legVolumes, linesBetween, lineToWitness, placeNames, placeOf, atRestWith } from './stretched';
import { formatBits } from './bits';

/** How one host reaches a leg. */
export interface WayView extends PathCount {
  mapped: boolean;
  /** What its paths are; empty where there is none. */
  says: string;
}

export interface StretchHost {
  id: string;
  name: string;
  near: string;
  /** What it has mounted there; empty for nothing. */
  mountPoint: string;
  ways: Record<SiteName, WayView>;
  /** Milliseconds that a write to the volume takes more than a local one; null where it can do none. */
  added: number | null;
  /** What it does when a site is lost. */
  without: Record<SiteName, 'goes on' | 'stops' | 'falls with it'>;
}

export interface StretchSide {
  site: SiteName;
  place: string;
  array: string;
  preferred: boolean;
  state: SiteResult;
  /** `serves alone` */
  says: string;
  /** Why it answers nothing; empty where it does. */
  why: string;
  epoch: number;
  asks: 'witness' | 'preferred';
  silentSince: Milliseconds | null;
  volumes: { id: string; name: string; pool: string; size: number; written: number }[];
  /** The line to the witness, if any is there. */
  line: { name: string; speed: string; rtt: number; up: boolean } | null;
}

/** A stretched pair as its sheet shows it. */
export interface StretchView {
  /** The identity that both legs show, volume by volume. */
  identities: { volume: string; naa: string }[];
  sides: Record<SiteName, StretchSide>;
  line: { name: string; speed: string; rtt: number; km: number; up: boolean; ails: string };
  /** Further lines between the sites, over which nothing goes. */
  spare: { name: string; speed: string; rtt: number; up: boolean }[];
  witness: { name: string; place: string; up: boolean; epoch: number; owner: string };
  parted: Milliseconds | null;
  hosts: StretchHost[];
  table: FaultRow[];
  /** How long hosts get no answer until a site goes on alone. */
  pause: Record<SiteName, Milliseconds>;
  /** What of the row 'now' leaves nobody, in words. */
  dangers: string[];
  ordered: { all: number; stopped: number; withoutSite: number };
  history: { at: Milliseconds; says: string }[];
}

/** In which order paths are told. */
const order = ['optimized', 'non-optimized', 'transitioning', 'unavailable', 'missing'];

function wayOf(finder: PathFinder, mapping: Mapping | undefined): WayView {
  if (!mapping) return { mapped: false, usable: 0, optimized: 0, expected: 0, says: 'not mapped' };
  const { found, missing, usable, optimized, expected } = finder.paths(mapping);
  const counts = new Map<string, number>();
  for (const { state } of found) counts.set(state, (counts.get(state) ?? 0) + 1);
  if (missing.length > 0) counts.set('missing', missing.length);
  const says = order.flatMap((state) => (counts.has(state) ? `${counts.get(state)} ${state}` : [])).join(', ');
  return { mapped: true, usable, optimized, expected, says: says || 'no path' };
}

/** The estate as the pair would leave it were a site lost: the paths of the other leg as the protocol decides. */
function withoutSite(view: EstateView, row: Leg['row'], site: SiteName): EstateView {
  const overlay = new Overlay(view);
  overlay.apply([atRestWith(row, atRest(failed(row.stretch.pair, site)).pair)]);
  return overlay;
}

function hostsOf(view: EstateView, row: Leg['row']): StretchHost[] {
  const hosts = new Map<string, Host>();
  for (const site of siteNames)
    for (const volume of legVolumes(view, row, site))
      for (const mapping of view.table('mapping').by('volume', volume.id))
        hosts.set(mapping.host, hostOf(view, mapping));
  const finder = pathFinder(view);
  const then = { A: pathFinder(withoutSite(view, row, 'A')), B: pathFinder(withoutSite(view, row, 'B')) };
  const first = row.primaries[0]!;
  const far = addedBy(view.table('siteLink').get(row.link)!, legVolumes(view, row, 'A')).ms;
  const joined = row.state === 'protected';
  return [...hosts.values()].sort(byName).map((host) => {
    /** The volume of the pair that it sees, the first one if it does. */
    const k = Math.max(
      0,
      row.primaries.findIndex(
        (id, at) => mappingOf(view, host.id, id) ?? mappingOf(view, host.id, row.secondaries[at]!),
      ),
    );
    const legs = { A: row.primaries[k] ?? first, B: row.secondaries[k]! };
    const near = siteNames.find((site) => placeOf(view, row, site).id === host.site);
    const reaches = finder.reaches({ host: host.id, volume: legs.A });
    const device = view
      .table('hostDevice')
      .by('host', host.id)
      .find(({ volume }) => row.primaries.includes(volume));
    const lost = (site: SiteName) => {
      if (near === site) return 'falls with it' as const;
      const left = mappingOf(view, host.id, legs[site === 'A' ? 'B' : 'A']);
      return left && then[site].count(left).usable > 0 ? ('goes on' as const) : ('stops' as const);
    };
    const own = near === undefined ? undefined : mappingOf(view, host.id, legs[near]);
    const local = own !== undefined && finder.paths(own).optimized > 0;
    return {
      id: host.id,
      name: host.name,
      near: siteOf(view, host).name,
      mountPoint: device?.mountPoint ?? '',
      ways: {
        A: wayOf(finder, mappingOf(view, host.id, legs.A)),
        B: wayOf(finder, mappingOf(view, host.id, legs.B)),
      },
      added: reaches ? (joined ? far : 0) + (local ? 0 : far) : null,
      without: { A: lost('A'), B: lost('B') },
    };
  });
}

function sideOf(view: EstateView, row: Leg['row'], site: SiteName): StretchSide {
  const { pair, silentAt } = row.stretch;
  const state = resultOf(pair[site]);
  const volumes = legVolumes(view, row, site);
  const witness = view.table('witness').get(row.witness!)!;
  const line = lineToWitness(view, row, site) ?? linesBetween(view, placeOf(view, row, site).id, witness.site)[0];
  const serves = answersHosts(state);
  return {
    site,
    place: placeOf(view, row, site).name,
    array: arrayOf(view, volumes[0]!).name,
    preferred: pair.preferred === site,
    state,
    says: siteStateWords[state],
    why: serves ? '' : silentWords(row, site, placeNames(view, row)),
    epoch: pair[site].epoch,
    asks: pair[site].arb === 'W' ? 'witness' : 'preferred',
    silentSince: silentAt[site],
    volumes: volumes.map((volume) => ({
      id: volume.id,
      name: volume.name,
      pool: poolOf(view, volume).name,
      size: volume.size,
      written: volume.written,
    })),
    line: line
      ? { name: line.name, speed: formatBits(line.bitsPerS), rtt: presentLine(line).rtt, up: line.state === 'up' }
      : null,
  };
}

const partName = (part: FaultCell['then'], names: { A: string; B: string; W: string }): string =>
  ({
    nothing: 'nothing',
    A: names.A,
    B: names.B,
    W: names.W,
    AB: `the link between ${names.A} and ${names.B}`,
    AW: `the link from ${names.A} to ${names.W}`,
    BW: `the link from ${names.B} to ${names.W}`,
  })[part];

/** What would leave nobody as it is now, in a sentence each. */
function dangersOf(view: EstateView, row: Leg['row'], [now]: readonly FaultRow[]): string[] {
  const names = placeNames(view, row);
  return now!.cells
    .filter(({ stopped, states }) => stopped && states !== null)
    .map(({ then }) => {
      const pair = then === 'nothing' ? row.stretch.pair : atRest(failed(row.stretch.pair, then)).pair;
      const after: Leg['row'] = { ...row, stretch: { ...row.stretch, pair } };
      const why = siteNames.filter((site) => pair[site].up).map((site) => silentWords(after, site, names));
      const what = then === 'nothing' ? 'Now nobody goes on' : `Were ${partName(then, names)} lost now, nobody goes on`;
      return `${what}${why.length > 0 ? `: ${why.join('; ')}` : ''}.`;
    });
}

/** A stretched pair, whole; null for any other replication. */
export function stretchView(view: EstateView, id: string): StretchView | null {
  const row = view.table('replication').get(id);
  const leg = row && legOf(view, row.primaries[0]!);
  if (!leg || leg.row.id !== id) return null;
  const pairRow = leg.row;
  const { pair, partedAt, history } = pairRow.stretch;
  const names = placeNames(view, pairRow);
  const line = view.table('siteLink').get(pairRow.link)!;
  const witness = view.table('witness').get(pairRow.witness!)!;
  const table = faultTable(pair);
  const sites = { A: placeOf(view, pairRow, 'A').id, B: placeOf(view, pairRow, 'B').id };
  return {
    identities: legVolumes(view, pairRow, 'A').map(({ name, naa }) => ({ volume: name, naa })),
    sides: { A: sideOf(view, pairRow, 'A'), B: sideOf(view, pairRow, 'B') },
    line: {
      name: line.name,
      speed: formatBits(line.bitsPerS),
      rtt: presentLine(line).rtt,
      km: line.km,
      up: line.state === 'up',
      ails: [...(line.slow ? ['slow'] : []), ...(line.lossy ? ['loses segments'] : [])].join(', '),
    },
    spare: linesBetween(view, sites.A, sites.B)
      .filter((one) => one.id !== line.id)
      .map((one) => ({
        name: one.name,
        speed: formatBits(one.bitsPerS),
        rtt: presentLine(one).rtt,
        up: one.state === 'up',
      })),
    witness: {
      name: witness.name,
      place: siteOf(view, witness).name,
      up: pair.W.up,
      epoch: pair.W.epoch,
      owner: pair.W.owner === 'both' ? 'both' : names[pair.W.owner],
    },
    parted: partedAt,
    hosts: hostsOf(view, pairRow),
    table,
    pause: { A: pauseOf(view, pairRow, 'A'), B: pauseOf(view, pairRow, 'B') },
    dangers: dangersOf(view, pairRow, table),
    ordered: orderedPairs(pair.preferred),
    history: [...history].reverse(),
  };
}
