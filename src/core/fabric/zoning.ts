import type { ActiveZone } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import type { FcDevice } from './devices';

/** Ways in which zones may name a device. */
export function memberForms(device: FcDevice): string[] {
  const forms = [`wwpn:${device.wwpn}`];
  if (device.wwnn) forms.push(`wwnn:${device.wwnn}`);
  if (device.switch) forms.push(`port:${device.switch.domain},${device.switchPort}`);
  return forms;
}

/** Active zones that name the device. */
export function activeZonesOf(view: EstateView, fabric: string, device: FcDevice): ActiveZone[] {
  const found = new Map<string, ActiveZone>();
  for (const form of memberForms(device))
    for (const zone of view.table('activeZone').by('member', `${fabric} ${form}`)) found.set(zone.id, zone);
  return [...found.values()];
}

interface Zoned {
  kind: ActiveZone['kind'];
  members: readonly string[];
  principals: readonly string[];
}

const names = (members: readonly string[], forms: readonly string[]): boolean =>
  forms.some((form) => members.includes(form));

/** Whether one zone lets two devices talk: any two members of an ordinary one, a principal and a peer of a peer zone (FC-GS). */
export function zonePermits(zone: Zoned, x: readonly string[], y: readonly string[]): boolean {
  if (zone.kind === 'ordinary') return names(zone.members, x) && names(zone.members, y);
  return (names(zone.principals, x) && names(zone.members, y)) || (names(zone.members, x) && names(zone.principals, y));
}

/** Whom the zones let a device of these forms meet. */
function partnersIn(zones: readonly ActiveZone[], forms: readonly string[]): ReadonlySet<string> {
  const found = new Set<string>();
  for (const zone of zones) {
    if (zone.kind === 'ordinary' || names(zone.principals, forms)) for (const one of zone.members) found.add(one);
    if (zone.kind === 'peer' && names(zone.members, forms)) for (const one of zone.principals) found.add(one);
  }
  return found;
}

/** Who may talk in one fabric, by what its switches enforce. Zones of a device are looked up once. */
export interface ZoneBook {
  mayTalk(x: FcDevice, y: FcDevice): boolean;
  /** Active zones that join the two. */
  joining(x: FcDevice, y: FcDevice): ActiveZone[];
  zoned(device: FcDevice): boolean;
  /** Forms (see {@link memberForms}) of all that a device may talk to; null where the default zone decides. */
  partners(device: FcDevice): ReadonlySet<string> | null;
}

export function zoneBook(view: EstateView, fabric: string): ZoneBook {
  const permits = view.table('fabric').get(fabric)?.defaultZone === 'permit';
  const known = new Map<string, ActiveZone[]>();
  const zonesOf = (device: FcDevice): ActiveZone[] => {
    let zones = known.get(device.id);
    if (!zones) known.set(device.id, (zones = activeZonesOf(view, fabric, device)));
    return zones;
  };
  const joining = (x: FcDevice, y: FcDevice): ActiveZone[] => {
    const [few, other] = zonesOf(x).length <= zonesOf(y).length ? [x, y] : [y, x];
    const [forms, others] = [memberForms(few), memberForms(other)];
    return zonesOf(few).filter((zone) => zonePermits(zone, forms, others));
  };
  const partners = new Map<string, ReadonlySet<string> | null>();
  return {
    joining,
    zoned: (device) => zonesOf(device).length > 0,
    partners(device) {
      let found = partners.get(device.id);
      if (found === undefined) {
        const zones = zonesOf(device);
        found = permits && zones.length === 0 ? null : partnersIn(zones, memberForms(device));
        partners.set(device.id, found);
      }
      return found;
    },
    mayTalk(x, y) {
      if (x.id === y.id) return false;
      if (joining(x, y).length > 0) return true;
      // Whoever is in no active zone is in the default zone, with all others that are in none.
      return permits && zonesOf(x).length === 0 && zonesOf(y).length === 0;
    },
  };
}
