import type { Fabric } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import type { MergeSide } from './merge';

/** A fabric as another one sees it when a link between the two comes up. */
export function mergeSide(view: EstateView, fabric: Fabric): MergeSide {
  const zones = view.table('activeZone').by('fabric', fabric.id);
  return {
    zones:
      fabric.activeSet === null
        ? null
        : new Map(zones.map(({ name, kind, members, principals }) => [name, { kind, members, principals }])),
    setName: fabric.activeSet,
    aliases: new Map(
      view
        .table('alias')
        .by('fabric', fabric.id)
        .map((alias) => [alias.name, alias.members]),
    ),
    defaultZone: fabric.defaultZone,
    mergeControl: fabric.mergeControl,
    domains: view
      .table('switch')
      .by('fabric', fabric.id)
      .map((row) => row.domain),
    raTov: fabric.raTov,
    edTov: fabric.edTov,
  };
}
