import { mappingsOf } from '../copies/legs';
import type { HostDevice, Mapping } from '../estate/entities';
import { grantOf, mainTarget, portalsOf, targetText } from '../iscsi/target';
import { networksOf, reach } from '../network/reach';
import type { EstateView } from '../estate/estate';
import { hostOf, targetOf, volumeOf } from '../estate/relations';
import { formatRate } from '../units/rate';
import { replicaBar } from '../copies/replica';

/** Why a host may only read what a mapping shows it, in words after its name; null where it may write. */
export function readOnlyWhy(view: EstateView, mapping: Mapping): string | null {
  if (mapping.access === 'read-only') return 'is mapped for reading only';
  const replica = replicaBar(view, mapping.volume);
  if (replica !== null) return replica;
  const { array, reservedBy } = volumeOf(view, mapping);
  const holder = reservedBy === null ? undefined : view.table('host').get(reservedBy);
  const host = hostOf(view, mapping);
  if (holder && holder.id !== host.id && (holder.cluster === null || holder.cluster !== host.cluster))
    return `may not write: ${holder.name} holds a reservation on it`;
  for (const initiator of view.table('initiator').by('host', mapping.host))
    if (
      view
        .table('access')
        .by('initiator', initiator.id)
        .some((row) => row.array === array && row.level === 'read-only')
    )
      return `is shown by ${view.table('array').get(array)!.name}, which grants ${initiator.name} reading only`;
  const target = mapping.target ? targetOf(view, mapping) : mainTarget(view, array);
  if (!host || host.presents === null || !target || mapping.subsystem !== null) return null;
  // A device takes no writes as soon as one of the sessions it goes by is for reading alone.
  if (target.usual !== 'read-only' && !target.rules.some((rule) => rule.level === 'read-only')) return null;
  const networks = networksOf(view);
  const portals = portalsOf(view, target);
  for (const from of view.table('interface').by('host', host.id)) {
    if (from.kind !== 'ethernet' || !portals.some(({ port }) => reach(networks, from, port).ok)) continue;
    const grant = grantOf(target, { name: host.presents, host, from });
    if (grant.level === 'read-only')
      return `is shown by target ${targetText(view, target)}, which grants ${grant.by ?? 'whom it does not name'} reading only`;
  }
  return null;
}

/** The same for a device; null also where it is not mapped, since then nothing reaches it. */
export function readOnlyDevice(view: EstateView, device: HostDevice): string | null {
  const ways = mappingsOf(view, device.host, device.volume);
  if (ways.length < 2) return ways[0] ? readOnlyWhy(view, ways[0]) : null;
  // A leg that is closed does not close the other.
  const why = ways.map((mapping) => readOnlyWhy(view, mapping));
  return why.includes(null) ? null : why[0]!;
}

/** What a change takes from hosts that write now: they would be refused from then on. */
export function barredWrites(before: EstateView, after: EstateView, hosts: Iterable<string>): string[] {
  const said: string[] = [];
  for (const host of new Set(hosts))
    for (const device of after.table('hostDevice').by('host', host)) {
      if (device.mountPoint === null || readOnlyDevice(after, device) === null || readOnlyDevice(before, device))
        continue;
      const name = after.table('host').get(host)?.name ?? '';
      said.push(
        `${name} has ${volumeOf(after, device).name} mounted at ${device.mountPoint}${device.writeRate > 0 ? ` and writes ${formatRate(device.writeRate)}` : ''}: its writes will fail.`,
      );
    }
  return said;
}
