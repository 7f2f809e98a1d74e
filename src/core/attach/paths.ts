import { answersHosts } from '../stretch/decide';
import type { Mapping, Transport, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { legOf, legState, mappingsOf } from '../copies/legs';
import { arrayOf, hostOf, volumeOf } from '../estate/relations';
import { servingController, volumeHealth } from '../volume/health';
import { leastWanted, sessionBook, type MissingSession, type Session, type Sessions } from './sessions';

export type PathState = 'optimized' | 'non-optimized' | 'transitioning' | 'unavailable';
const carriesIo = (state: PathState): boolean => state === 'optimized' || state === 'non-optimized';

/** Initiator port – target port – LUN, with its state as the host is told. */
export interface Path {
  transport: Transport;
  interface: string;
  port: string;
  controller: string;
  network: string | null;
  /** The iSCSI target, where it is not its array's main one. */
  target: string | null;
  state: PathState;
}

export interface Paths {
  found: Path[];
  missing: MissingSession[];
  expected: number;
  optimized: number;
  usable: number;
}

/** Whether a session carries what the mapping shows: through its ports, by its target or as a namespace of its subsystem. */
export const carries = (mapping: Mapping, session: Door): boolean =>
  session.subsystem === mapping.subsystem &&
  session.target === mapping.target &&
  (mapping.ports === null || mapping.ports.includes(session.port));
type Door = Pick<Session, 'port' | 'subsystem' | 'target'>;
/** Ports of another role are no part of what is expected. */
const expects = (mapping: Mapping, gap: MissingSession): boolean =>
  gap.reason !== 'port-role-off' && carries(mapping, gap);

/**
 * What a mapping misses. Pairs that nothing was made to let meet are missed where it has nothing better: Fibre Channel ports by each interface
 * that is zoned with none of the mapping's ports, IP ends where no pair is there at all.
 */
function gapsOf(mapping: Mapping, sessions: Sessions): MissingSession[] {
  const { up, missing } = sessions;
  const gaps = missing.filter((gap) => expects(mapping, gap));
  const met = up.filter((session) => carries(mapping, session));
  if (mapping.ports !== null && sessions.loose.length > 0) {
    const served = new Set([...met, ...gaps].map((one) => one.interface));
    gaps.push(
      ...leastWanted(
        sessions.apart.filter((gap) => gap.transport === 'fc' && !served.has(gap.interface) && expects(mapping, gap)),
      ),
    );
  }
  // A pair in reach whose port serves another transport is why nothing meets, not the pairs that are out of reach.
  if (met.length + gaps.length === 0 && !missing.some((gap) => carries(mapping, gap)))
    gaps.push(...leastWanted(sessions.apart.filter((gap) => gap.transport !== 'fc' && expects(mapping, gap))));
  return gaps;
}

/** Finds paths in one estate; sessions are worked out once a host and array, so that counting all paths costs little more than the mappings. */
export interface PathFinder {
  sessions(host: string, array: string): Sessions;
  /** All paths of one mapping. */
  paths(mapping: Mapping): Paths;
  /** Found and expected paths of one mapping, without listing them. */
  count(mapping: Mapping): PathCount;
  /** All paths of a device: of a stretched volume those to both sites. */
  of(device: Seen): Paths;
  /** The same, without listing them. */
  total(device: Seen): PathCount;
  /** Whether the host can do I/O to the device. */
  reaches(device: Seen): boolean;
}
export interface PathCount {
  usable: number;
  optimized: number;
  expected: number;
}
/** A volume at a host. */
interface Seen {
  host: string;
  volume: string;
}

export function pathFinder(view: EstateView): PathFinder {
  const serving = new Map<string, string | null>();
  const of = sessionBook(view);
  const stateOfVolume = volumeHealth(view);
  const volumes = view.table('volume');

  /** The controller whose paths are the best; `any` where all serve alike. */
  const servingOf = (volume: Volume): string | null => {
    if (symmetric(volume)) return 'any';
    const key = volume.owner;
    if (!serving.has(key)) serving.set(key, servingController(view, volume)?.id ?? null);
    return serving.get(key)!;
  };
  const symmetric = (volume: Volume): boolean => arrayOf(view, volume).pathAccess === 'symmetric';
  /** What all paths of a mapping are alike, whatever their controller; null where that decides (attach.md F2, in this order). */
  const alike = (mapping: Mapping, volume: Volume): PathState | null => {
    if (stateOfVolume(volume) === 'lost') return 'unavailable';
    const leg = legOf(view, volume.id);
    if (!leg) return null;
    const state = legState(leg);
    if (state === 'HOLD') return leg.row.stretch.expired[leg.site] ? 'unavailable' : 'transitioning';
    if (!answersHosts(state)) return 'unavailable';
    return hostOf(view, mapping).site === arrayOf(view, volume).site ? null : 'non-optimized';
  };
  const stateOf = (controller: string, owner: string | null): PathState =>
    owner === 'any' || controller === owner ? 'optimized' : 'non-optimized';

  const finder: PathFinder = {
    sessions: of,
    paths(mapping) {
      const volume = volumes.get(mapping.volume)!;
      const sessions = of(mapping.host, volume.array);
      const owner = servingOf(volume);
      const all = alike(mapping, volume);
      const found = sessions.up
        .filter((session) => carries(mapping, session))
        .map(({ transport, interface: from, port, controller, network, target }) => ({
          transport,
          interface: from,
          port,
          controller,
          network,
          target,
          state: all ?? stateOf(controller, owner),
        }));
      const gaps = gapsOf(mapping, sessions);
      return {
        found,
        missing: gaps,
        expected: found.length + gaps.length,
        optimized: found.filter((path) => path.state === 'optimized').length,
        usable: found.filter((path) => carriesIo(path.state)).length,
      };
    },
    count(mapping) {
      const volume = volumes.get(mapping.volume)!;
      const sessions = of(mapping.host, volume.array);
      const { up, missing } = sessions;
      const owner = servingOf(volume);
      const all = alike(mapping, volume);
      const online = all === null || carriesIo(all);
      let usable = 0;
      let optimized = 0;
      let expected = 0;
      // Where a mapping leaves ports out, an interface may be zoned with none of those it goes by.
      let unserved = mapping.ports === null ? 0 : sessions.loose.length;
      let last = '';
      for (const session of up) {
        if (!carries(mapping, session)) continue;
        expected += 1;
        if (unserved > 0 && session.interface !== last && sessions.loose.includes(session.interface)) unserved -= 1;
        last = session.interface;
        if (online) usable += 1;
        if (all === null && (owner === 'any' || session.controller === owner)) optimized += 1;
      }
      const met = expected;
      for (const gap of missing) if (expects(mapping, gap)) expected += 1;
      if (unserved > 0 || expected === 0) expected = met + gapsOf(mapping, sessions).length;
      return { usable, optimized, expected };
    },
    of({ host, volume }) {
      const both = mappingsOf(view, host, volume).map((mapping) => finder.paths(mapping));
      return {
        ...finder.total({ host, volume }),
        found: both.flatMap((one) => one.found),
        missing: both.flatMap((one) => one.missing),
      };
    },
    total({ host, volume }) {
      const sum = { usable: 0, optimized: 0, expected: 0 };
      for (const mapping of mappingsOf(view, host, volume)) {
        const { usable, optimized, expected } = finder.count(mapping);
        sum.usable += usable;
        sum.optimized += optimized;
        sum.expected += expected;
      }
      return sum;
    },
    reaches: ({ host, volume }) => mappingsOf(view, host, volume).some((mapping) => finder.count(mapping).usable > 0),
  };
  return finder;
}

/** What decides by which ports a mapping is reached: those of one host that share it meet, miss and fail the same. */
export const wayOf = (view: EstateView, mapping: Mapping): string =>
  `${mapping.host} ${volumeOf(view, mapping).array} ${mapping.subsystem ?? mapping.target ?? ''} ${mapping.ports?.join() ?? ''}`;

export const mappingOf = (view: EstateView, host: string, volume: string): Mapping | undefined =>
  view
    .table('mapping')
    .by('volume', volume)
    .find((mapping) => mapping.host === host);

/** `2 optimized, 2 waiting` */
export function pathWords(paths: { usable: number; optimized: number }): string {
  return `${paths.optimized} optimized, ${paths.usable - paths.optimized} non-optimized`;
}

/** Every mapping's found and expected paths, summed. */
export function countAllPaths(view: EstateView): { usable: number; expected: number; mappings: number } {
  const finder = pathFinder(view);
  const sum = { usable: 0, expected: 0, mappings: 0 };
  for (const mapping of view.table('mapping').values()) {
    const { usable, expected } = finder.count(mapping);
    sum.usable += usable;
    sum.expected += expected;
    sum.mappings += 1;
  }
  return sum;
}

export const hostName = (view: EstateView, id: string): string => view.table('host').get(id)?.name ?? id;
