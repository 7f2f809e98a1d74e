import type { Host, Mapping, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, clusterOf, subsystemOf } from '../estate/relations';
import { nextFreeLun, takenLuns } from '../attach/luns';
import { readOnlyWhy } from '../attach/write-access';
import { nextStep as step } from '../operation/operation';
import { fail, pass, type HopFound } from './hop';

export function mappingHop(view: EstateView, host: Host, volume: Volume, mapping: Mapping | undefined): HopFound {
  const array = arrayOf(view, volume).name;
  if (!mapping)
    return fail(
      'none',
      'not-mapped',
      `${volume.name} is mapped neither to ${host.name} nor to a cluster of its.`,
      'Map it.',
      step('Map it', 'mapping.create', { host: host.name, array, volumes: [volume.name] }),
    );
  const holder = mapping.subsystem
    ? undefined
    : takenLuns(view, host.id, volume.array, mapping.ports, mapping.target).get(mapping.lun);
  if (holder && holder !== volume.id)
    return fail(
      `LUN ${mapping.lun}`,
      'lun-taken',
      `LUN ${mapping.lun} shows ${view.table('volume').get(holder)!.name} as well.`,
      'Give it a free LUN.',
      step('Renumber', 'mapping.configure', {
        host: host.name,
        array,
        volume: volume.name,
        lun: String(nextFreeLun(view, host, volume.array, mapping.ports, 0, mapping.target)),
      }),
    );
  const where = mapping.subsystem
    ? `namespace ${mapping.lun} of ${subsystemOf(view, mapping)!.name}`
    : `LUN ${mapping.lun}`;
  const ports = mapping.ports ? mapping.ports.map((id) => view.table('port').get(id)!.name).join(', ') : 'all ports';
  return pass(
    where,
    `${readOnlyWhy(view, mapping) === null ? 'Read and write' : 'Read-only'}, through ${ports}${mapping.cluster ? `, for cluster ${clusterOf(view, mapping)!.name}` : ''}.`,
  );
}
