import type { Fabric, ZoneSet } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { hostOf } from '../estate/relations';
import { nameKey } from '../estate/table';
import { chosenSet } from '../fabric/compare';
import { deviceByWwpn, deviceText, fcDevices, type FcDevice } from '../fabric/devices';
import { aliasNamed, memberText, parseMember, parseZoneName, partsOf } from '../fabric/member';
import { nearMiss } from '../naming/nearness';
import { formatWwn } from '../naming/wwn';
import { byName, draftText } from '../operation/draft';
import { lookUp, type Inquiry } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import type { Choice, Draft } from '../operation/operation';

type Listed = 'alias' | 'zone' | 'zoneSet';
const words: Record<Listed, string> = { alias: 'alias', zone: 'zone', zoneSet: 'zone set' };

export const draftFabric = (view: EstateView, draft: Draft): Fabric | undefined =>
  lookUp(view, 'fabric', draftText(draft, 'fabric'));

export const fabricChoices = (view: EstateView): Choice[] =>
  [...view.table('fabric').values()].sort(byName).map((row) => ({ value: row.name, label: `Fabric ${row.name}` }));

export const namedChoices = (view: EstateView, kind: Listed, fabric: Fabric | undefined): Choice[] =>
  fabric
    ? [...view.table(kind).by('fabric', fabric.id)].sort(byName).map((row) => ({ value: row.name, label: row.name }))
    : [];

/** A name switches take, and that neither an alias, a zone nor a zone set of the fabric has. Zone names are case-sensitive. */
export function freeZoneName(
  view: EstateView,
  asks: Inquiry,
  fabric: Fabric | undefined,
  kind: Listed,
  text: string,
  field = 'name',
  own?: { id: string },
): string | undefined {
  const name = asks.value(parseZoneName(text, words[kind]), field, { kind, name: text });
  if (!name || !fabric) return undefined;
  for (const other of kind === 'zoneSet' ? (['zoneSet'] as const) : (['zone', 'alias'] as const)) {
    const row = view.table(other).by('name', nameKey(fabric.id, name))[0];
    if (!row || row.id === own?.id) continue;
    asks.refuse({
      code: 'name-taken',
      field,
      subject: { kind, id: row.id, name },
      message: `Fabric ${fabric.name} has ${other === 'alias' ? 'an alias' : `a ${words[other]}`} named ${row.name} already.`,
      mend: 'Choose another name.',
    });
    return undefined;
  }
  return name;
}

/**
 * Reads members and refuses what is malformed, an alias that is not there, and a node name given for a port's. A port name nobody bears is
 * taken, with a note: the port may come later.
 */
export function readMembers(
  view: EstateView,
  asks: Inquiry,
  fabric: Fabric | undefined,
  texts: readonly string[],
  field: string,
  notes: string[],
  noAlias = false,
): string[] {
  const found = new Set<string>();
  for (const text of texts) {
    const subject = { kind: 'zone', name: text } as const;
    const member = asks.value(parseMember(text), field, subject);
    if (!member || !fabric) continue;
    const { kind, value } = partsOf(member);
    if (kind === 'alias' && (noAlias || !aliasNamed(view, fabric.id, value))) {
      const near = nearMiss(
        value,
        view
          .table('alias')
          .by('fabric', fabric.id)
          .map((row) => row.name),
      );
      asks.refuse({
        code: noAlias ? 'alias-nested' : 'alias-undefined',
        field,
        subject,
        message: noAlias
          ? `${value} is no port name, and an alias does not stand for another.`
          : `Fabric ${fabric.name} has no alias ${value}.`,
        mend: near && !noAlias ? `Perhaps ${near.known} is meant.` : 'Write a port name, or make the alias first.',
      });
      continue;
    }
    if (kind === 'wwpn' && nodeName(view, value))
      asks.refuse({
        code: 'node-name-not-port-name',
        field,
        subject,
        message: `${formatWwn(value)} is a node name: it names all ports of ${nodeName(view, value)}.`,
        mend: 'Write the name of one port.',
      });
    if (kind === 'wwpn') notes.push(...memberNotes(view, fabric, value));
    found.add(member);
  }
  return [...found];
}

function nodeName(view: EstateView, wwn: string): string | null {
  const array = [...view.table('array').values()].find((row) => row.wwnn === wwn);
  if (array) return array.name;
  const port = [...view.table('interface').values()].find((row) => row.wwnn === wwn);
  return port ? ((port.host && hostOf(view, port)?.name) ?? 'a host') : null;
}

function memberNotes(view: EstateView, fabric: Fabric, wwpn: string): string[] {
  const device = deviceByWwpn(view, wwpn);
  if (device?.fabric === fabric.id) return [];
  if (device) return [`${deviceText(device)} (${formatWwn(wwpn)}) is not plugged into fabric ${fabric.name}.`];
  const near = nearMiss(
    wwpn,
    fcDevices(view)
      .filter((row) => row.fabric === fabric.id)
      .map((row) => row.wwpn),
  );
  return [
    near
      ? `${formatWwn(wwpn)} has never logged in; ${formatWwn(near.known)} has, and differs in ${near.distance} ${near.distance === 1 ? 'digit' : 'digits'}.`
      : `${formatWwn(wwpn)} has never logged in.`,
  ];
}

/** The zone set new zones go into: the active one's, or the only one; null where there is none. */
export const setFor = (view: EstateView, fabric: Fabric): ZoneSet | null => chosenSet(view, fabric) ?? null;

/** Refuses where a fabric has several zone sets and none of them is active: nobody can tell which one is meant. */
export function refuseUnclearSet(view: EstateView, asks: Inquiry, fabric: Fabric, field: string): void {
  const sets = view.table('zoneSet').by('fabric', fabric.id);
  if (sets.length === 0 || setFor(view, fabric)) return;
  asks.refuse({
    code: 'zone-set-unclear',
    field,
    subject: { kind: 'fabric', id: fabric.id, name: fabric.name },
    message: `Fabric ${fabric.name} has ${sets.length} zone sets (${sets.map((set) => set.name).join(', ')}), and none of them is active.`,
    mend: 'Activate one of them first, or name the one that is meant.',
    offer: nextStep(`Activate a zone set in fabric ${fabric.name}`, 'zone-set.activate', { fabric: fabric.name }),
  });
}

/** Members that can be chosen in a fabric: aliases first, then ports without one. */
export function memberChoices(view: EstateView, fabric: Fabric | undefined, withAliases = true): Choice[] {
  if (!fabric) return [];
  const aliases = withAliases ? [...view.table('alias').by('fabric', fabric.id)].sort(byName) : [];
  const covered = new Set(aliases.flatMap((alias) => alias.members));
  const devices = fcDevices(view).filter((device) => device.fabric === fabric.id);
  return [
    ...aliases.map((alias) => ({
      value: alias.name,
      label: `${alias.name}: ${alias.members.map(memberText).join(', ') || 'empty'}`,
    })),
    ...devices
      .filter((device) => !covered.has(`wwpn:${device.wwpn}`))
      .map((device) => ({ value: formatWwn(device.wwpn), label: `${formatWwn(device.wwpn)} ${whose(device)}` })),
  ];
}

const whose = (device: FcDevice): string =>
  `${device.ownerName || 'nobody’s yet'} ${device.name}, ${device.switch?.name} port ${device.switchPort}`;
