import { carries, pathFinder, type PathFinder } from '../../attach/paths';
import { nextPorts, portLoadsInParts, type PortLoad } from '../../attach/port-load';
import type { MissingSession, Sessions } from '../../attach/sessions';
import type { ArrayRow, Fabric, Host, Mapping } from '../../estate/entities';
import type { EstateView } from '../../estate/estate';
import { arrayOf, hostOf, volumeOf } from '../../estate/relations';
import { auditInParts, type AuditLine } from '../../fabric/audit';
import { talkersInParts, trunkLoadsInParts, type Talkers, type TrunkLoad } from '../../fabric/load';
import { prepared, type InParts, type Prepared } from '../../units/in-parts';
import { spofFinder, type Spofs } from '../../whatif/spof';

/** A host and an array it has volumes of. */
export interface Pairing {
  host: Host;
  array: ArrayRow;
  mappings: Mapping[];
  sessions: Sessions;
}

/** What many checks of attaching ask for, each worked out once and only when it is asked for. */
export interface AttachFacts {
  finder: PathFinder;
  pairings: () => readonly Pairing[];
  talkers: () => Talkers;
  trunks: () => readonly TrunkLoad[];
  audit: (fabric: Fabric) => readonly AuditLine[];
  loads: (lost?: string) => ReadonlyMap<string, PortLoad>;
  spofs: () => (mapping: Mapping) => Spofs;
  /** For each array port the host that may have most commands outstanding there. */
  busiest: () => ReadonlyMap<string, Host>;
  /** Names of the ports on which the next host of an array is best put. */
  better: (array: string) => readonly string[];
  /** Works out beforehand, in slices, what takes long. */
  prepare: () => InParts<void>;
}

export function attachFacts(view: EstateView): AttachFacts {
  const finder = pathFinder(view);
  const once = <T>(work: () => T): (() => T) => {
    let known: { value: T } | null = null;
    return () => (known ??= { value: work() }).value;
  };
  /** One of each key, worked out once. */
  const each = <T>(work: (key: string) => InParts<T>): ((key: string) => Prepared<T>) => {
    const known = new Map<string, Prepared<T>>();
    return (key) => {
      let found = known.get(key);
      if (!found) known.set(key, (found = prepared(() => work(key))));
      return found;
    };
  };
  const audits = each((id): InParts<readonly AuditLine[]> => auditInParts(view, view.table('fabric').get(id)!));
  const loads = each((lost): InParts<ReadonlyMap<string, PortLoad>> => portLoadsInParts(view, finder, lost || null));
  const next = new Map<string, readonly string[]>();
  const pairings = prepared(function* (): InParts<readonly Pairing[]> {
    const found = new Map<string, Pairing>();
    for (const mapping of view.table('mapping').values()) {
      const { array } = volumeOf(view, mapping);
      const key = `${mapping.host} ${array}`;
      const known = found.get(key);
      if (known) known.mappings.push(mapping);
      else {
        yield;
        found.set(key, {
          host: hostOf(view, mapping),
          array: view.table('array').get(array)!,
          mappings: [mapping],
          sessions: finder.sessions(mapping.host, array),
        });
      }
    }
    return [...found.values()];
  });
  const loadsOf = (lost = ''): ReadonlyMap<string, PortLoad> => loads(lost)();
  const talking = prepared(() => talkersInParts(view));
  const trunks = prepared(() => trunkLoadsInParts(view, talking()));
  const spofs = once(() => spofFinder(view));
  return {
    finder,
    pairings,
    talkers: talking,
    trunks,
    audit: (fabric) => audits(fabric.id)(),
    loads: loadsOf,
    busiest: once(() => {
      const found = new Map<string, { host: Host; depth: number }>();
      for (const { host, mappings, sessions } of pairings()) {
        const depth = host.queueDepth * mappings.length;
        for (const { port } of sessions.up) if (depth > (found.get(port)?.depth ?? 0)) found.set(port, { host, depth });
      }
      return new Map([...found].map(([port, { host }]) => [port, host]));
    }),
    better(array) {
      let known = next.get(array);
      if (!known) next.set(array, (known = nextPorts(view, array, loadsOf()).map((port) => port.name)));
      return known;
    },
    spofs,
    *prepare() {
      yield* pairings.prepare();
      yield* talking.prepare();
      yield* trunks.prepare();
      yield* loads('').prepare();
      for (const { id } of view.table('fabric').values()) {
        yield* audits(id).prepare();
        yield* loads(id).prepare();
      }
    },
  };
}

/** Gaps that some mapping of the pairing goes by: those through its ports, by its target or over its subsystem. */
export const wantedGaps = ({ mappings, sessions }: Pairing): MissingSession[] =>
  sessions.missing.filter((gap) => gap.reason !== 'port-role-off' && mappings.some((mapping) => carries(mapping, gap)));

export const volumeNames = (view: EstateView, mappings: readonly Mapping[]): string[] =>
  mappings.map((mapping) => volumeOf(view, mapping).name).sort();

export const aboutHost = (host: Host) => ({ kind: 'host' as const, id: host.id, name: host.name });

/** The chain to look at: from the host to the first of its volumes. */
export function traceOf(view: EstateView, host: Host, mapping: Mapping): { host: string; volume: string } {
  const volume = volumeOf(view, mapping);
  return { host: host.name, volume: `${arrayOf(view, volume).name}/${volume.name}` };
}
