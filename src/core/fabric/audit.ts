import type { Fabric } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { volumeOf } from '../estate/relations';
import { normalised } from '../naming/diagnose';
import { nearMiss } from '../naming/nearness';
import { formatWwn } from '../naming/wwn';
import { whole, type InParts } from '../units/in-parts';
import { asActive, chosenSet, compareZones } from './compare';
import { devicesOf, fcDevices, loggedIn, type FcDevice } from './devices';
import { memberText, partsOf } from './member';
import { memberForms, zonePermits } from './zoning';

export type AuditKind =
  | 'zone-many-initiators'
  | 'zone-one-member'
  | 'zone-no-target'
  | 'zone-stale-member'
  | 'zone-member-near-miss'
  | 'zone-duplicate'
  | 'zone-mixed-members'
  | 'zone-node-name'
  | 'zone-without-mapping'
  | 'alias-unused'
  | 'default-zone-permit'
  | 'defined-differs-from-active'
  | 'zone-name-hard';

export interface AuditLine {
  kind: AuditKind;
  /** The zone, alias or fabric it is about. */
  subject: { kind: 'zone' | 'alias' | 'fabric'; id: string; name: string };
  says: string;
  /** What a mend needs to know: the member, the name that is meant, the zone that is the same. */
  member?: string;
  meant?: string;
  twin?: string;
}

/** What is too wide, unused, dangling, doubled or not yet active in a fabric's zoning. */
export const auditFabric = (view: EstateView, fabric: Fabric): AuditLine[] => whole(auditInParts(view, fabric));

/** The same a zone at a time. */
export function* auditInParts(view: EstateView, fabric: Fabric): InParts<AuditLine[]> {
  const found: AuditLine[] = [];
  const all = fcDevices(view).filter((device) => device.fabric === fabric.id);
  const known = all.map((device) => device.wwpn);
  const devices = () => all;
  if (fabric.defaultZone === 'permit')
    found.push({
      kind: 'default-zone-permit',
      subject: about(fabric),
      says: `Ports in no zone all see each other in ${fabric.name}.`,
    });
  const set = chosenSet(view, fabric);
  const differences = set ? compareZones(view, set) : [];
  if (differences.length > 0)
    found.push({
      kind: 'defined-differs-from-active',
      subject: about(fabric),
      says: `${differences.length} ${differences.length === 1 ? 'change is' : 'changes are'} not active in ${fabric.name}: ${differences
        .slice(0, 3)
        .map((one) => one.name)
        .join(', ')}.`,
    });
  const seen = new Map<string, string>();
  const used = new Set<string>();
  for (const zone of [...view.table('zone').by('fabric', fabric.id)].sort((a, b) => (a.name < b.name ? -1 : 1))) {
    yield;
    const subject = { kind: 'zone' as const, id: zone.id, name: zone.name };
    const add = (kind: AuditKind, says: string, more: Partial<AuditLine> = {}) =>
      found.push({ kind, subject, says, ...more });
    for (const member of [...zone.members, ...zone.principals])
      if (partsOf(member).kind === 'alias') used.add(partsOf(member).value);
    const active = asActive(view, zone);
    const named = [...active.principals, ...active.members];
    const inZone = new Map<string, FcDevice>();
    const forms = new Map<string, Set<string>>();
    for (const member of named) {
      const { kind, value } = partsOf(member);
      const matching = devicesOf(view, fabric.id, member, devices);
      for (const device of matching) {
        inZone.set(device.id, device);
        forms.set(device.id, (forms.get(device.id) ?? new Set()).add(kind));
      }
      if (kind === 'wwnn')
        add('zone-node-name', `${zone.name} names node ${formatWwn(value)}: all its ports are in the zone.`, {
          member,
        });
      if (matching.length > 0) {
        if (matching.every((device) => !loggedIn(device)))
          add('zone-stale-member', `${memberText(member)} in ${zone.name} is not logged in.`, { member });
        continue;
      }
      const near = kind === 'wwpn' ? nearMiss(normalised(value), known) : null;
      if (near)
        add(
          'zone-member-near-miss',
          `${formatWwn(value)} in ${zone.name} differs from ${formatWwn(near.known)} in ${near.distance} ${near.distance === 1 ? 'digit' : 'digits'}.`,
          { member, meant: `wwpn:${near.known}` },
        );
      else add('zone-stale-member', `${memberText(member)} in ${zone.name} has never logged in.`, { member });
    }
    // An array works as an initiator towards an outside one.
    const isInside = ({ owner }: FcDevice) => owner !== null && view.table('array').get(owner)?.outside === false;
    const initiators = [...inZone.values()].filter((device) => device.role === 'initiator');
    const targets = [...inZone.values()].filter((device) => device.role === 'target');
    if (zone.kind === 'ordinary' && initiators.length > 1)
      add(
        'zone-many-initiators',
        `${zone.name} holds ${initiators.length} initiators: ${initiators.map((device) => `${device.ownerName} ${device.name}`).join(', ')}.`,
      );
    if (inZone.size < 2)
      add(
        'zone-one-member',
        `${zone.name} permits nothing: ${inZone.size === 1 ? 'only one member is there' : 'none of its members is there'}.`,
      );
    else if (
      ![...initiators, ...targets.filter(isInside)].some((i) =>
        targets.some(
          (t) =>
            i.id !== t.id &&
            (i.role === 'initiator' || !isInside(t)) &&
            zonePermits(active, memberForms(i), memberForms(t)),
        ),
      )
    )
      add('zone-no-target', `${zone.name} joins no initiator with a target.`);
    for (const [id, kinds] of forms)
      if (kinds.has('wwpn') && kinds.has('port'))
        add(
          'zone-mixed-members',
          `${zone.name} names ${inZone.get(id)!.ownerName} ${inZone.get(id)!.name} by its name and by its place.`,
          { member: `port:${inZone.get(id)!.switch!.domain},${inZone.get(id)!.switchPort}` },
        );
    const fingerprint = `${zone.kind} ${[...active.principals].sort().join()} ${[...active.members].sort().join()}`;
    const twin = seen.get(fingerprint);
    if (twin) add('zone-duplicate', `${zone.name} has the same members as ${twin}.`, { twin });
    else seen.set(fingerprint, zone.name);
    const idle = idlePair(view, initiators, targets);
    if (idle)
      add(
        'zone-without-mapping',
        `${idle.host} may reach ${idle.array} by ${zone.name}, yet nothing is mapped to it there.`,
      );
    if (!/[a-z]/i.test(zone.name.replace(/^z(one)?[-_]?\d*$/i, '')) || zone.name.length > 48)
      add('zone-name-hard', `${zone.name} says little of whom it joins.`);
  }
  for (const alias of view.table('alias').by('fabric', fabric.id))
    if (!used.has(alias.name))
      found.push({
        kind: 'alias-unused',
        subject: { kind: 'alias', id: alias.id, name: alias.name },
        says: `No zone of ${fabric.name} uses alias ${alias.name}.`,
      });
  return found;
}

const about = (fabric: Fabric) => ({ kind: 'fabric' as const, id: fabric.id, name: fabric.name });

function idlePair(
  view: EstateView,
  initiators: readonly FcDevice[],
  targets: readonly FcDevice[],
): { host: string; array: string } | null {
  for (const initiator of initiators)
    for (const target of targets) {
      if (!initiator.owner || !target.owner) continue;
      const mapped = view
        .table('mapping')
        .by('host', initiator.owner)
        .some((mapping) => volumeOf(view, mapping).array === target.owner);
      if (!mapped) return { host: initiator.ownerName, array: target.ownerName };
    }
  return null;
}
