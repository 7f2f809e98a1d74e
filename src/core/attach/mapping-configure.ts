import { askLegLun } from './mapping-asks';
import { deviceAt } from '../copies/legs';
import { z } from 'zod';
import { folded, pick, the } from '../operation/form';
import { changed } from '../estate/effects';
import { Overlay, type EstateView } from '../estate/estate';
import { subsystemOf, volumeOf } from '../estate/relations';
import { byName, draftArray, draftHost, draftText, hostChoices, arrayChoices } from '../operation/draft';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import type { ArrayRow, Mapping, Target } from '../estate/entities';
import { portalsOf, targetsOf } from '../iscsi/target';
import { movedWords, type FieldWords } from '../operation/moved';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';
import { families } from './families';
import { lossNotes, pathsAround, refuseCut } from './losses';
import { nextFreeLun, takenLuns } from './luns';
import { mappingOf } from './paths';
import { barredWrites } from './write-access';

const schema = z.object({
  host: z.string(),
  array: z.string(),
  volume: z.string(),
  lun: z.coerce.number().int().min(0, 'a LUN is 0 or more').optional(),
  access: z.enum(['read-write', 'read-only']).optional(),
  ports: z.union([z.literal('all'), z.array(z.string()).min(1, 'choose at least one port')]).optional(),
  target: z.string().optional().describe('Show it by this iSCSI target from now on'),
});
type Params = z.output<typeof schema>;

const mappingWords = (view: EstateView): FieldWords<Mapping> => ({
  lun: (lun) => `LUN ${lun}`,
  access: (access) => (access === 'read-only' ? 'may only be read' : 'may be read and written'),
  ports: (ports) =>
    ports === null
      ? 'through all ports'
      : `through ${ports.map((id) => view.table('port').get(id)?.name ?? id).join(', ')}`,
  target: (id) =>
    id === null ? 'shown by the array’s own target' : `shown by target ${view.table('target').get(id)?.name ?? id}`,
});

export const mappingConfigure: OperationType<Params> = {
  kind: 'mapping.configure',
  verb: 'Change a mapping',
  summary:
    'Gives a mapping another LUN, access, ports or iSCSI target. Another LUN or target is refused while the host has the volume mounted.',
  schema,
  form: {
    columns: [4, 5, 6, 7],
    fields: {
      host: the.host,
      array: the.array,
      volume: pick('Volume'),
      lun: { label: 'LUN', control: 'text' },
      access: 'Access',
      ports: the.ports,
      target: folded(pick('By target')),
    },
  },
  title: (p) => `Change how ${p.host} sees ${p.volume}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const host = asks.find('host', p.host, 'host');
    const array = asks.find('array', p.array, 'array');
    const volume = array && asks.find('volume', p.volume, 'volume', array);
    const mapping = host && volume && mappingOf(view, host.id, volume.id);
    if (host && volume && !mapping)
      asks.refuse({
        code: 'not-mapped',
        field: 'volume',
        subject: subjectOf('volume', volume),
        message: `${volume.name} is not mapped to ${host.name}.`,
        mend: 'Map it.',
      });
    const named = p.ports === 'all' ? null : p.ports;
    const ports =
      named === undefined || !array
        ? mapping?.ports
        : (named?.flatMap((ref) => asks.find('port', ref, 'ports', array)?.id ?? []) ?? null);
    const target =
      p.target === undefined || !array || !mapping
        ? mapping?.target
        : askTarget(view, asks, array, mapping, ports, p.target);
    if (asks.refusals.length > 0 || !host || !array || !volume || !mapping) return refused(asks.refusals);
    const moves = target !== mapping.target;
    const device = deviceAt(view, host.id, volume.id);
    const lun = p.lun ?? mapping.lun;
    if (lun !== mapping.lun || moves) {
      const holder = takenLuns(view, host.id, array.id, ports ?? null, target).get(lun);
      if (holder && holder !== volume.id)
        asks.refuse({
          code: 'lun-taken',
          field: 'lun',
          subject: subjectOf('host', host),
          message: `LUN ${lun} shows ${view.table('volume').get(holder)!.name} to ${host.name} already.`,
          mend: `Use ${nextFreeLun(view, host, array.id, ports ?? null, 0, target)}, the next free one.`,
        });
      if (!mapping.subsystem) askLegLun(view, asks, [host], volume, lun);
      if (lun > families[host.os].maxLun)
        asks.refuse({
          code: 'lun-out-of-range',
          field: 'lun',
          subject: subjectOf('host', host),
          message: `LUN ${lun} is beyond ${families[host.os].maxLun}, the highest a ${families[host.os].label} host addresses.`,
          mend: 'Choose a lower number.',
        });
      if (device?.mountPoint)
        asks.refuse({
          code: 'in-use',
          field: moves ? 'target' : 'lun',
          subject: subjectOf('volume', volume),
          message: `${host.name} has ${volume.name} mounted at ${device.mountPoint}; ${moves ? 'by another target' : 'under another LUN'} it would be lost.`,
          mend: `Unmount ${device.name} first.`,
        });
    }
    const after: Mapping = {
      ...mapping,
      lun,
      access: p.access ?? mapping.access,
      ports: ports ?? null,
      target: target ?? null,
    };
    const effects = [changed('mapping', mapping, after)];
    const around = pathsAround(view, effects, [mapping]);
    if (asks.refusals.length === 0) refuseCut(asks, around, subjectOf('volume', volume), 'ports');
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const overlay = new Overlay(view);
    overlay.apply(effects);
    const notes = [...lossNotes(around), ...barredWrites(view, overlay, [host.id])];
    if (device && (lun !== mapping.lun || moves)) notes.push(`${host.name} keeps what it saw until it looks again.`);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `${volume.name} at ${host.name}: ${movedWords(mapping, after, mappingWords(view))}`,
      takes: 2 * SECOND,
      effects,
      notes,
      next:
        device && (lun !== mapping.lun || moves)
          ? [{ label: `Rescan ${host.name}`, do: 'host.rescan', params: { host: host.name } }]
          : [],
    });
  },
  foretell(view, draft) {
    const [host, array] = [draftHost(view, draft), draftArray(view, draft)];
    const fields: Foretold['fields'] = {
      host: { choices: hostChoices(view) },
      array: { choices: arrayChoices(view) },
      volume: {},
      lun: {},
      access: {
        choices: [
          { value: 'read-write', label: 'Read and write' },
          { value: 'read-only', label: 'Read only' },
        ],
      },
      ports: {},
      target: {},
    };
    if (!host || !array) return { fields };
    fields.target!.choices = targetsOf(view, array.id).map((row) => ({
      value: row.name,
      label: row.main ? `${row.name}, the array’s own` : row.name,
    }));
    const mappings = view
      .table('mapping')
      .by('host', host.id)
      .filter((row) => volumeOf(view, row).array === array.id);
    fields.volume!.choices = mappings.map((row) => ({
      value: volumeOf(view, row).name,
      label: `${volumeOf(view, row).name}, LUN ${row.lun}`,
    }));
    fields.ports!.choices = [...view.table('port').by('array', array.id)]
      .filter((port) => port.role === 'fc' || port.role === 'iscsi')
      .sort(byName)
      .map((port) => ({ value: port.name, label: `${port.name} ${port.addresses[0]?.ip ?? ''}` }));
    const volume = lookUp(view, 'volume', draftText(draft, 'volume'), array.id);
    const mapping = volume && mappingOf(view, host.id, volume.id);
    if (!mapping) return { fields };
    fields.lun!.suggested = String(mapping.lun);
    fields.lun!.says = `Next free: ${nextFreeLun(view, host, array.id, mapping.ports, 0, mapping.target)}.`;
    fields.access!.suggested = mapping.access;
    if (mapping.subsystem !== null) fields.target = { says: 'A namespace is shown by its subsystem.' };
    else
      fields.target!.suggested =
        targetsOf(view, array.id).find((row) => (mapping.target === null ? row.main : row.id === mapping.target))
          ?.name ?? '';
    return { fields };
  },
};

/** The target that is to show a mapping: its id, or null for the array's own. */
function askTarget(
  view: EstateView,
  asks: Inquiry,
  array: ArrayRow,
  mapping: Mapping,
  ports: string[] | null | undefined,
  name: string,
): string | null | undefined {
  if (mapping.subsystem !== null) {
    asks.refuse({
      code: 'target-and-subsystem',
      field: 'target',
      subject: subjectOf('subsystem', subsystemOf(view, mapping)!),
      message: 'A namespace is shown by its NVMe subsystem, not by an iSCSI target.',
      mend: 'Take the mapping away and make it anew by the target.',
    });
    return undefined;
  }
  const target = asks.find('target', name, 'target', array);
  const silent = target && !target.main ? (ports ?? []).filter((id) => !answersAt(view, target, id)) : [];
  if (silent.length > 0)
    asks.refuse({
      code: 'port-not-of-target',
      field: 'ports',
      subject: subjectOf('target', target!),
      message: `${target!.name} does not answer at ${silent.map((id) => view.table('port').get(id)?.name).join(', ')}.`,
      mend: 'Let the mapping go through ports of the target, or through all.',
    });
  return target && (target.main ? null : target.id);
}

const answersAt = (view: EstateView, target: Target, port: string): boolean =>
  portalsOf(view, target).some((portal) => portal.port.id === port);
