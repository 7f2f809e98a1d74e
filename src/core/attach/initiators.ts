import { changed, type Effect } from '../estate/effects';
import type { HostInterface } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, hostOf } from '../estate/relations';
import { targetByIqn, targetText } from '../iscsi/target';
import { formOf, type NameForm } from '../naming/diagnose';
import { parseIscsiName } from '../naming/iscsi';
import { nearMiss } from '../naming/nearness';
import { parseNqn } from '../naming/nqn';
import { formatWwn, parseWwn } from '../naming/wwn';
import type { Inquiry } from '../operation/inquiry';
import type { Parsed } from '../units/parsed';

/** Reads a name by which arrays let a host in: an iSCSI name, a host NQN, or a port name, told apart by how it begins. */
export function parseInitiator(text: string, month: string): Parsed<string> {
  const given = text.trim();
  if (/^nqn/i.test(given)) return parseNqn(given, 'host', month);
  // `naa.` begins both iSCSI names and port names: 16 digits of a format that ports have are a port's.
  if (/^(0x|naa\.5|naa\.2|naa\.1)/i.test(given) || /^[0-9a-f]{2}[:\-. ]?[0-9a-f]{2}/i.test(given))
    return parseWwn(given);
  return parseIscsiName(given, month);
}

export const initiatorForm = (name: string): NameForm => formOf(name);
/** An initiator's name as people read it. */
export const initiatorText = (name: string): string => (formOf(name) === 'wwn' ? formatWwn(name) : name);

/** Reads names for a host and refuses what is malformed, doubled, another's, or of another role. `own` is the host that may bear them already. */
export function readInitiators(
  view: EstateView,
  asks: Inquiry,
  texts: readonly string[],
  month: string,
  own?: string,
): string[] {
  const seen = new Set<string>();
  return texts.flatMap((text) => {
    const subject = { kind: 'initiator', name: text } as const;
    const name = asks.value(parseInitiator(text, month), 'initiators', subject);
    if (!name) return [];
    const holder = view.table('initiator').by('iqn', name)[0];
    const target = targetByIqn(view, name);
    const subsystem = [...view.table('subsystem').values()].find((row) => row.nqn === name);
    const node = formOf(name) === 'wwn' ? nodeOwner(view, name) : null;
    if (holder && holder.host !== own)
      asks.refuse({
        code: 'duplicate-host-name',
        field: 'initiators',
        subject,
        message: `${initiatorText(name)} belongs to ${hostOf(view, holder).name} already.`,
        mend: 'Give each host a name of its own.',
      });
    if (target || subsystem)
      asks.refuse({
        code: 'role-swapped',
        field: 'initiators',
        subject,
        message: `${name} is the ${target ? `target name of ${targetText(view, target)}` : `subsystem NQN of ${subsystem!.name}`}, not an initiator's.`,
        mend: 'Write the name the host shows as its own.',
      });
    if (node)
      asks.refuse({
        code: 'node-name-not-port-name',
        field: 'initiators',
        subject,
        message: `${formatWwn(name)} is the node name of ${node}, not one of its port names.`,
        mend: 'Write the port name, as the switch lists it beside the node name.',
      });
    const port = view.table('port').by('wwpn', name)[0];
    if (port)
      asks.refuse({
        code: 'role-swapped',
        field: 'initiators',
        subject,
        message: `${formatWwn(name)} is port ${port.name} of ${arrayOf(view, port).name}, not a host's.`,
        mend: 'Write the port name of the host.',
      });
    if (seen.has(name))
      asks.refuse({
        code: 'initiator-twice',
        field: 'initiators',
        subject,
        message: `${initiatorText(name)} is named twice.`,
        mend: 'Name it once.',
      });
    seen.add(name);
    return [name];
  });
}

function nodeOwner(view: EstateView, wwn: string): string | null {
  const array = [...view.table('array').values()].find((row) => row.wwnn === wwn);
  if (array) return array.name;
  const port = [...view.table('interface').values()].find((row) => row.wwnn === wwn);
  return port ? ((port.host && hostOf(view, port)?.name) ?? 'a host that is not registered') : null;
}

/**
 * Ports that logged in and belonged to nobody become a host's. A host tells its ports apart by name: one that is called like another of its
 * ports gets the next free number.
 */
export function claimed(
  host: string,
  ports: readonly HostInterface[],
  names: Iterable<string>,
): { effects: Effect[]; notes: string[] } {
  const taken = new Set([...names].map((name) => name.toLowerCase()));
  const effects: Effect[] = [];
  const notes: string[] = [];
  for (const port of ports) {
    let name = port.name;
    const stem = name.replace(/\d+$/, '');
    for (let n = 0; taken.has(name.toLowerCase()); n++) name = `${stem}${n}`;
    taken.add(name.toLowerCase());
    if (name !== port.name)
      notes.push(
        `${formatWwn(port.wwpn ?? '')} was called ${port.name}, as another port of the host is: it is ${name} now.`,
      );
    effects.push(changed('interface', port, { host, name }));
  }
  return { effects, notes };
}

/** The port that logged in under a port name and belongs to nobody yet, or what is odd about the name. */
export function claimOf(view: EstateView, name: string): { port: HostInterface | null; note: string | null } {
  if (formOf(name) !== 'wwn') return { port: null, note: null };
  const port = view.table('interface').by('wwpn', name)[0];
  if (port) return { port: port.host === null ? port : null, note: null };
  const unclaimed = view
    .table('interface')
    .by('unclaimed', '')
    .flatMap((row) => row.wwpn ?? []);
  const near = nearMiss(name, unclaimed);
  return {
    port: null,
    note: near
      ? `${formatWwn(name)} has not logged in anywhere; ${formatWwn(near.known)} has, and differs in ${near.distance} ${near.distance === 1 ? 'digit' : 'digits'}.`
      : `${formatWwn(name)} has not logged in anywhere yet.`,
  };
}
