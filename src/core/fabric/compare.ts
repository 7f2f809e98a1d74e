import type { ActiveZone, Fabric, Zone, ZoneSet } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { resolved } from './member';
import { byCodePoint } from '../units/order';

export interface ZoneDifference {
  name: string;
  what: 'added' | 'removed' | 'changed';
  /** Members that come and go, as they are kept. */
  comes: string[];
  goes: string[];
}

const members = (zone: { members: readonly string[]; principals: readonly string[] }): string[] => [
  ...zone.principals.map((one) => `principal ${one}`),
  ...zone.members,
];

/** A zone as the switches would enforce it: aliases replaced by what they stand for. */
export function asActive(view: EstateView, zone: Zone): Omit<ActiveZone, 'id'> {
  return {
    fabric: zone.fabric,
    name: zone.name,
    kind: zone.kind,
    members: resolved(view, zone.fabric, zone.members).members,
    principals: resolved(view, zone.fabric, zone.principals).members,
  };
}

/** The zone set that activation takes: the one of the active set's name, else the only one there is. */
export function chosenSet(view: EstateView, fabric: Fabric): ZoneSet | undefined {
  const sets = view.table('zoneSet').by('fabric', fabric.id);
  return sets.find((set) => set.name === fabric.activeSet) ?? (sets.length === 1 ? sets[0] : undefined);
}

/** What activating a defined zone set would change in the active one, by name. */
export function compareZones(view: EstateView, set: ZoneSet): ZoneDifference[] {
  const active = new Map(
    view
      .table('activeZone')
      .by('fabric', set.fabric)
      .map((zone) => [zone.name, zone]),
  );
  const found: ZoneDifference[] = [];
  const wanted = new Set<string>();
  for (const id of set.zones) {
    const zone = view.table('zone').get(id);
    if (!zone) continue;
    wanted.add(zone.name);
    const next = members(asActive(view, zone));
    const was = active.get(zone.name);
    const now = was ? members(was) : [];
    const comes = next.filter((member) => !now.includes(member));
    const goes = now.filter((member) => !next.includes(member));
    if (!was) found.push({ name: zone.name, what: 'added', comes, goes });
    else if (comes.length > 0 || goes.length > 0 || was.kind !== zone.kind)
      found.push({ name: zone.name, what: 'changed', comes, goes });
  }
  for (const zone of active.values())
    if (!wanted.has(zone.name)) found.push({ name: zone.name, what: 'removed', comes: [], goes: members(zone) });
  return found.sort((a, b) => byCodePoint(a.name, b.name));
}
