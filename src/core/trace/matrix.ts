import type { EstateView } from '../estate/estate';
import { arrayOf, siteOf, volumeOf } from '../estate/relations';
import { pathFinder, wayOf } from '../attach/paths';
import type { MissingReason } from '../attach/sessions';
import { auditFabric, type AuditLine } from '../fabric/audit';
import { chosenSet, compareZones, type ZoneDifference } from '../fabric/compare';
import { fcDevices, fcid, loggedIn, type FcDevice } from '../fabric/devices';
import { memberText, standsFor } from '../fabric/member';
import { zoneBook } from '../fabric/zoning';
import { formatWwn } from '../naming/wwn';
import { byName } from '../operation/draft';
import type { NextStep } from '../operation/operation';
import { auditMend } from './audit-mend';

/** A port of a fabric as its name server lists it. */
export interface FabricLogin {
  id: string;
  wwpn: string;
  wwnn: string;
  fcid: string;
  switch: string;
  port: number;
  role: 'initiator' | 'target';
  /** Its host or array; empty where it belongs to nobody yet. */
  owner: string;
  ownerId: string | null;
  name: string;
  alias: string;
  up: boolean;
  speed: number;
  /** Of a port that is nobody's: the others with its node name, so that a host is registered with all of them. */
  siblings: string[];
}

/** An initiator and a target port: joined by a zone, wanted and not there, or free to be joined. */
export interface FabricCell {
  initiator: string;
  target: string;
  state: 'joined' | 'missing' | 'free';
  zones: string[];
  reason: MissingReason | null;
  message: string | null;
  /** A volume that should be reached by this pair, as `array/volume`: its trace tells where it breaks. */
  volume: string | null;
}

export interface FabricZone {
  name: string;
  kind: 'ordinary' | 'peer';
  members: string[];
  active: boolean;
  /** Members logged in, of all. */
  present: number;
}

export interface FabricModel {
  id: string;
  name: string;
  defaultZone: 'deny' | 'permit';
  activeSet: string | null;
  zoneSet: string | null;
  switches: { id: string; name: string; site: string; domain: number; up: boolean; used: number; ports: number }[];
  links: { id: string; name: string; from: string; to: string; speed: number; km: number; up: boolean }[];
  /** How many there are in all, and of those asked for. */
  counts: { initiators: number; targets: number; zones: number; found: number; zonesFound: number; audit: number };
  logins: FabricLogin[];
  cells: FabricCell[];
  zones: FabricZone[];
  waiting: ZoneDifference[];
  audit: (AuditLine & { mend: NextStep | null })[];
}

/** What of a large fabric is asked for. */
export interface FabricWish {
  /** Words that hosts, arrays, ports, port names, zones and aliases are found by. */
  find?: string;
  /** Most initiators, zones and audit lines of a fabric. */
  most?: number;
}

const MOST = 120;

/** Each fabric with its switches, logins, zones, and who meets whom; of a large one the first, or those that are asked for. */
export function fabricModels(view: EstateView, { find = '', most = MOST }: FabricWish = {}): FabricModel[] {
  const words = find.toLowerCase().split(/\s+/).filter(Boolean);
  const holds = (text: string) => words.every((word) => text.toLowerCase().includes(word));
  const named = (device: FcDevice) =>
    words.length === 0 || holds(`${device.ownerName} ${device.name} ${device.wwpn} ${formatWwn(device.wwpn)}`);
  const devices = fcDevices(view);
  const wanted = missingPairs(view);
  return [...view.table('fabric').values()].sort(byName).map((fabric): FabricModel => {
    const here = devices.filter((device) => device.fabric === fabric.id);
    const allInitiators = here.filter((device) => device.role === 'initiator').sort(byOwner);
    const allTargets = here.filter((device) => device.role === 'target').sort(byOwner);
    const book = zoneBook(view, fabric.id);
    const found = allInitiators.filter(named);
    // Words that name no host may name an array: then those that meet it are shown.
    const asked = allTargets.filter(named);
    const meeting =
      found.length > 0 || words.length === 0
        ? found
        : allInitiators.filter((initiator) => asked.some((target) => book.mayTalk(initiator, target)));
    const initiators = meeting.slice(0, most);
    const targets =
      allTargets.length <= most
        ? allTargets
        : allTargets
            .filter((target) =>
              initiators.some(
                (initiator) => wanted.has(`${initiator.id} ${target.id}`) || book.mayTalk(initiator, target),
              ),
            )
            .slice(0, most);
    const zones = [...view.table('zone').by('fabric', fabric.id)]
      .sort(byName)
      .filter((zone) => words.length === 0 || holds(`${zone.name} ${[...zone.principals, ...zone.members].join(' ')}`));
    const audit = auditFabric(view, fabric);
    const present = new Set(here.filter(loggedIn).map((device) => `wwpn:${device.wwpn}`));
    const set = chosenSet(view, fabric);
    const aliases = new Map(
      view
        .table('alias')
        .by('fabric', fabric.id)
        .flatMap((alias) => alias.members.map((member) => [member, alias.name] as const)),
    );
    const active = new Set(
      view
        .table('activeZone')
        .by('fabric', fabric.id)
        .map((zone) => zone.name),
    );
    const switches = [...view.table('switch').by('fabric', fabric.id)].sort(byName);
    return {
      id: fabric.id,
      name: fabric.name,
      defaultZone: fabric.defaultZone,
      activeSet: fabric.activeSet,
      zoneSet: set?.name ?? null,
      switches: switches.map((row) => ({
        id: row.id,
        name: row.name,
        site: siteOf(view, row).name,
        domain: row.domain,
        up: row.state === 'up',
        used: here.filter((device) => device.switch?.id === row.id).length,
        ports: row.ports,
      })),
      links: [...view.table('isl').values()]
        .filter((isl) => view.table('switch').get(isl.a)?.fabric === fabric.id)
        .sort(byName)
        .map((isl) => ({
          id: isl.id,
          name: isl.name,
          from: view.table('switch').get(isl.a)!.name,
          to: view.table('switch').get(isl.b)!.name,
          speed: isl.speed,
          km: isl.km,
          up: isl.state === 'up',
        })),
      logins: [...initiators, ...targets].map((device) => loginOf(view, device, aliases)),
      cells: initiators.flatMap((initiator) =>
        targets.flatMap((target): FabricCell[] => {
          const gap = wanted.get(`${initiator.id} ${target.id}`);
          const zones = book.joining(initiator, target).map((zone) => zone.name);
          const may = zones.length > 0 || book.mayTalk(initiator, target);
          const joined = !gap && may && loggedIn(initiator) && loggedIn(target);
          const apart = gap || may ? 'missing' : 'free';
          const state = joined ? 'joined' : apart;
          return [
            {
              initiator: initiator.id,
              target: target.id,
              state,
              zones,
              reason: gap?.reason ?? null,
              message: gap?.message ?? null,
              volume: gap?.volume ?? null,
            },
          ];
        }),
      ),
      counts: {
        initiators: allInitiators.length,
        targets: allTargets.length,
        zones: view.table('zone').countBy('fabric', fabric.id),
        found: meeting.length,
        zonesFound: zones.length,
        audit: audit.length,
      },
      zones: zones.slice(0, most).map((zone) => {
        const members = [...zone.principals, ...zone.members];
        return {
          name: zone.name,
          kind: zone.kind,
          members: members.map(memberText),
          active: active.has(zone.name),
          present: members.filter((member) => standsFor(view, fabric.id, member).some((one) => present.has(one)))
            .length,
        };
      }),
      waiting: set ? compareZones(view, set) : [],
      audit: audit.slice(0, most).map((line) => ({ ...line, mend: auditMend(view, fabric, line) })),
    };
  });
}

const byOwner = (a: FcDevice, b: FcDevice): number =>
  byName({ name: a.ownerName || '~' }, { name: b.ownerName || '~' }) || byName(a, b);

/** Ports of a device that belongs to nobody yet: all that bear its node name. */
const sameNode = (view: EstateView, device: FcDevice): string[] =>
  device.owner !== null || device.wwnn === null
    ? []
    : [...view.table('interface').values()].flatMap((row) =>
        row.host === null && row.wwnn === device.wwnn && row.wwpn && row.wwpn !== device.wwpn
          ? formatWwn(row.wwpn)
          : [],
      );

const loginOf = (view: EstateView, device: FcDevice, aliases: ReadonlyMap<string, string>): FabricLogin => ({
  siblings: sameNode(view, device),
  id: device.id,
  wwpn: formatWwn(device.wwpn),
  wwnn: device.wwnn ? formatWwn(device.wwnn) : '',
  fcid: loggedIn(device) ? fcid(device) : '',
  switch: device.switch?.name ?? '',
  port: device.switchPort,
  role: device.role,
  owner: device.ownerName,
  ownerId: device.owner,
  name: device.name,
  alias: aliases.get(`wwpn:${device.wwpn}`) ?? '',
  up: loggedIn(device),
  speed: device.speed,
});

/** Pairs that mappings want and that do not meet, with the first reason. */
function missingPairs(view: EstateView): Map<string, { reason: MissingReason; message: string; volume: string }> {
  const finder = pathFinder(view);
  const found = new Map<string, { reason: MissingReason; message: string; volume: string }>();
  const seen = new Set<string>();
  for (const mapping of view.table('mapping').values()) {
    const volume = volumeOf(view, mapping);
    // Mappings that go by the same ports miss the same.
    const way = wayOf(view, mapping);
    if (seen.has(way)) continue;
    seen.add(way);
    const { usable, expected } = finder.count(mapping);
    if (usable === expected) continue;
    for (const gap of finder.paths(mapping).missing)
      if (gap.transport === 'fc')
        found.set(`${gap.interface} ${gap.port}`, {
          reason: gap.reason,
          message: gap.message,
          volume: `${arrayOf(view, volume).name}/${volume.name}`,
        });
  }
  return found;
}
