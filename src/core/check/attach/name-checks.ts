import { initiatorText } from '../../attach/initiators';
import type { Host, Initiator, IpAddress, Kind } from '../../estate/entities';
import type { EstateView } from '../../estate/estate';
import { arrayOf } from '../../estate/relations';
import { targetText } from '../../iscsi/target';
import { nearMiss } from '../../naming/nearness';
import { parseIscsiName } from '../../naming/iscsi';
import { parseNqn } from '../../naming/nqn';
import { formatWwn, parseWwn } from '../../naming/wwn';
import { networkOf } from '../../network/reach';
import { dateText } from '../../units/date';
import type { Parsed } from '../../units/parsed';
import { offer, type Check, type Found } from '../finding';
import { someOf } from '../../units/counted';

const hostOf = (view: EstateView, id: string): Host => view.table('host').get(id)!;
const about = (view: EstateView, row: Initiator) => ({
  kind: 'initiator' as const,
  id: row.id,
  name: `${hostOf(view, row.host).name} ${initiatorText(row.name)}`,
});
const isNqn = (name: string) => /^nqn\./i.test(name);
const isIscsi = (name: string) => /^(iqn|eui|naa)\./i.test(name);

/** Names a host really shows: what it sends at login, and the port names of its cards. */
function shownNames(view: EstateView, host: Host): string[] {
  const ports = view
    .table('interface')
    .by('host', host.id)
    .flatMap((row) => row.wwpn ?? []);
  return [host.presents, host.nqn, ...ports].filter((name): name is string => name !== null);
}

/** Malformed names on record, as an import or an older release may have left them. */
const malformed = (
  id: string,
  title: string,
  is: (name: string) => boolean,
  parse: (text: string, now: string) => Parsed<string>,
  what: string,
): Check => ({
  id,
  severity: 'error',
  title,
  *find(view, { now }) {
    const month = dateText(now).slice(0, 7);
    for (const row of view.table('initiator').values()) {
      yield null;
      const read = is(row.name) ? parse(row.name, month) : null;
      if (!read || read.ok) continue;
      yield {
        subject: about(view, row),
        says: `${row.name} is no ${what}: ${read.message.split(/(?<=\.) (?=[A-Z])/)[0]}`,
        advice: 'Write it as the host shows it.',
        mend: offer('Correct the name', 'initiator.configure', {
          host: hostOf(view, row.host).name,
          initiator: row.name,
        }),
      };
    }
  },
});

/** Rows of a kind that share a value which must be one's own. */
function* twins<R>(rows: Iterable<R>, of: (row: R) => string | null): Iterable<[string, R[]]> {
  const found = new Map<string, R[]>();
  for (const row of rows) {
    const value = of(row);
    if (!value) continue;
    const known = found.get(value);
    if (known) known.push(row);
    else found.set(value, [row]);
  }
  for (const [value, same] of found) if (same.length > 1) yield [value, same];
}

export const nameChecks: Check[] = [
  malformed(
    'wwpn-malformed',
    'Malformed port names',
    (name) => !isNqn(name) && !isIscsi(name),
    (text) => parseWwn(text),
    'port name',
  ),
  malformed('iqn-malformed', 'Malformed iSCSI names', isIscsi, parseIscsiName, 'iSCSI name'),
  malformed('nqn-malformed', 'Malformed NQNs', isNqn, (text, month) => parseNqn(text, 'host', month), 'NQN'),
  {
    id: 'name-near-miss',
    severity: 'error',
    title: 'Names that are a slip of another',
    *find(view) {
      for (const row of view.table('initiator').values()) {
        yield null;
        const host = hostOf(view, row.host);
        const shown = shownNames(view, host);
        if (shown.includes(row.name) || shown.length === 0) continue;
        const near = nearMiss(
          row.name,
          shown.map((name) => (isNqn(name) ? name : name.toLowerCase())),
        );
        if (near)
          yield {
            subject: about(view, row),
            says: `${initiatorText(row.name)} is on record and unknown; ${host.name} shows ${initiatorText(near.known)}, which differs in ${near.distance} ${near.distance === 1 ? 'place' : 'places'} at ${near.position}.`,
            advice: 'Use the name the host shows.',
            mend:
              shown.some((name) => name === near.known) && view.table('initiator').by('iqn', near.known).length > 0
                ? offer('Take it off record', 'host.configure', {
                    host: host.name,
                    initiators: view
                      .table('initiator')
                      .by('host', host.id)
                      .filter((one) => one.id !== row.id)
                      .map((one) => initiatorText(one.name)),
                  })
                : offer('Correct the name', 'initiator.configure', {
                    host: host.name,
                    initiator: row.name,
                    newName: initiatorText(near.known),
                  }),
          };
      }
      yield* allowedSlips(view);
    },
  },
  {
    id: 'name-role-swapped',
    severity: 'error',
    title: 'Names of another role',
    *find(view) {
      const roles = new Map<string, string>();
      for (const array of view.table('array').values())
        if (array.wwnn) roles.set(array.wwnn, `node name of ${array.name}`);
      for (const target of view.table('target').values())
        roles.set(target.iqn, `target name of ${targetText(view, target)}`);
      for (const row of view.table('subsystem').values()) roles.set(row.nqn, `subsystem NQN of ${row.name}`);
      for (const row of view.table('port').values())
        if (row.wwpn) roles.set(row.wwpn, `port name of array port ${row.name}`);
      for (const row of view.table('initiator').values()) {
        yield null;
        const role = roles.get(row.name);
        if (role)
          yield {
            subject: about(view, row),
            says: `${initiatorText(row.name)} is the ${role}, not an initiator of ${hostOf(view, row.host).name}.`,
            advice: 'Enter the name the host shows as its own.',
            mend: offer('Correct the name', 'initiator.configure', {
              host: hostOf(view, row.host).name,
              initiator: row.name,
            }),
          };
      }
    },
  },
  {
    id: 'nqn-case-differs',
    severity: 'error',
    title: 'NQNs that differ by capitals',
    *find(view) {
      const hosts = [...view.table('host').values()].filter((host) => host.nqn !== null);
      for (const subsystem of view.table('subsystem').values())
        for (const allowed of subsystem.allowed) {
          yield null;
          const host = hosts.find((one) => one.nqn !== allowed && one.nqn!.toLowerCase() === allowed.toLowerCase());
          if (!host || hosts.some((one) => one.nqn === allowed)) continue;
          yield {
            subject: { kind: 'subsystem', id: subsystem.id, name: subsystem.name },
            says: `NQNs are compared byte by byte: ${allowed} ≠ ${host.nqn} of ${host.name}.`,
            advice: 'Copy it exactly.',
            mend: offer('Correct the list', 'subsystem.configure', {
              array: arrayOf(view, subsystem).name,
              name: subsystem.name,
              allowed: subsystem.allowed.map((one) => (one === allowed ? host.nqn! : one)),
            }),
          };
        }
    },
  },
  {
    id: 'duplicate-wwpn',
    severity: 'error',
    title: 'Port names borne twice',
    *find(view) {
      const ports: { wwpn: string | null; id: string; kind: Kind; name: string }[] = [
        ...[...view.table('interface').values()].map((row) => ({
          wwpn: row.wwpn,
          id: row.id,
          kind: 'interface' as const,
          name: `${row.host ? hostOf(view, row.host).name : 'nobody’s'} ${row.name}`,
        })),
        ...[...view.table('port').values()].map((row) => ({
          wwpn: row.wwpn,
          id: row.id,
          kind: 'port' as const,
          name: `${arrayOf(view, row).name} ${row.name}`,
        })),
      ];
      for (const [wwpn, same] of twins(ports, (port) => port.wwpn))
        yield {
          subject: { kind: same[0]!.kind, id: same[0]!.id, name: same[0]!.name },
          says: `${formatWwn(wwpn)} is logged in at ${same.map((port) => port.name).join(' and ')}.`,
          advice: 'Give one of them a new name at its card.',
          mend: null,
        };
    },
  },
  {
    id: 'duplicate-host-name',
    severity: 'error',
    title: 'Hosts with one name',
    *find(view) {
      const shown = [...view.table('host').values()].flatMap((host) =>
        [host.presents, host.nqn].flatMap((name) => (name ? [{ host, name }] : [])),
      );
      for (const [name, same] of twins(shown, (one) => one.name))
        yield {
          subject: { kind: 'host', id: same[0]!.host.id, name: same[0]!.host.name },
          says: `${name} belongs to ${same.map((one) => one.host.name).join(' and ')}.`,
          advice: 'Give one of them a name of its own.',
          mend: offer('Give it another', 'host.configure', { host: same.at(-1)!.host.name }),
        };
    },
  },
  {
    id: 'duplicate-host-id',
    severity: 'error',
    title: 'Hosts with one NVMe identifier',
    *find(view) {
      for (const [value, same] of twins(view.table('host').values(), (host) => host.hostNqnId))
        yield {
          subject: { kind: 'host', id: same[0]!.id, name: same[0]!.name },
          says: `${same.map((host) => host.name).join(' and ')} share the NVMe host identifier ${value}: reservations take them for one.`,
          advice: 'Make a new one at one of them.',
          mend: null,
        };
    },
  },
  {
    id: 'duplicate-volume-id',
    severity: 'error',
    title: 'Volumes with one identity',
    *find(view) {
      for (const [naa, same] of twins(view.table('volume').values(), (volume) => volume.naa))
        yield {
          subject: { kind: 'volume', id: same[0]!.id, name: same[0]!.name },
          says: `Hosts take ${same.map((volume) => volume.name).join(' and ')} for one disk: both are naa.${naa}.`,
          advice: 'Map them to no common host until one has a new identity.',
          mend: null,
        };
    },
  },
  {
    id: 'duplicate-ip',
    severity: 'error',
    title: 'Addresses used twice',
    *find(view) {
      const ends: { address: IpAddress; vlan: number | null; found: Pick<Found, 'subject' | 'mend'> }[] = [
        ...[...view.table('interface').values()].flatMap((row) =>
          row.addresses.map((address) => ({
            address,
            vlan: row.vlan,
            found: {
              subject: {
                kind: 'interface' as const,
                id: row.id,
                name: `${row.host ? hostOf(view, row.host).name : ''} ${row.name}`,
              },
              mend: row.host
                ? offer('Renumber it', 'interface.configure', {
                    host: hostOf(view, row.host).name,
                    interface: row.name,
                  })
                : null,
            },
          })),
        ),
        ...[...view.table('port').values()].flatMap((row) =>
          row.addresses.map((address) => ({
            address,
            vlan: row.vlan,
            found: {
              subject: {
                kind: 'port' as const,
                id: row.id,
                name: `${arrayOf(view, row).name} ${row.name}`,
              },
              mend: offer('Renumber it', 'port.configure', {
                array: arrayOf(view, row).name,
                port: row.name,
              }),
            },
          })),
        ),
      ];
      for (const [key, same] of twins(
        ends,
        (end) => `${end.address.ip} ${end.vlan ?? networkOf(view, end.address)?.vlan ?? 0}`,
      ))
        yield {
          ...same[0]!.found,
          says: `${key.split(' ')[0]} is used by ${someOf(same.map((end) => end.found.subject.name.trim()))}.`,
          advice: 'Renumber one.',
        } satisfies Found;
    },
  },
];

/** Entries of allowed lists that are nobody's and near a host's. */
function* allowedSlips(view: EstateView): Iterable<Found> {
  const hosts = [...view.table('host').values()].filter((host) => host.nqn !== null);
  const known = hosts.map((host) => host.nqn!);
  for (const subsystem of view.table('subsystem').values())
    for (const allowed of subsystem.allowed) {
      if (known.includes(allowed) || known.some((nqn) => nqn.toLowerCase() === allowed.toLowerCase())) continue;
      const near = nearMiss(allowed, known);
      if (!near) continue;
      yield {
        subject: { kind: 'subsystem', id: subsystem.id, name: subsystem.name },
        says: `${allowed} is on the list and unknown; ${near.known} differs in ${near.distance} ${near.distance === 1 ? 'place' : 'places'} at ${near.position}.`,
        advice: 'Use the known name.',
        mend: offer('Correct the list', 'subsystem.configure', {
          array: arrayOf(view, subsystem).name,
          name: subsystem.name,
          allowed: subsystem.allowed.map((one) => (one === allowed ? near.known : one)),
        }),
      };
    }
}
