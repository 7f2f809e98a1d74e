import type { ArrayRow, Host, Target } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { initiatorForm, initiatorText } from '../attach/initiators';
import type { MissingReason, MissingSession } from '../attach/sessions';
import { nameKey } from '../estate/table';
import { chosenSet, compareZones } from '../fabric/compare';
import { deviceByWwpn } from '../fabric/devices';
import { nearMiss } from '../naming/nearness';
import { formatWwn } from '../naming/wwn';
import { byName } from '../operation/draft';
import { grantOf, mainTarget, targetText } from '../iscsi/target';
import { nextStep as step, type NextStep } from '../operation/operation';
import { ruleText } from '../target/policy';

/** A zone that would join them but is only defined. */
export function waitingWords(view: EstateView, gap: MissingSession): string {
  if (gap.reason !== 'not-zoned') return '';
  const waiting = waitingSet(view, gap);
  return waiting ? ` Zone set ${waiting.set} holds changes that are not active.` : '';
}
/** A member of an active zone that nobody bears and that is nearly the name of one of the two; null where there is none. */
function slipOf(view: EstateView, gap: MissingSession) {
  if (gap.reason !== 'not-zoned' || gap.network === null) return null;
  const ends = [view.table('interface').get(gap.interface)?.wwpn, view.table('port').get(gap.port)?.wwpn];
  const wanted = ends.flatMap((wwpn) => wwpn ?? []);
  for (const zone of [...view.table('activeZone').by('fabric', gap.network)].sort(byName))
    for (const member of [...zone.members, ...zone.principals]) {
      const value = member.slice(5);
      if (!member.startsWith('wwpn:') || deviceByWwpn(view, value)) continue;
      const near = nearMiss(value, wanted);
      if (near) return { zone, member, value, near };
    }
  return null;
}

/** The same in words. */
export function slipWords(view: EstateView, gap: MissingSession): string {
  const slip = slipOf(view, gap);
  return slip
    ? ` ${slip.zone.name} holds ${formatWwn(slip.value)}, which is ${slip.near.distance === 1 ? 'one digit' : 'two digits'} off ${formatWwn(slip.near.known)}.`
    : '';
}

/** The defined zone set that would join the two, where one would. */
export function waitingSet(view: EstateView, gap: MissingSession): { fabric: string; set: string } | null {
  const fabric = gap.network ? view.table('fabric').get(gap.network) : undefined;
  const set = fabric && chosenSet(view, fabric);
  const wwpn = view.table('interface').get(gap.interface)?.wwpn;
  if (!fabric || !set || !wwpn) return null;
  const holds = compareZones(view, set).some(
    (one) => one.what !== 'removed' && one.comes.some((member) => member.endsWith(wwpn)),
  );
  return holds ? { fabric: fabric.name, set: set.name } : null;
}

/** What mends a pair of ports that does not meet, in words. */
export function adviceFor(reason: MissingReason): string {
  const words: Partial<Record<MissingReason, string>> = {
    'controller-down': 'Bring the controller up.',
    'array-port-down': 'Bring the port up, or replace its module.',
    'portal-down': 'Bring the port up.',
    'port-role-off': 'Give the port that role.',
    'not-zoned': 'Join the two in a zone and activate it.',
    'initiator-unknown': 'Put the name it presents on record.',
    'no-initiator': 'Register its initiator.',
    'not-discovered': 'Enable a set that holds both, or add them to one.',
    'not-logged-in': 'Log in.',
    'access-none': 'Grant it access.',
    'target-disabled': 'Switch the target on.',
    'session-reinstated': 'Give each interface an ISID of its own.',
    'session-limit': 'Allow more sessions, or log others out.',
    'address-family-differs': 'Give both ends an address of one family.',
    'chap-failed': 'Enter the secret again, the same on both sides.',
    'chap-mutual-failed': 'Enter the array’s secret at the host again.',
    'nqn-not-allowed': 'Put its exact NQN on the list.',
    'digest-none-common': 'Let both sides take one digest.',
    'mtu-black-hole': 'Raise the network’s MTU, or lower it at the ends.',
    'vlan-mismatch': 'Set one VLAN at both.',
    'prefix-mismatch': 'Correct the prefix.',
    'no-active-uplink': 'Set one uplink active.',
    'many-active-uplinks': 'Leave one uplink active.',
  };
  return words[reason] ?? 'Bring it up again.';
}

/** The iSCSI target that a pair was to meet at. */
const targetOf = (view: EstateView, gap: MissingSession, array: ArrayRow): Target | undefined =>
  gap.target === null ? mainTarget(view, array.id) : view.table('target').get(gap.target);

/** The same as an operation, where one does. */
export function mendFor(view: EstateView, host: Host, array: ArrayRow, gap: MissingSession): NextStep | null {
  const port = view.table('port').get(gap.port)!;
  const from = view.table('interface').get(gap.interface)!;
  const target = gap.transport === 'iscsi' ? targetOf(view, gap, array) : undefined;
  const named = { array: array.name, ...(target ? { name: target.name } : {}) };
  switch (gap.reason) {
    case 'not-zoned': {
      const slip = slipOf(view, gap);
      const zone =
        slip &&
        view
          .table('zone')
          .by('name', nameKey(slip.zone.fabric, slip.zone.name))
          .find((one) => one.members.includes(slip.member));
      if (slip && zone)
        return step(
          'Correct the member',
          'zone.configure',
          {
            fabric: view.table('fabric').get(zone.fabric)?.name ?? '',
            name: zone.name,
            members: zone.members.map((one) => (one === slip.member ? `wwpn:${slip.near.known}` : one)),
          },
          'members',
        );
      const waiting = waitingSet(view, gap);
      if (waiting)
        return step(`Activate ${waiting.set}`, 'zone-set.activate', { fabric: waiting.fabric, zoneSet: waiting.set });
      return step('Join them', 'zoning.join', {
        fabric: view.table('fabric').get(gap.network ?? '')?.name ?? '',
        host: host.name,
        array: array.name,
      });
    }
    case 'initiator-unknown':
    case 'no-initiator': {
      const sent = { fc: from.wwpn, iscsi: host.presents, 'nvme-tcp': host.nqn }[gap.transport];
      const form = ({ fc: 'wwn', iscsi: 'iscsi', 'nvme-tcp': 'nqn' } as const)[gap.transport];
      const own = view.table('initiator').by('host', host.id);
      const onRecord = own.find(
        (row) => initiatorForm(row.name) === form && !view.table('interface').by('wwpn', row.name)[0],
      );
      if (!sent) return step('Register an initiator', 'host.configure', { host: host.name }, 'initiators');
      return onRecord
        ? step('Correct the name', 'initiator.configure', {
            host: host.name,
            initiator: onRecord.name,
            newName: initiatorText(sent),
          })
        : step('Put it on record', 'host.configure', {
            host: host.name,
            initiators: [...own.map((row) => initiatorText(row.name)), initiatorText(sent)],
          });
    }
    case 'not-logged-in':
      return step('Log in', 'host.login', {
        host: host.name,
        array: array.name,
        ...(gap.target && target ? { target: target.name } : {}),
      });
    case 'not-discovered': {
      const set = [...view.table('domainSet').values()].find(
        (row) =>
          !row.enabled &&
          row.domains.some((id) =>
            view
              .table('discoveryDomain')
              .get(id)
              ?.members.includes(target?.iqn ?? ''),
          ),
      );
      return set
        ? step(`Enable ${set.name}`, 'domain-set.configure', { name: set.name, enabled: true })
        : step('Make a domain', 'discovery-domain.create', {
            name: host.name,
            members: [host.name, target ? targetText(view, target) : array.name],
          });
    }
    case 'target-disabled':
      return target ? step('Switch it on', 'target.configure', { ...named, enabled: true }, 'enabled') : null;
    case 'session-limit':
      return target ? step('Allow more sessions', 'target.configure', named, 'sessionLimit') : null;
    case 'address-family-differs':
      return step(
        'Set up the interface',
        'interface.configure',
        { host: host.name, interface: from.name },
        'addresses',
      );
    case 'access-none': {
      const grant = target && grantOf(target, { name: host.presents, host, from });
      if (target && grant?.level === 'none')
        return step(
          'Let it in',
          'target.configure',
          {
            ...named,
            exceptions: [
              ...target.rules.filter((rule) => rule.who !== host.presents && rule.who !== grant.by).map(ruleText),
              ...(grant.by !== null && grant.by !== host.presents && grant.by.toLowerCase() !== host.name.toLowerCase()
                ? target.rules.filter((rule) => rule.who === grant.by).map(ruleText)
                : []),
              `${host.presents ?? host.name} read-write`,
            ],
          },
          'exceptions',
        );
      const initiator = view
        .table('initiator')
        .by('host', host.id)
        .find((row) => row.name === host.presents);
      return initiator
        ? step('Grant access', 'initiator.configure', {
            host: host.name,
            initiator: initiator.name,
            array: array.name,
            access: 'read-write',
          })
        : null;
    }
    case 'chap-failed':
    case 'chap-mutual-failed':
      return step('Enter the secret', 'host.configure', { host: host.name }, 'chapSecret');
    case 'nqn-not-allowed': {
      const subsystem = gap.subsystem ? view.table('subsystem').get(gap.subsystem) : undefined;
      return subsystem && host.nqn
        ? step('Let it connect', 'subsystem.configure', {
            array: array.name,
            name: subsystem.name,
            allowed: [...subsystem.allowed, host.nqn],
          })
        : null;
    }
    case 'digest-none-common':
      return step('Set the digests', 'target.configure', named, 'headerDigest');
    case 'session-reinstated':
      return step('Set up the interface', 'interface.configure', { host: host.name, interface: from.name }, 'isid');
    case 'mtu-black-hole':
    case 'vlan-mismatch':
    case 'prefix-mismatch':
    case 'no-active-uplink':
    case 'many-active-uplinks':
      return step('Set up the interface', 'interface.configure', { host: host.name, interface: from.name });
    case 'port-role-off':
    case 'portal-without-address':
      return step('Set up the port', 'port.configure', { array: array.name, port: port.name });
    default:
      return null;
  }
}
