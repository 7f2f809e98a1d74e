import type { ArrayRow, Host, HostInterface, Target } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { fabricOf, interfaceOf, portOf, subsystemOf, targetOf } from '../estate/relations';
import { initiatorForm, initiatorText } from '../attach/initiators';
import type { MissingSession } from '../attach/sessions';
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
  const ends = [interfaceOf(view, gap).wwpn, portOf(view, gap).wwpn];
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
  const wwpn = interfaceOf(view, gap).wwpn;
  if (!fabric || !set || !wwpn) return null;
  const holds = compareZones(view, set).some(
    (one) => one.what !== 'removed' && one.comes.some((member) => member.endsWith(wwpn)),
  );
  return holds ? { fabric: fabric.name, set: set.name } : null;
}

/** What a mend is worked out from: a pair of ports that does not meet. */
export interface Broken {
  view: EstateView;
  host: Host;
  array: ArrayRow;
  gap: MissingSession;
}

/** The operation that would let a pair of ports meet; null where none does by itself. */
export type Mend = (broken: Broken) => NextStep | null;

/** The iSCSI target that a pair was to meet at. */
function targetOfGap({ view, gap, array }: Broken): Target | undefined {
  if (gap.transport !== 'iscsi') return undefined;
  return gap.target === null ? mainTarget(view, array.id) : targetOf(view, gap);
}

const fromOf = ({ view, gap }: Broken): HostInterface => interfaceOf(view, gap);
const namedTarget = (broken: Broken) => {
  const target = targetOfGap(broken);
  return { array: broken.array.name, ...(target ? { name: target.name } : {}) };
};

export const joinInZone: Mend = ({ view, host, array, gap }) => {
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
        fabric: fabricOf(view, zone).name,
        name: zone.name,
        members: zone.members.map((one) => (one === slip.member ? `wwpn:${slip.near.known}` : one)),
      },
      'members',
    );
  const waiting = waitingSet(view, gap);
  if (waiting)
    return step(`Activate ${waiting.set}`, 'zone-set.activate', { fabric: waiting.fabric, zoneSet: waiting.set });
  const fabric = view.table('fabric').get(gap.network ?? '')?.name ?? '';
  return step('Join them', 'zoning.join', { fabric, host: host.name, array: array.name });
};

/** The name that a host really sends by a transport, and the form in which it stands on record. */
const sentBy = {
  fc: { form: 'wwn', of: (_host: Host, from: HostInterface) => from.wwpn },
  iscsi: { form: 'iscsi', of: (host: Host) => host.presents },
  'nvme-tcp': { form: 'nqn', of: (host: Host) => host.nqn },
} as const;

export const putOnRecord: Mend = (broken) => {
  const { view, host, gap } = broken;
  const { form, of } = sentBy[gap.transport];
  const sent = of(host, fromOf(broken));
  if (!sent) return step('Register an initiator', 'host.configure', { host: host.name }, 'initiators');
  const own = view.table('initiator').by('host', host.id);
  const onRecord = own.find(
    (row) => initiatorForm(row.name) === form && !view.table('interface').by('wwpn', row.name)[0],
  );
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
};

export const logIn: Mend = (broken) => {
  const target = targetOfGap(broken);
  return step('Log in', 'host.login', {
    host: broken.host.name,
    array: broken.array.name,
    ...(broken.gap.target && target ? { target: target.name } : {}),
  });
};

export const makeDiscoverable: Mend = (broken) => {
  const { view, host, array } = broken;
  const target = targetOfGap(broken);
  const holdsTarget = (domain: string) =>
    view
      .table('discoveryDomain')
      .get(domain)
      ?.members.includes(target?.iqn ?? '');
  const off = [...view.table('domainSet').values()].find((row) => !row.enabled && row.domains.some(holdsTarget));
  return off
    ? step(`Enable ${off.name}`, 'domain-set.configure', { name: off.name, enabled: true })
    : step('Make a domain', 'discovery-domain.create', {
        name: host.name,
        members: [host.name, target ? targetText(view, target) : array.name],
      });
};

export const switchTargetOn: Mend = (broken) =>
  targetOfGap(broken)
    ? step('Switch it on', 'target.configure', { ...namedTarget(broken), enabled: true }, 'enabled')
    : null;

export const allowMoreSessions: Mend = (broken) =>
  targetOfGap(broken) ? step('Allow more sessions', 'target.configure', namedTarget(broken), 'sessionLimit') : null;

export const letIn: Mend = (broken) => {
  const { view, host, array } = broken;
  const target = targetOfGap(broken);
  const grant = target && grantOf(target, { name: host.presents, host, from: fromOf(broken) });
  if (target && grant?.level === 'none')
    return step('Let it in', 'target.configure', lettingIn(broken, target, grant.by), 'exceptions');
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
};

/** The rules of a target with one more for the host, before the one by which it is kept out. */
function lettingIn(broken: Broken, { rules }: Target, by: string | null) {
  const { host } = broken;
  const own = (who: string | null) => who === host.presents || who?.toLowerCase() === host.name.toLowerCase();
  const barring = by !== null && !own(by) ? rules.filter((rule) => rule.who === by) : [];
  const others = rules.filter((rule) => rule.who !== host.presents && rule.who !== by);
  return {
    ...namedTarget(broken),
    exceptions: [...others.map(ruleText), ...barring.map(ruleText), `${host.presents ?? host.name} read-write`],
  };
}

export const enterSecret: Mend = ({ host }) =>
  step('Enter the secret', 'host.configure', { host: host.name }, 'chapSecret');

export const letConnect: Mend = ({ view, host, array, gap }) => {
  const subsystem = subsystemOf(view, gap);
  return subsystem && host.nqn
    ? step('Let it connect', 'subsystem.configure', {
        array: array.name,
        name: subsystem.name,
        allowed: [...subsystem.allowed, host.nqn],
      })
    : null;
};

export const setDigests: Mend = (broken) =>
  step('Set the digests', 'target.configure', namedTarget(broken), 'headerDigest');

/** The interface's own form, at a field where one is meant. */
export const setUpInterface =
  (field?: string): Mend =>
  (broken) =>
    step(
      'Set up the interface',
      'interface.configure',
      { host: broken.host.name, interface: fromOf(broken).name },
      field,
    );

export const setUpPort: Mend = ({ view, array, gap }) =>
  step('Set up the port', 'port.configure', { array: array.name, port: portOf(view, gap).name });
