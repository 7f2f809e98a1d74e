import { deviceAt } from '../copies/legs';
import { created, deleted, type Effect } from '../estate/effects';
import { rowOf, type Cluster, type Host } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { clusterOf, volumeOf } from '../estate/relations';
import { parseName } from '../naming/names';
import { lookUp, type Inquiry } from '../operation/inquiry';
import type { PlanContext } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { someOf } from '../units/counted';
import { takenLuns } from './luns';
import { mappingOf } from './paths';

/** What comes of a part of a change. */
export interface Part {
  effects: Effect[];
  notes: string[];
}

/** What a host loses with its old cluster, and gains with the new one. */
export function moveCluster(
  view: EstateView,
  asks: Inquiry,
  host: Host,
  cluster: { id: string; name: string } | null,
  context: PlanContext,
): Part {
  const effects: Effect[] = [];
  const lost: string[] = [];
  const gained: string[] = [];
  for (const mapping of view.table('mapping').by('host', host.id)) {
    if (mapping.cluster === null || mapping.cluster === cluster?.id) continue;
    const volume = volumeOf(view, mapping);
    const device = deviceAt(view, host.id, volume.id);
    if (device?.mountPoint)
      asks.refuse({
        code: 'in-use',
        field: 'cluster',
        subject: subjectOf('volume', volume),
        message: `${host.name} has ${volume.name}, which it sees through its cluster, mounted at ${device.mountPoint}.`,
        mend: `Unmount ${device.name} first.`,
      });
    lost.push(volume.name);
    effects.push(deleted('mapping', mapping));
  }
  const going = new Set(effects.map((effect) => effect.id));
  const shared = cluster ? view.table('mapping').by('cluster', cluster.id) : [];
  for (const mapping of new Map(shared.map((row) => [row.volume, row])).values()) {
    const volume = volumeOf(view, mapping);
    if (mappingOf(view, host.id, volume.id) && !going.has(mappingOf(view, host.id, volume.id)!.id)) continue;
    const holder = mapping.subsystem
      ? undefined
      : takenLuns(view, host.id, volume.array, mapping.ports, mapping.target).get(mapping.lun);
    const held =
      holder &&
      view
        .table('mapping')
        .by('host', host.id)
        .find((row) => row.volume === holder);
    if (held && !going.has(held.id))
      asks.refuse({
        code: 'lun-taken',
        field: 'cluster',
        subject: subjectOf('host', host),
        message: `${cluster!.name} shows ${volume.name} as LUN ${mapping.lun}, which is ${view.table('volume').get(holder)!.name} at ${host.name}.`,
        mend: `Renumber ${view.table('volume').get(holder)!.name} at ${host.name} first.`,
      });
    gained.push(volume.name);
    effects.push(created('mapping', rowOf('mapping', { ...mapping, id: context.newId('mapping'), host: host.id })));
  }
  return {
    effects,
    notes: [
      ...(lost.length > 0 ? [`It loses ${someOf(lost, 4)}.`] : []),
      ...(gained.length > 0 ? [`It gains ${someOf(gained, 4)}.`] : []),
    ],
  };
}

/**
 * The cluster a host is to be in, with what that brings: a new one is made, one that is left empty goes. `cluster` is undefined where none is
 * named, null for none.
 */
export function askCluster(
  view: EstateView,
  asks: Inquiry,
  host: Host,
  wanted: string | undefined,
  context: PlanContext,
): Part & { cluster: Cluster | null | undefined } {
  const effects: Effect[] = [];
  const notes: string[] = [];
  if (wanted === undefined || wanted === '') return { cluster: undefined, effects, notes };
  let cluster = wanted === 'none' ? null : (lookUp(view, 'cluster', wanted) ?? null);
  if (wanted !== 'none' && !cluster) {
    const name = asks.value(parseName(wanted, 'host cluster'), 'cluster', { kind: 'cluster', name: wanted });
    cluster = { id: context.newId('cluster'), name: name ?? '' };
    effects.push(created('cluster', cluster));
    notes.push(`${cluster.name} is a new host cluster.`);
  }
  if ((cluster?.id ?? null) === host.cluster) return { cluster, effects, notes };
  const moved = moveCluster(view, asks, host, cluster, context);
  effects.push(...moved.effects);
  notes.push(...moved.notes);
  const old = clusterOf(view, host);
  if (old && view.table('host').countBy('cluster', old.id) === 1) effects.push(deleted('cluster', old));
  return { cluster, effects, notes };
}
