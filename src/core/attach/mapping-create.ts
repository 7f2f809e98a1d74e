import { z } from 'zod';
import { created } from '../estate/effects';
import { Overlay } from '../estate/estate';
import type { Host, Mapping, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayChoices, byName, draftArray, draftHost, draftList, hostChoices } from '../operation/draft';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { formatBytes } from '../units/bytes';
import { SECOND } from '../units/duration';
import { families, MOST_PATHS } from './families';
import { nextFreeLun, takenLuns } from './luns';
import { mappingOf, pathFinder, pathWords } from './paths';

const schema = z.object({
  host: z.string(),
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
});
type Params = z.output<typeof schema>;

/** Hosts that write to the volume already and do not share a cluster with this one. */
function strangers(view: EstateView, host: Host, volume: Volume): string[] {
  return view
    .table('mapping')
    .by('volume', volume.id)
    .filter((mapping) => mapping.access === 'read-write')
    .map((mapping) => view.table('host').get(mapping.host)!)
    .filter((other) => other.id !== host.id && (other.cluster === null || other.cluster !== host.cluster))
    .map((other) => other.name);
}

export const mappingCreate: OperationType<Params> = {
  kind: 'mapping.create',
  verb: 'Map volumes',
  summary: 'Shows volumes to a host under a LUN, through some or all ports it can reach.',
  schema,
  title: (p) =>
    `Map ${p.volumes.length === 1 ? p.volumes[0] : `${p.volumes.length} volumes`} of ${p.array} to ${p.host}`,
  units: (p) => p.volumes.map((volume, k) => ({ ...p, volumes: [volume], lun: p.lun === 'next' ? p.lun : p.lun + k })),

  plan(view, p, context) {
    const asks = inquire(view);
    const host = asks.find('host', p.host, 'host');
    const array = asks.find('array', p.array, 'array');
    const volume = array && asks.find('volume', p.volumes[0]!, 'volumes', array);
    const ports =
      p.ports === 'all' || !array ? null : p.ports.flatMap((ref) => asks.find('port', ref, 'ports', array) ?? []);
    for (const port of ports ?? [])
      if (port.role !== 'iscsi')
        asks.refuse({
          code: 'port-role-off',
          field: 'ports',
          subject: subjectOf('port', port),
          message: `${port.name} does not serve iSCSI.`,
          mend: 'Set it up as a portal first, or choose another port.',
        });
    if (host && view.table('initiator').countBy('host', host.id) === 0)
      asks.refuse({
        code: 'no-initiator',
        field: 'host',
        subject: subjectOf('host', host),
        message: `${host.name} has no initiator on record, so no array lets it in.`,
        mend: 'Register the host with its iSCSI name.',
      });
    if (volume && volume.deletedAt !== null)
      asks.refuse({
        code: 'volume-retired',
        field: 'volumes',
        subject: subjectOf('volume', volume),
        message: `${volume.name} was retired and is only kept.`,
        mend: 'Restore it first.',
      });
    if (host && volume) {
      const already = mappingOf(view, host.id, volume.id);
      if (already)
        asks.refuse({
          code: 'volume-mapped-twice',
          field: 'volumes',
          subject: subjectOf('volume', volume),
          message: `${host.name} sees ${volume.name} already, as LUN ${already.lun}.`,
          mend: 'Leave it out.',
        });
      const others = p.access === 'read-write' ? strangers(view, host, volume) : [];
      if (others.length > 0)
        asks.refuse({
          code: 'shared-unclustered',
          field: 'access',
          subject: subjectOf('volume', volume),
          message: `${others.join(', ')} and ${host.name} would both write to ${volume.name} without being one cluster, and corrupt it.`,
          mend: 'Map it read-only, or take the other mapping away.',
        });
    }
    if (asks.refusals.length > 0 || !host || !array || !volume) return refused(asks.refusals);
    const portIds = ports?.map((port) => port.id) ?? null;
    const lun = p.lun === 'next' ? nextFreeLun(view, host, array.id, portIds) : p.lun;
    const { maxLun, label } = families[host.os];
    const holder = lun === null ? undefined : takenLuns(view, host.id, array.id, portIds).get(lun);
    if (lun === null || lun > maxLun)
      asks.refuse({
        code: lun === null ? 'no-free-lun' : 'lun-out-of-range',
        field: 'lun',
        subject: subjectOf('host', host),
        message:
          lun === null
            ? `${host.name} has no LUN left.`
            : `LUN ${lun} is beyond ${maxLun}, the highest a ${label} host addresses.`,
        mend: 'Choose a lower number.',
      });
    else if (holder) {
      const free = nextFreeLun(view, host, array.id, portIds);
      asks.refuse({
        code: 'lun-taken',
        field: 'lun',
        subject: subjectOf('host', host),
        message: `LUN ${lun} shows ${view.table('volume').get(holder)!.name} to ${host.name} already.`,
        mend: free === null ? 'Free a LUN first.' : `Use ${free}, the next free one.`,
      });
    }
    if (asks.refusals.length > 0 || lun === null) return refused(asks.refusals);

    const mapping: Mapping = {
      id: context.newId('mapping'),
      host: host.id,
      volume: volume.id,
      lun,
      access: p.access,
      ports: portIds,
    };
    const paths = pathFinder(view).paths(mapping);
    const notes: string[] = [];
    if (paths.usable === 0)
      notes.push(
        `No path leads there yet${paths.missing[0] ? `: ${paths.missing[0].message}` : `: ${host.name} shares no subnet with a portal of ${array.name}`}.`,
      );
    else if (paths.usable === 1) notes.push(`${volume.name} hangs on one path.`);
    if (paths.usable > MOST_PATHS) notes.push(`${paths.usable} paths are more than help; choose fewer ports.`);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Map ${volume.name} to ${host.name} as LUN ${lun}${p.access === 'read-only' ? ', read-only' : ''}: ${paths.usable} of ${paths.expected} paths`,
      takes: 2 * SECOND,
      effects: [created('mapping', mapping)],
      notes,
    });
  },

  foretell(view, draft, context) {
    const array = draftArray(view, draft);
    const host = draftHost(view, draft);
    const fields: Foretold['fields'] = {
      host: { choices: hostChoices(view) },
      array: { choices: arrayChoices(view) },
      volumes: {},
      ports: {},
      lun: { suggested: 'next' },
      access: { suggested: 'read-write' },
    };
    fields.access!.choices = [
      { value: 'read-write', label: 'Read and write' },
      { value: 'read-only', label: 'Read only' },
    ];
    fields.host!.says = 'Who shall see it.';
    if (host)
      fields.host!.says = `${view.table('initiator').countBy('host', host.id)} initiators on record, ${view.table('interface').countBy('host', host.id)} interfaces, ${view.table('mapping').countBy('host', host.id)} volumes mapped.`;
    if (!array) return { fields };
    const volumes = [...view.table('volume').by('array', array.id)].sort(byName);
    fields.array!.says = `${volumes.length} volumes.`;
    fields.volumes!.says = 'What the host shall see.';
    fields.lun!.says = 'A number, or next for the next free one.';
    fields.volumes!.choices = volumes.map((row) => {
      const seen = host && mappingOf(view, host.id, row.id);
      return {
        value: row.name,
        label: `${row.name}, ${formatBytes(row.size)}`,
        ...(seen ? { unfit: `is LUN ${seen.lun} there already` } : {}),
      };
    });
    const ports = [...view.table('port').by('array', array.id)].filter((port) => port.role === 'iscsi').sort(byName);
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
    const next = nextFreeLun(view, host, array.id, portIds);
    fields.lun!.says = next === null ? 'No LUN is free.' : `Next free on every initiator of ${host.name}: ${next}.`;
    const volume = chosen[0] ?? volumes[0];
    if (volume) {
      const overlay = new Overlay(view);
      const mapping: Mapping = {
        id: context.newId('mapping'),
        host: host.id,
        volume: volume.id,
        lun: next ?? 0,
        access: 'read-write',
        ports: portIds,
      };
      overlay.apply([created('mapping', mapping)]);
      const paths = pathFinder(overlay).paths(mapping);
      const why = paths.missing[0]?.message;
      fields.ports!.says =
        paths.expected === 0
          ? `${host.name} shares no subnet with a portal of ${array.name}.`
          : `${paths.usable} of ${paths.expected} paths to each volume: ${pathWords(paths)}.${why ? ` Missing: ${why}.` : ''}`;
      const others = chosen.flatMap((row) => strangers(view, host, row));
      fields.access!.says =
        others.length > 0
          ? `${[...new Set(others)].join(', ')} write there as well.`
          : `Only ${host.name}${host.cluster ? ' and its cluster' : ''} would write.`;
    }
    return { fields };
  },
};
