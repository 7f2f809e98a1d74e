import { changed, created, deleted, type Effect } from '../estate/effects';
import { rowOf, type ActiveZone, type Fabric, type Mapping, type Zone } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { mappingsOfHosts } from '../attach/losses';
import { asActive } from '../fabric/compare';
import { fcDevices } from '../fabric/devices';
import type { PlanContext } from '../operation/operation';

const same = (a: Omit<ActiveZone, 'id'>, b: Omit<ActiveZone, 'id'>): boolean =>
  a.kind === b.kind && a.members.join() === b.members.join() && a.principals.join() === b.principals.join();

/** Effects that make the given zones the active ones; only zones that differ are touched. */
export function activation(
  view: EstateView,
  fabric: Fabric,
  zones: readonly Zone[],
  setName: string,
  context: PlanContext,
): Effect[] {
  const active = new Map(
    view
      .table('activeZone')
      .by('fabric', fabric.id)
      .map((zone) => [zone.name, zone]),
  );
  const effects: Effect[] = [];
  const wanted = new Set<string>();
  for (const zone of zones) {
    const next = asActive(view, zone);
    wanted.add(zone.name);
    const now = active.get(zone.name);
    if (!now) effects.push(created('activeZone', rowOf('activeZone', { id: context.newId('activeZone'), ...next })));
    else if (!same(now, next)) effects.push(changed('activeZone', now, next));
  }
  for (const zone of active.values()) if (!wanted.has(zone.name)) effects.push(deleted('activeZone', zone));
  effects.push(changed('fabric', fabric, { activeSet: setName, activatedAt: context.now }));
  return effects;
}

/** Mappings whose paths a change of the fabric's zones can move: those of hosts plugged into it. */
export function mappingsOver(view: EstateView, fabric: string): Mapping[] {
  const hosts = fcDevices(view).flatMap((device) =>
    device.fabric === fabric && device.role === 'initiator' && device.owner ? [device.owner] : [],
  );
  return mappingsOfHosts(view, hosts);
}
