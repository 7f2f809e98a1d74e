import { z } from 'zod';
import { folded, pick, the } from '../operation/form';
import { created } from '../estate/effects';
import { Overlay } from '../estate/estate';
import { hostOf } from '../estate/relations';
import {
  rowOf,
  type ArrayRow,
  type Host,
  type Mapping,
  type Port,
  type Subsystem,
  type Target,
  type Volume,
} from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { portalsOf, targetsOf } from '../iscsi/target';
import { subsystemsOf } from '../nvme/connect';
import { arrayChoices, byName, draftArray, draftList, draftText, hostChoices } from '../operation/draft';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { formatBytes } from '../units/bytes';
import { counted } from '../units/counted';
import { SECOND } from '../units/duration';
import { families, MOST_PATHS } from './families';
import { look } from './host-rescan';
import { initiatorForm } from './initiators';
import { maxLun, namespaceIdFor, nextFreeLun, takenLuns, takenNamespaces } from './luns';
import { mappingOf, pathFinder, pathWords, type Paths } from './paths';
import { askReceivers, clusterChoices, draftReceivers } from './receivers';

const schema = z.object({
  host: z.string().optional(),
  cluster: z.string().optional().describe('Instead of a host: all its members, with one LUN'),
  array: z.string(),
  volumes: z.array(z.string()).min(1, 'choose at least one volume'),
  ports: z
    .union([z.literal('all'), z.array(z.string()).min(1, 'choose at least one port')])
    .default('all')
    .describe("Port names, or 'all' that the host can reach"),
  lun: z
    .union([z.literal('next'), z.coerce.number().int().min(0, 'a LUN is 0 or more')])
    .default('next')
    .describe("A number, counted up from volume to volume, or 'next' for the next free one"),
  access: z.enum(['read-write', 'read-only']).default('read-write'),
  target: z.string().optional().describe('Show them by this iSCSI target alone'),
  subsystem: z.string().optional().describe('Show them as namespaces of this NVMe subsystem'),
});
type Params = z.output<typeof schema>;

/** Hosts that write to the volume already and do not share a cluster with this one. */
function strangers(view: EstateView, host: Host, volume: Volume): string[] {
  return view
    .table('mapping')
    .by('volume', volume.id)
    .filter((mapping) => mapping.access === 'read-write')
    .map((mapping) => hostOf(view, mapping))
    .filter((other) => other.id !== host.id && (other.cluster === null || other.cluster !== host.cluster))
    .map((other) => other.name);
}

/** Whether the host has no other way to a volume than NVMe. */
const onlyNvme = (view: EstateView, host: Host): boolean => {
  const names = view.table('initiator').by('host', host.id);
  return names.length > 0 && names.every((row) => initiatorForm(row.name) === 'nqn');
};

/** The subsystem named, or the array's own where the hosts have no other way. */
function askSubsystem(
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
function checkHost(view: EstateView, asks: Inquiry, host: Host, volume: Volume, access: Params['access']): void {
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
function askNumber(
  view: EstateView,
  asks: Inquiry,
  hosts: readonly Host[],
  volume: Volume,
  subsystem: Subsystem | null,
  target: Target | null,
  ports: string[] | null,
  wanted: Params['lun'],
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

/** What a person should know of the paths a new mapping gets. */
function pathNotes(volume: Volume, array: ArrayRow, host: Host, paths: Paths): string[] {
  if (paths.usable === 0)
    return [
      `No path leads there yet${paths.missing[0] ? `: ${paths.missing[0].message}` : `: ${host.name} shares neither a subnet nor a fabric with ${array.name}`}.`,
    ];
  const notes = paths.usable === 1 ? [`${volume.name} hangs on one path.`] : [];
  if (paths.usable > MOST_PATHS) notes.push(`${paths.usable} paths are more than help; choose fewer ports.`);
  return notes;
}

export const mappingCreate: OperationType<Params> = {
  kind: 'mapping.create',
  verb: 'Map volumes',
  summary:
    'Shows volumes to a host or a cluster under a LUN (or a namespace ID), through some or all ports it can reach.',
  schema,
  form: {
    columns: [4, 5, 6, 7],
    fields: {
      host: the.host,
      cluster: the.cluster,
      array: the.array,
      volumes: the.volumes,
      ports: the.ports,
      lun: 'LUN',
      access: 'Access',
      target: folded(pick('iSCSI target')),
      subsystem: folded(pick('NVMe subsystem')),
    },
  },
  title: (p) =>
    `Map ${p.volumes.length === 1 ? p.volumes[0] : `${p.volumes.length} volumes`} of ${p.array} to ${p.cluster ?? p.host ?? 'nobody'}`,
  units: (p) => p.volumes.map((volume, k) => ({ ...p, volumes: [volume], lun: p.lun === 'next' ? p.lun : p.lun + k })),

  plan(view, p, context) {
    const asks = inquire(view);
    const to = askReceivers(view, asks, p);
    const { hosts, cluster } = to ?? { hosts: [], cluster: null };
    const array = asks.find('array', p.array, 'array');
    const volume = array && asks.find('volume', p.volumes[0]!, 'volumes', array);
    const subsystem = askSubsystem(view, asks, array, hosts, p.subsystem);
    const target = array && p.target ? askTarget(view, asks, array, p) : null;
    const role = subsystem ? 'nvme-tcp' : target ? 'iscsi' : null;
    const ports =
      p.ports === 'all' || !array ? null : p.ports.flatMap((ref) => asks.find('port', ref, 'ports', array) ?? []);
    for (const port of ports ?? [])
      if (role ? port.role !== role : port.role !== 'iscsi' && port.role !== 'fc')
        asks.refuse({
          code: 'port-role-off',
          field: 'ports',
          subject: subjectOf('port', port),
          message: `${port.name} does not serve ${role === 'nvme-tcp' ? 'NVMe/TCP' : 'iSCSI'}.`,
          mend: 'Set it up as a portal first, or choose another port.',
        });
    for (const port of target && ports ? ports : [])
      if (!portalsOf(view, target!).some((portal) => portal.port.id === port.id))
        asks.refuse({
          code: 'port-not-of-target',
          field: 'ports',
          subject: subjectOf('port', port),
          message: `${target!.name} does not answer at ${port.name}.`,
          mend: 'Choose a port where it does.',
        });
    if (volume && volume.deletedAt !== null)
      asks.refuse({
        code: 'volume-retired',
        field: 'volumes',
        subject: subjectOf('volume', volume),
        message: `${volume.name} was retired and is only kept.`,
        mend: 'Restore it first.',
      });
    // A member that sees the volume already is passed over: the others join it at its LUN.
    const missing = volume && cluster ? hosts.filter((host) => !mappingOf(view, host.id, volume.id)) : hosts;
    if (volume) for (const host of missing.length > 0 ? missing : hosts) checkHost(view, asks, host, volume, p.access);
    if (asks.refusals.length > 0 || hosts.length === 0 || !array || !volume) return refused(asks.refusals);
    const portIds = ports?.map((port) => port.id) ?? null;
    const seen = cluster ? hosts.flatMap((host) => mappingOf(view, host.id, volume.id) ?? [])[0] : undefined;
    const lun = askNumber(
      view,
      asks,
      missing,
      volume,
      subsystem,
      target,
      portIds,
      p.lun === 'next' && seen ? seen.lun : p.lun,
    );
    if (lun === null) return refused(asks.refusals);

    const mappings = missing.map((host) =>
      rowOf('mapping', {
        id: context.newId('mapping'),
        host: host.id,
        volume: volume.id,
        lun,
        access: p.access,
        ports: portIds,
        cluster: cluster?.id ?? null,
        target: target?.id ?? null,
        subsystem: subsystem?.id ?? null,
      }),
    );
    const finder = pathFinder(view);
    const all = mappings.map((mapping) => finder.paths(mapping));
    const sum = (of: (paths: Paths) => number) => all.reduce((total, paths) => total + of(paths), 0);
    const notes = all.flatMap((paths, k) => pathNotes(volume, array, missing[k]!, paths));
    const mapped = mappings.map((mapping) => created('mapping', mapping));
    // Namespaces are announced to their hosts; others look by themselves only where they are set to.
    const overlay = new Overlay(view);
    overlay.apply(mapped);
    const atOnce = missing
      .filter((host) => subsystem || host.autoRescan)
      .map((host) => ({ host, found: look(overlay, host, context, new Set([volume.id])) }));
    notes.push(
      ...atOnce.flatMap(({ host, found }) => found.appears.map((device) => `${host.name} sees ${device} at once.`)),
    );
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Map ${volume.name} to ${cluster ? `${cluster.name} (${missing.map((host) => host.name).join(', ')})` : hosts[0]!.name} as ${subsystem ? `namespace ${lun} of ${subsystem.name}` : `LUN ${lun}${target ? ` of target ${target.name}` : ''}`}${p.access === 'read-only' ? ', read-only' : ''}: ${sum((paths) => paths.usable)} of ${sum((paths) => paths.expected)} paths`,
      takes: 2 * SECOND,
      effects: [...mapped, ...atOnce.flatMap(({ found }) => found.effects)],
      notes: [...new Set(notes)],
    });
  },

  foretell(view, draft, context) {
    const array = draftArray(view, draft);
    const { hosts, cluster } = draftReceivers(view, draft) ?? { hosts: [], cluster: null };
    const fields: Foretold['fields'] = {
      host: { choices: hostChoices(view) },
      cluster: {
        choices: clusterChoices(view),
      },
      array: { choices: arrayChoices(view) },
      volumes: {},
      ports: {},
      lun: { suggested: 'next' },
      access: { suggested: 'read-write' },
      target: {},
      subsystem: {},
    };
    fields.access!.choices = [
      { value: 'read-write', label: 'Read and write' },
      { value: 'read-only', label: 'Read only' },
    ];
    fields.host!.says = 'Who shall see it.';
    fields.cluster!.says = cluster
      ? `${hosts.map((host) => host.name).join(', ')}: the same LUN on each.`
      : 'Instead of one host: all members of a cluster.';
    const [host] = hosts;
    if (host && !cluster)
      fields.host!.says = `${counted(view.table('initiator').countBy('host', host.id), 'initiator')} on record, ${counted(view.table('interface').countBy('host', host.id), 'port')}, ${counted(view.table('mapping').countBy('host', host.id), 'volume')} mapped.`;
    if (!array) return { fields };
    const volumes = [...view.table('volume').by('array', array.id)]
      .filter((row) => row.deletedAt === null)
      .sort(byName);
    fields.array!.says = `${volumes.length} volumes.`;
    fields.volumes!.says = 'What the host shall see.';
    fields.lun!.says = 'A number, or next for the next free one.';
    fields.volumes!.choices = volumes.map((row) => {
      const seen = hosts.map((one) => mappingOf(view, one.id, row.id));
      const first = seen[0];
      return {
        value: row.name,
        label: `${row.name}, ${formatBytes(row.size)}`,
        ...(first && seen.every(Boolean) ? { unfit: `is LUN ${first.lun} there already` } : {}),
      };
    });
    const subsystems = subsystemsOf(view, array.id);
    fields.subsystem!.choices = subsystems.map((row) => ({ value: row.name, label: row.name }));
    const subsystem =
      lookUp(view, 'subsystem', draftText(draft, 'subsystem'), array.id) ??
      (host && onlyNvme(view, host) ? subsystems[0] : undefined);
    if (subsystem && !draftText(draft, 'subsystem')) fields.subsystem!.suggested = subsystem.name;
    fields.subsystem!.says = subsystem
      ? `As namespaces of ${subsystem.name}; they appear without a rescan.`
      : 'Only for NVMe/TCP.';
    const others = targetsOf(view, array.id).filter((row) => !row.main);
    const target = subsystem ? undefined : lookUp(view, 'target', draftText(draft, 'target'), array.id);
    const through = target && !target.main ? target : null;
    fields.target!.choices = targetsOf(view, array.id).map((row) => ({
      value: row.name,
      label: row.main ? `${row.name}, the array’s own` : row.name,
    }));
    fields.target!.says = through
      ? `Only by ${through.iqn}; it has LUNs of its own.`
      : `Empty: by the array’s own target, and Fibre Channel.${others.length === 0 ? ' It has no other target yet.' : ''}`;
    const answering = through ? new Set(portalsOf(view, through).map(({ port }) => port.id)) : null;
    const ports = [...view.table('port').by('array', array.id)]
      .filter((port) => (answering ? answering.has(port.id) : shown(port, subsystem)))
      .sort(byName);
    fields.ports!.choices = ports.map((port) => ({
      value: port.name,
      label: `${port.name} ${port.addresses[0]?.ip ?? ''}`,
    }));
    const chosen = draftList(draft, 'volumes').flatMap((ref) => lookUp(view, 'volume', ref, array.id) ?? []);
    if (chosen.length > 0)
      fields.volumes!.says = `${chosen.length} chosen, ${formatBytes(
        chosen.reduce((sum, row) => sum + row.size, 0),
        'used',
      )} in all.`;
    if (!host) return { fields };
    const portIds = Array.isArray(draft.ports)
      ? draftList(draft, 'ports').flatMap((ref) => lookUp(view, 'port', ref, array.id)?.id ?? [])
      : null;
    const volume = chosen[0] ?? volumes[0];
    const next =
      subsystem && volume
        ? namespaceIdFor(view, subsystem, volume)
        : nextFreeLun(view, hosts, array.id, portIds, 0, through?.id);
    fields.lun!.says =
      next === null
        ? 'No LUN is free.'
        : subsystem
          ? `Namespace ID ${next}.`
          : `Next free on every initiator of ${cluster ? cluster.name : host.name}: ${next}.`;
    if (volume) {
      const overlay = new Overlay(view);
      const mappings = hosts.map((one): Mapping =>
        rowOf('mapping', {
          id: context.newId('mapping'),
          host: one.id,
          volume: volume.id,
          lun: next ?? 0,
          access: 'read-write',
          ports: portIds,
          target: through?.id ?? null,
          subsystem: subsystem?.id ?? null,
        }),
      );
      overlay.apply(mappings.map((mapping) => created('mapping', mapping)));
      const finder = pathFinder(overlay);
      const all = mappings.map((mapping) => finder.paths(mapping));
      const worst = [...all].sort((a, b) => a.usable - a.expected - (b.usable - b.expected))[0]!;
      const why = worst.missing[0]?.message;
      fields.ports!.says =
        worst.expected === 0
          ? `${host.name} shares neither a subnet nor a fabric with ${array.name}.`
          : `${worst.usable} of ${worst.expected} paths to each volume: ${pathWords(worst)}.${why ? ` Missing: ${why}.` : ''}`;
      const writers = chosen.flatMap((row) => hosts.flatMap((one) => strangers(view, one, row)));
      fields.access!.says =
        writers.length > 0
          ? `${[...new Set(writers)].join(', ')} write there as well.`
          : `Only ${cluster ? cluster.name : host.name}${!cluster && host.cluster ? ' and its cluster' : ''} would write.`;
    }
    return { fields };
  },
};

/** The target named; null where it is the array's own, which shows what names none. */
function askTarget(view: EstateView, asks: Inquiry, array: ArrayRow, p: Params): Target | null {
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

const shown = (port: Port, subsystem: Subsystem | undefined): boolean =>
  subsystem ? port.role === 'nvme-tcp' : port.role === 'iscsi' || port.role === 'fc';
