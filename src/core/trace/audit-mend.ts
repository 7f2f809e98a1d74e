import type { Fabric, Zone } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import type { AuditLine } from '../fabric/audit';
import { chosenSet } from '../fabric/compare';
import { devicesOf, fcDevices } from '../fabric/devices';
import { memberText, standsFor } from '../fabric/member';
import { zoneBook } from '../fabric/zoning';
import { nextStep as step, type NextStep } from '../operation/operation';

/** What mends a line of the audit, as an operation. */
export function auditMend(view: EstateView, fabric: Fabric, line: AuditLine): NextStep | null {
  const on = { fabric: fabric.name, name: line.subject.name };
  const zone = line.subject.kind === 'zone' ? view.table('zone').get(line.subject.id) : undefined;
  const without = (member: string | undefined, instead?: string): Record<string, unknown> | null =>
    zone && member
      ? {
          ...on,
          members: zone.members.flatMap((one) => (one === member ? (instead ?? []) : one)).map(memberText),
          ...(zone.kind === 'peer'
            ? { principals: zone.principals.flatMap((one) => (one === member ? (instead ?? []) : one)).map(memberText) }
            : {}),
        }
      : null;
  switch (line.kind) {
    case 'alias-unused':
      return step('Drop the alias', 'alias.delete', on);
    case 'zone-one-member':
    case 'zone-duplicate':
      return step('Drop the zone', 'zone.delete', on);
    case 'zone-stale-member':
    case 'zone-mixed-members': {
      const params = without(line.member);
      return params && step('Remove the member', 'zone.configure', params);
    }
    case 'zone-member-near-miss': {
      const params = without(line.member, line.meant);
      return params && step('Use the known name', 'zone.configure', params);
    }
    case 'defined-differs-from-active': {
      const set = chosenSet(view, fabric);
      return set ? step(`Activate ${set.name}`, 'zone-set.activate', { fabric: fabric.name, zoneSet: set.name }) : null;
    }
    case 'default-zone-permit':
      return step('Let it deny', 'fabric.configure', { fabric: fabric.name, defaultZone: 'deny' });
    case 'zone-many-initiators': {
      const spare = zone ? initiatorsJoinedElsewhere(view, fabric, zone) : [];
      return spare.length > 0
        ? step('Keep one initiator', 'zone.configure', {
            ...on,
            members: zone!.members.filter((one) => !spare.includes(one)).map(memberText),
          })
        : step('Change the zone', 'zone.configure', on);
    }
    case 'zone-no-target':
    case 'zone-node-name':
    case 'zone-name-hard':
      return step('Change the zone', 'zone.configure', on);
    case 'zone-without-mapping':
      return step('Drop the zone', 'zone.delete', on);
  }
}

/** Members of a zone that can go without loss: initiators after the first, where other zones join them with the same targets. */
function initiatorsJoinedElsewhere(view: EstateView, fabric: Fabric, zone: Zone): string[] {
  const all = fcDevices(view);
  const book = zoneBook(view, fabric.id);
  const places = zone.members.map((member) => ({
    member,
    devices: standsFor(view, fabric.id, member).flatMap((one) => devicesOf(view, fabric.id, one, () => all)),
  }));
  const targets = places.flatMap(({ devices }) => devices.filter((device) => device.role === 'target'));
  const others = places
    .filter(({ devices }) => devices.length > 0 && devices.every((device) => device.role === 'initiator'))
    .slice(1);
  const covered = others.every(({ devices }) =>
    devices.every((initiator) =>
      targets.every((target) => book.joining(initiator, target).some((one) => one.name !== zone.name)),
    ),
  );
  return covered ? others.map(({ member }) => member) : [];
}
