import type { Fabric } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { nameKey } from '../estate/table';
import { devicesOf, fcDevices, type FcDevice } from '../fabric/devices';
import { zoneNameFrom } from '../fabric/member';
import type { PlanZone, ZoningFacts } from '../fabric/zone-plan';
import { activeZonesOf, memberForms } from '../fabric/zoning';

/** Everything a plan asks of the fabric, from the estate. */
export function factsOf(view: EstateView, fabric: Fabric): ZoningFacts {
  const byWwpn = new Map(
    fcDevices(view)
      .filter((device) => device.fabric === fabric.id)
      .map((device) => [device.wwpn, device]),
  );
  const all = [...byWwpn.values()];
  const taken = new Set<string>();
  const inZone = new Map<string, FcDevice[]>();
  const members = (zone: PlanZone): FcDevice[] => {
    const key = `${zone.principals.join()}|${zone.members.join()}`;
    let found = inZone.get(key);
    if (!found) {
      const seen = new Map<string, FcDevice>();
      for (const member of [...zone.principals, ...zone.members])
        for (const device of devicesOf(view, fabric.id, member, () => all)) seen.set(device.id, device);
      inZone.set(key, (found = [...seen.values()]));
    }
    return found;
  };
  return {
    zonesOf: (wwpn) => (byWwpn.has(wwpn) ? activeZonesOf(view, fabric.id, byWwpn.get(wwpn)!) : []),
    formsOf: (wwpn) => (byWwpn.has(wwpn) ? memberForms(byWwpn.get(wwpn)!) : [`wwpn:${wwpn}`]),
    initiatorsIn: (zone) => members(zone).flatMap((device) => (device.role === 'initiator' ? [device.wwpn] : [])),
    targetsIn: (zone) => members(zone).flatMap((device) => (device.role === 'target' ? [device.wwpn] : [])),
    memberFor: (wwpn) => `wwpn:${wwpn}`,
    defaultPermits: fabric.defaultZone === 'permit',
    newName(initiator, targets) {
      const device = byWwpn.get(initiator)!;
      const arrays = [...new Set(targets.map((wwpn) => byWwpn.get(wwpn)?.ownerName ?? ''))].join('-');
      const stem = zoneNameFrom(
        fabric.zonePattern
          .replace('<host>', device.ownerName || 'port')
          .replace('<hostport>', device.name)
          .replace('<array>', arrays)
          .replace('<fabric>', fabric.name),
      );
      let name = stem;
      for (
        let n = 2;
        taken.has(name) ||
        view.table('zone').by('name', nameKey(fabric.id, name)).length > 0 ||
        view.table('activeZone').by('name', nameKey(fabric.id, name)).length > 0;
        n++
      )
        name = `${stem.slice(0, 61)}-${n}`;
      taken.add(name);
      return name;
    },
  };
}
