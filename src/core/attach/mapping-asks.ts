import { legOf, legsOf } from '../copies/legs';
import { hostOf } from '../estate/relations';
import { type ArrayRow, type Host, type Subsystem, type Target, type Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { subsystemsOf } from '../nvme/connect';
import { type Inquiry } from '../operation/inquiry';
import { subjectOf } from '../operation/refusal';
import { families } from './families';
import { initiatorForm } from './initiators';
import { maxLun, namespaceIdFor, nextFreeLun, takenLuns, takenNamespaces } from './luns';
import { mappingOf } from './paths';

/** Hosts that write to the volume already and do not share a cluster with this one. */
export function strangers(view: EstateView, host: Host, volume: Volume): string[] {
  const others = legsOf(view, volume.id)
    .flatMap((leg) => view.table('mapping').by('volume', leg))
    .filter((mapping) => mapping.access === 'read-write')
    .map((mapping) => hostOf(view, mapping))
    .filter((other) => other.id !== host.id && (other.cluster === null || other.cluster !== host.cluster))
    .map((other) => other.name);
  return [...new Set(others)];
}

/** The LUN by which some hosts see the other leg of a stretched volume: both legs must be one to them. Null where they do not. */
export function lunOfOtherLeg(view: EstateView, hosts: readonly Host[], volume: Volume): number | null {
  for (const leg of legsOf(view, volume.id))
    for (const host of leg === volume.id ? [] : hosts) {
      const mapping = mappingOf(view, host.id, leg);
      if (mapping && mapping.subsystem === null) return mapping.lun;
    }
  return null;
}

/** Refuses another LUN than that of the other leg. */
export function askLegLun(view: EstateView, asks: Inquiry, hosts: readonly Host[], volume: Volume, lun: number): void {
  const other = lunOfOtherLeg(view, hosts, volume);
  if (other === null || other === lun) return;
  const { row } = legOf(view, volume.id)!;
  asks.refuse({
    code: 'stretched-lun-differs',
    field: 'lun',
    subject: subjectOf('volume', volume),
    message: `${hosts.map(({ name }) => name).join(', ')} would see ${row.name} as LUN ${lun} here and as LUN ${other} at the other site: both legs bear one identity.`,
    mend: `Use LUN ${other} at both, and free it first where it shows something else.`,
  });
}

/** Whether the host has no other way to a volume than NVMe. */
export const onlyNvme = (view: EstateView, host: Host): boolean => {
  const names = view.table('initiator').by('host', host.id);
  return names.length > 0 && names.every((row) => initiatorForm(row.name) === 'nqn');
};

/** The subsystem named, or the array's own where the hosts have no other way. */
export function askSubsystem(
  view: EstateView,
  asks: Inquiry,
  array: ArrayRow | undefined,
  hosts: readonly Host[],
  named: string | undefined,
): Subsystem | null {
  if (!array) return null;
  if (named) return asks.find('subsystem', named, 'subsystem', array) ?? null;
  return hosts.length > 0 && hosts.every((host) => onlyNvme(view, host))
    ? (subsystemsOf(view, array.id)[0] ?? null)
    : null;
}

/** What keeps one host from seeing the volume. */
export function checkHost(
  view: EstateView,
  asks: Inquiry,
  host: Host,
  volume: Volume,
  access: 'read-write' | 'read-only',
): void {
  if (view.table('initiator').countBy('host', host.id) === 0)
    asks.refuse({
      code: 'no-initiator',
      field: 'host',
      subject: subjectOf('host', host),
      message: `${host.name} has no initiator on record, so no array lets it in.`,
      mend: 'Register the host with its initiator name.',
    });
  const already = mappingOf(view, host.id, volume.id);
  if (already)
    asks.refuse({
      code: 'volume-mapped-twice',
      field: 'volumes',
      subject: subjectOf('volume', volume),
      message: `${host.name} sees ${volume.name} already, as ${already.subsystem ? 'namespace' : 'LUN'} ${already.lun}.`,
      mend: 'Leave it out.',
    });
  const others = access === 'read-write' && !volume.shared ? strangers(view, host, volume) : [];
  if (others.length > 0)
    asks.refuse({
      code: 'shared-unclustered',
      field: 'access',
      subject: subjectOf('volume', volume),
      message: `${others.join(', ')} and ${host.name} would both write to ${volume.name} without being one cluster, and corrupt it.`,
      mend: 'Map it read-only, take the other mapping away, or mark the volume as shared.',
    });
}

/** The number by which all the hosts will see the volume, or null with refusals. */
export function askNumber(
  view: EstateView,
  asks: Inquiry,
  hosts: readonly Host[],
  volume: Volume,
  subsystem: Subsystem | null,
  target: Target | null,
  ports: string[] | null,
  wanted: number | 'next',
): number | null {
  if (subsystem) {
    const own = namespaceIdFor(view, subsystem, volume);
    const id = wanted === 'next' ? own : wanted;
    const holder = takenNamespaces(view, subsystem.id).get(id);
    if (
      id < 1 ||
      (holder !== undefined && holder !== volume.id) ||
      (holder === undefined &&
        view
          .table('mapping')
          .by('subsystem', subsystem.id)
          .some((row) => row.volume === volume.id))
    )
      asks.refuse({
        code: 'nsid-taken',
        field: 'lun',
        subject: subjectOf('subsystem', subsystem),
        message:
          id < 1
            ? 'Namespace IDs begin at 1.'
            : `Namespace ${id} of ${subsystem.name} is ${holder ? view.table('volume').get(holder)!.name : `not the one ${volume.name} has there, ${own}`}.`,
        mend: `Use ${own}.`,
      });
    return asks.refusals.length > 0 ? null : id;
  }
  const lun = wanted === 'next' ? nextFreeLun(view, hosts, volume.array, ports, 0, target?.id) : wanted;
  if (lun === null || lun > maxLun(hosts)) {
    const [host] = [...hosts].sort((a, b) => families[a.os].maxLun - families[b.os].maxLun);
    asks.refuse({
      code: lun === null ? 'no-free-lun' : 'lun-out-of-range',
      field: 'lun',
      subject: subjectOf('host', host!),
      message:
        lun === null
          ? `${host!.name} has no LUN left.`
          : `LUN ${lun} is beyond ${families[host!.os].maxLun}, the highest a ${families[host!.os].label} host addresses.`,
      mend: 'Choose a lower number.',
    });
    return null;
  }
  for (const host of hosts) {
    const holder = takenLuns(view, host.id, volume.array, ports, target?.id).get(lun);
    if (!holder) continue;
    const free = nextFreeLun(view, hosts, volume.array, ports, 0, target?.id);
    asks.refuse({
      code: 'lun-taken',
      field: 'lun',
      subject: subjectOf('host', host),
      message: `LUN ${lun} shows ${view.table('volume').get(holder)!.name} to ${host.name} already.`,
      mend:
        free === null
          ? 'Free a LUN first.'
          : `Use ${free}, the next free one${hosts.length > 1 ? ' on every member' : ''}.`,
    });
    return null;
  }
  return lun;
}

/** The target named; null where it is the array's own, which shows what names none. */
export function askTarget(
  view: EstateView,
  asks: Inquiry,
  array: ArrayRow,
  p: { target?: string | undefined; subsystem?: string | undefined },
): Target | null {
  if (p.subsystem) {
    asks.refuse({
      code: 'target-and-subsystem',
      field: 'target',
      subject: subjectOf('array', array),
      message: 'A volume is shown by an iSCSI target or by an NVMe subsystem, not by both in one mapping.',
      mend: 'Leave one of them out.',
    });
    return null;
  }
  const target = asks.find('target', p.target!, 'target', array);
  return target && !target.main ? target : null;
}
