import type { HostInterface, Target } from '../../estate/entities';
import { isidOf, reinstated } from '../../iscsi/isid';
import { nameServerUp, seesByIsns } from '../../iscsi/isns';
import { disabledRefusal, loginRefusal, nameRefusal } from '../../iscsi/login';
import { asksForAddresses, portalsOf, portalTexts, targetsOf, targetText } from '../../iscsi/target';
import { wasTold } from '../told';
import type { IpMeetings } from './over-ip';
import { Gathered, type Refused, type Sessions } from './session';
import { shareOut } from './share-out';
import { remembered, type Door, type Surroundings } from './surroundings';
import { volumeOf } from '../../estate/relations';

/** Whether a port would belong to a target if it served iSCSI: who logs in there is told that it does not. */
const mayServe = (target: Target, { port }: Door): boolean =>
  port.kind === 'ethernet' && (target.portals === null || target.portals.some((portal) => portal.port === port.id));

/** How a host meets the targets of an array. */
export function iscsiMeetings({ view, doors, guests, mayLogIn }: Surroundings, overIp: IpMeetings) {
  const targets = remembered((array) =>
    targetsOf(view, array).map((target) => {
      const portals = portalsOf(view, target);
      const at = new Set(portals.map(({ port }) => port.id));
      return { target, portals, doors: doors(array).filter((door) => at.has(door.port.id) || mayServe(target, door)) };
    }),
  );
  type Listening = ReturnType<typeof targets>[number];

  /** How a host meets a target, whatever others take of its sessions. */
  const meetTarget = (host: string, listening: Listening): Sessions => {
    const { target, portals, doors: all } = listening;
    const result = new Gathered();
    const { host: guest, ethernet } = guests(host);
    if (ethernet.length === 0) return result;
    const isns = guest.discovery === 'isns' && guest.presents !== null;
    let offering = all;
    let hidden: Refused | null = null;
    if (isns) {
      const seen =
        nameServerUp(view) && target.isns
          ? seesByIsns(view, guest.presents!, target.iqn, portalTexts(portals))
          : { visible: false, portals: null, wouldHelp: [], domains: [] };
      const { portals: offered } = seen;
      if (offered) {
        const shown = new Set(
          portals
            .filter((portal) => portalTexts([portal]).some((text) => offered.includes(text)))
            .map(({ port }) => port.id),
        );
        offering = offering.filter((door) => shown.has(door.port.id));
      }
      if (!seen.visible)
        hidden = {
          reason: 'not-discovered',
          message: nameServerUp(view)
            ? `No enabled domain set holds ${guest.name} and ${targetText(view, target)}${seen.domains[0] ? `: domain ${seen.domains[0]} does, and ${seen.wouldHelp[0] ? `its set ${seen.wouldHelp[0]} is off` : 'is in no set'}` : ''}.`
            : 'The name server does not answer.',
        };
    }
    if (!hidden && !mayLogIn(guest, target.array, target.id))
      hidden = {
        reason: 'not-logged-in',
        message: `${guest.name} was not told to log in at ${targetText(view, target)}.`,
      };
    const ask = (from?: HostInterface): Refused | null =>
      nameRefusal(view, guest, target, from) ?? hidden ?? loginRefusal(view, guest, target, from);
    const alike = asksForAddresses(target) ? null : { answer: ask() };
    overIp(
      offering,
      ethernet,
      {
        role: 'iscsi',
        target: target.main ? null : target.id,
        subsystem: null,
        closed: disabledRefusal(view, target),
        refused: (from) => (alike ? alike.answer : ask(from)),
      },
      result,
    );
    return ethernet.some((row) => row.isid !== null) ? pushedOut(result, ethernet, listening) : result;
  };

  /** Interfaces that bear one ISID push each other's sessions out (RFC 7143 §6.3.5, session reinstatement). */
  const pushedOut = (met: Gathered, ethernet: readonly HostInterface[], { target, portals }: Listening): Gathered => {
    const groups = new Map(portals.map(({ port, group }) => [port.id, group]));
    const isids = new Map(ethernet.map((row) => [row.id, isidOf(row)]));
    const sessions = met.up.map((session) => ({
      session,
      from: session.interface,
      group: groups.get(session.port) ?? 0,
      isid: isids.get(session.interface) ?? '',
    }));
    const out = reinstated(sessions);
    const result = new Gathered();
    result.missing.push(...met.missing);
    result.later.push(() => met.apart);
    for (const one of sessions)
      if (out.has(one))
        result.missing.push({
          ...one.session,
          reason: 'session-reinstated',
          message: `A later login at ${targetText(view, target)} with the same ISID, 0x${one.isid}, takes the place of this session`,
        });
      else result.up.push(one.session);
    return result;
  };

  /** Sessions that a target with too few gives each host, by name; null where it takes all. */
  const taken = remembered((id): { by: Map<string, number> | null } => {
    const target = view.table('target').get(id)!;
    if (target.sessionLimit === null) return { by: null };
    const listening = targets(target.array).find((one) => one.target.id === id)!;
    const shows = (mapping: { target: string | null; subsystem: string | null; volume: string }): boolean =>
      mapping.subsystem === null &&
      mapping.target === (target.main ? null : id) &&
      volumeOf(view, mapping).array === target.array;
    const asking = [...view.table('host').values()].filter(
      (host) =>
        wasTold(view, host, target.array, id) ||
        (host.autoLogin && view.table('mapping').by('host', host.id).some(shows)),
    );
    return { by: shareOut(asking, target.sessionLimit, (host) => meetTarget(host, listening).up.length) };
  });

  return (host: string, array: string, result: Gathered): void => {
    for (const listening of targets(array)) {
      const { target } = listening;
      const met = meetTarget(host, listening);
      // A host that has nothing to log in for is not counted, and gets no session where the last ones are given to others.
      const most = taken(target.id).by === null ? met.up.length : (taken(target.id).by!.get(host) ?? 0);
      result.up.push(...met.up.slice(0, most));
      result.missing.push(
        ...met.missing,
        ...met.up.slice(most).map((session) => ({
          ...session,
          reason: 'session-limit' as const,
          status: '0302' as const,
          message: `Out of resources (0302): ${targetText(view, target)} has all of its ${target.sessionLimit} sessions`,
        })),
      );
      result.later.push(() => met.apart);
    }
  };
}
