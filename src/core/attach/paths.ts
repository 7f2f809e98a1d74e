import type { Mapping, Transport, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, volumeOf } from '../estate/relations';
import { servingController, volumeHealth } from '../volume/health';
import { leastWanted, sessionBook, type MissingSession, type Session, type Sessions } from './sessions';

export type PathState = 'optimized' | 'non-optimized' | 'unavailable';

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
  count(mapping: Mapping): { usable: number; optimized: number; expected: number };
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
  const stateOf = (controller: string, owner: string | null, online: boolean): PathState =>
    !online ? 'unavailable' : owner === 'any' || controller === owner ? 'optimized' : 'non-optimized';

  return {
    sessions: of,
    paths(mapping) {
      const volume = volumes.get(mapping.volume)!;
      const sessions = of(mapping.host, volume.array);
      const owner = servingOf(volume);
      const online = stateOfVolume(volume) !== 'lost';
      const found = sessions.up
        .filter((session) => carries(mapping, session))
        .map(({ transport, interface: from, port, controller, network, target }) => ({
          transport,
          interface: from,
          port,
          controller,
          network,
          target,
          state: stateOf(controller, owner, online),
        }));
      const gaps = gapsOf(mapping, sessions);
      return {
        found,
        missing: gaps,
        expected: found.length + gaps.length,
        optimized: found.filter((path) => path.state === 'optimized').length,
        usable: found.filter((path) => path.state !== 'unavailable').length,
      };
    },
    count(mapping) {
      const volume = volumes.get(mapping.volume)!;
      const sessions = of(mapping.host, volume.array);
      const { up, missing } = sessions;
      const owner = servingOf(volume);
      const online = stateOfVolume(volume) !== 'lost';
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
        if (online && (owner === 'any' || session.controller === owner)) optimized += 1;
      }
      const met = expected;
      for (const gap of missing) if (expects(mapping, gap)) expected += 1;
      if (unserved > 0 || expected === 0) expected = met + gapsOf(mapping, sessions).length;
      return { usable, optimized, expected };
    },
  };
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

/** Whether the host can do I/O to the volume through the mapping. */
export const reachesVolume = (finder: PathFinder, mapping: Mapping | undefined): boolean =>
  mapping !== undefined && finder.count(mapping).usable > 0;

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
