import { z } from 'zod';
import { folded, pick, the } from '../operation/form';
import { created } from '../estate/effects';
import { Overlay } from '../estate/estate';
import { rowOf, type ArrayRow, type Host, type Volume, type Subsystem, type Target } from '../estate/entities';
import { portalsOf } from '../iscsi/target';
import { inquire } from '../operation/inquiry';
import { planned, refused, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';
import { MOST_PATHS } from './families';
import { look } from './host-rescan';
import { askNumber, askSubsystem, askTarget, checkHost, askLegLun, lunOfOtherLeg } from './mapping-asks';
import { foretellMapping } from './mapping-foretell';
import { mappingOf, pathFinder, type Paths } from './paths';
import { askReceivers } from './receivers';

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

/** What ports must serve for a mapping that goes by a subsystem or a target of its own. */
function roleOf(subsystem: Subsystem | null, target: Target | null): 'nvme-tcp' | 'iscsi' | null {
  if (subsystem) return 'nvme-tcp';
  return target ? 'iscsi' : null;
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
    const role = roleOf(subsystem, target);
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
    const other = subsystem ? null : lunOfOtherLeg(view, hosts, volume);
    const usual = seen?.lun ?? other ?? 'next';
    const lun = askNumber(view, asks, missing, volume, subsystem, target, portIds, p.lun === 'next' ? usual : p.lun);
    if (lun !== null && !subsystem) askLegLun(view, asks, hosts, volume, lun);
    if (lun === null || asks.refusals.length > 0) return refused(asks.refusals);

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

  foretell: foretellMapping,
};
