import { created } from '../estate/effects';
import { Overlay } from '../estate/estate';
import { rowOf, type Mapping, type Port, type Subsystem } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { portalsOf, targetsOf } from '../iscsi/target';
import { subsystemsOf } from '../nvme/connect';
import { arrayChoices, byName, draftArray, draftList, draftText, hostChoices } from '../operation/draft';
import { lookUp } from '../operation/inquiry';
import type { Draft, Foretold, PlanContext } from '../operation/operation';
import { formatBytes } from '../units/bytes';
import { counted } from '../units/counted';
import { namespaceIdFor, nextFreeLun } from './luns';
import { mappingOf, pathFinder, pathWords } from './paths';
import { clusterChoices, draftReceivers } from './receivers';

import { onlyNvme, strangers } from './mapping-asks';

/** What is said beside the fields of a mapping that is made. */
export function foretellMapping(view: EstateView, draft: Draft, context: PlanContext): Foretold {
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
  const volumes = [...view.table('volume').by('array', array.id)].filter((row) => row.deletedAt === null).sort(byName);
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
  const whose = cluster ? cluster.name : host.name;
  const number = subsystem ? `Namespace ID ${next}.` : `Next free on every initiator of ${whose}: ${next}.`;
  fields.lun!.says = next === null ? 'No LUN is free.' : number;
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
}

const shown = (port: Port, subsystem: Subsystem | undefined): boolean =>
  subsystem ? port.role === 'nvme-tcp' : port.role === 'iscsi' || port.role === 'fc';
