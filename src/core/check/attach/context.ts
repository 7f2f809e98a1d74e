import { carries, pathFinder, type PathFinder } from '../../attach/paths';
import { nextPorts, portLoads, type PortLoad } from '../../attach/port-load';
import type { MissingSession, Sessions } from '../../attach/sessions';
import type { ArrayRow, Fabric, Host, Mapping } from '../../estate/entities';
import type { EstateView } from '../../estate/estate';
import { arrayOf, hostOf, volumeOf } from '../../estate/relations';
import { auditFabric, type AuditLine } from '../../fabric/audit';
import { talkers, trunkLoads, type TrunkLoad } from '../../fabric/load';
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
  talkers: () => ReturnType<typeof talkers>;
  trunks: () => readonly TrunkLoad[];
  audit: (fabric: Fabric) => readonly AuditLine[];
  loads: (lost?: string) => ReadonlyMap<string, PortLoad>;
  spofs: () => (mapping: Mapping) => Spofs;
  /** For each array port the host that may have most commands outstanding there. */
  busiest: () => ReadonlyMap<string, Host>;
  /** Names of the ports on which the next host of an array is best put. */
  better: (array: string) => readonly string[];
}

export function attachFacts(view: EstateView): AttachFacts {
  const finder = pathFinder(view);
  const once = <T>(work: () => T): (() => T) => {
    let known: { value: T } | null = null;
    return () => (known ??= { value: work() }).value;
  };
  const audits = new Map<string, readonly AuditLine[]>();
  const loads = new Map<string, ReadonlyMap<string, PortLoad>>();
  const next = new Map<string, readonly string[]>();
  const pairings = once((): readonly Pairing[] => {
    const found = new Map<string, Pairing>();
    for (const mapping of view.table('mapping').values()) {
      const array = volumeOf(view, mapping).array;
      const key = `${mapping.host} ${array}`;
      const known = found.get(key);
      if (known) known.mappings.push(mapping);
      else
        found.set(key, {
          host: hostOf(view, mapping),
          array: view.table('array').get(array)!,
          mappings: [mapping],
          sessions: finder.sessions(mapping.host, array),
        });
    }
    return [...found.values()];
  });
  const loadsOf = (lost = ''): ReadonlyMap<string, PortLoad> => {
    let known = loads.get(lost);
    if (!known) loads.set(lost, (known = portLoads(view, finder, lost || null)));
    return known;
  };
  const talking = once(() => talkers(view));
  return {
    finder,
    pairings,
    talkers: talking,
    trunks: once(() => trunkLoads(view, talking())),
    audit(fabric) {
      let known = audits.get(fabric.id);
      if (!known) audits.set(fabric.id, (known = auditFabric(view, fabric)));
      return known;
    },
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
    spofs: once(() => spofFinder(view)),
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
