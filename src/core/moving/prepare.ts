import { sessionBook, type Session } from '../attach/sessions';
import { carries } from '../attach/paths';
import type { ArrayRow, Host, Mapping, Subsystem, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { hostOf } from '../estate/relations';
import { connectRefusal, subsystemsOf } from '../nvme/connect';
import { maxLun, takenLuns, takenNamespaces } from '../attach/luns';

/** How a volume is shown to one host by another array. */
export interface NewWay {
  mapping: Mapping;
  host: Host;
  /** The mapping as it will be there; null where nothing of the kind is there to show it by. */
  after: Mapping | null;
  /** Paths that it will have. */
  paths: number;
  /** The volume that holds the number there; undefined where it is free. */
  holder: Volume | undefined;
}

/** A subsystem of an array that lets a host connect. */
const openTo = (view: EstateView, array: ArrayRow, host: Host): Subsystem | undefined =>
  subsystemsOf(view, array.id).find((one) => connectRefusal(host, one) === null);

/** Ports there in place of those that a mapping names: as many, in turns over the controllers. */
function portsFor(mapping: Mapping, sessions: readonly Session[]): string[] | null {
  if (mapping.ports === null) return null;
  const byController = new Map<string, string[]>();
  for (const { controller, port } of sessions) {
    const own = byController.get(controller) ?? [];
    if (!own.includes(port)) byController.set(controller, [...own, port].sort());
  }
  const sides = [...byController.entries()].sort(([a], [b]) => (a < b ? -1 : 1)).map(([, ports]) => ports);
  const found: string[] = [];
  for (let turn = 0; found.length < mapping.ports.length && sides.some((ports) => ports.length > turn); turn++)
    for (const ports of sides) if (ports[turn] !== undefined) found.push(ports[turn]!);
  return found.length > 0 ? found.slice(0, Math.max(mapping.ports.length, sides.length)) : null;
}

/** How hosts that see a volume will see it by another array, mapping by mapping (the port map). */
export function newWays(view: EstateView, volume: Volume, array: ArrayRow, identity: 'kept' | 'new'): NewWay[] {
  const book = sessionBook(view);
  return [...view.table('mapping').by('volume', volume.id)].map((mapping): NewWay => {
    const host = hostOf(view, mapping);
    const { up } = book(host.id, array.id);
    const subsystem = mapping.subsystem === null ? null : openTo(view, array, host);
    if (subsystem === undefined) return { mapping, host, after: null, paths: 0, holder: undefined };
    const base = { ...mapping, target: null, subsystem: subsystem?.id ?? null, ports: null };
    const sessions = up.filter((session) => carries(base, session));
    const ports = portsFor(mapping, sessions);
    const taken = subsystem ? takenNamespaces(view, subsystem.id) : takenLuns(view, host.id, array.id, ports);
    const holds = taken.get(mapping.lun);
    const lun = identity === 'new' && holds !== undefined ? freeNumber(taken, subsystem ? 1 : 0) : mapping.lun;
    const after = { ...base, ports, lun };
    return {
      mapping,
      host,
      after: subsystem || lun <= maxLun([host]) ? after : null,
      paths: sessions.filter((session) => carries(after, session)).length,
      holder: identity === 'kept' && holds !== undefined ? view.table('volume').get(holds) : undefined,
    };
  });
}

function freeNumber(taken: ReadonlyMap<number, string>, from: number): number {
  let number = from;
  while (taken.has(number)) number += 1;
  return number;
}
