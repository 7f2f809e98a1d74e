import type { Isl, Switch } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { whole, type InParts } from '../units/in-parts';
import { fcDevices, loggedIn, type FcDevice } from './devices';
import { fabricRoutes, type Routes } from './routes';
import { memberForms, zoneBook, type ZoneBook } from './zoning';

/** Limits that are warned about. */
export const FAN_IN_LIMIT = 32;
export const FAN_OUT_LIMIT = 16;
export const ISL_RATIO_LIMIT = 7;

/** Pairs that are gone through in one go. */
const PAIRS_A_PART = 500;

export interface TrunkLoad {
  a: Switch;
  b: Switch;
  links: Isl[];
  /** Gb/s of edge ports whose traffic crosses, the smaller side of initiators and targets, and of the links that are up. */
  crossing: number;
  carries: number;
  ratio: number;
}

/** Who may talk to whom, by initiator. */
export interface Talkers {
  devices: FcDevice[];
  pairs: { initiator: FcDevice; target: FcDevice }[];
  routes: Routes;
}

/** Who may talk to whom, for the devices that are logged in. */
export const talkers = (view: EstateView): Talkers => whole(talkersInParts(view));

/** The same an initiator at a time. */
export function* talkersInParts(view: EstateView): InParts<Talkers> {
  const devices = fcDevices(view);
  const routes = fabricRoutes(view);
  const books = new Map<string, ZoneBook>();
  const book = (fabric: string) => {
    let found = books.get(fabric);
    if (!found) books.set(fabric, (found = zoneBook(view, fabric)));
    return found;
  };
  const present = devices.filter((device) => device.fabric !== null && loggedIn(device));
  const targets = present.filter((device) => device.role === 'target');
  const byForm = new Map<string, FcDevice[]>();
  for (const target of targets)
    for (const form of memberForms(target)) {
      const key = `${target.fabric} ${form}`;
      const known = byForm.get(key);
      if (known) known.push(target);
      else byForm.set(key, [target]);
    }
  /** Targets an initiator may talk to, found by the members of its zones rather than by asking every target. */
  const met = (initiator: FcDevice): readonly FcDevice[] => {
    const partners = book(initiator.fabric!).partners(initiator);
    if (partners === null)
      return targets.filter(
        (target) => target.fabric === initiator.fabric && book(initiator.fabric!).mayTalk(initiator, target),
      );
    return [...new Set([...partners].flatMap((form) => byForm.get(`${initiator.fabric} ${form}`) ?? []))];
  };
  const pairs: Talkers['pairs'] = [];
  for (const initiator of present) {
    if (initiator.role !== 'initiator') continue;
    yield;
    for (const target of met(initiator))
      if (routes.hops(initiator.switch!.id, target.switch!.id) !== null) pairs.push({ initiator, target });
  }
  return { devices, pairs, routes };
}

/**
 * Oversubscription of the links between each two neighbouring switches: speed of the edge ports whose traffic crosses them, the smaller of
 * initiators and targets, over the speed of the links that are up.
 */
export const trunkLoads = (view: EstateView, known = talkers(view)): TrunkLoad[] =>
  whole(trunkLoadsInParts(view, known));

/** The same some pairs at a time. */
export function* trunkLoadsInParts(view: EstateView, known: Talkers): InParts<TrunkLoad[]> {
  const groups = new Map<string, Isl[]>();
  for (const isl of view.table('isl').values()) {
    const key = [isl.a, isl.b].sort().join(' ');
    groups.set(key, [...(groups.get(key) ?? []), isl]);
  }
  const crossing = new Map<string, { initiators: Map<string, number>; targets: Map<string, number> }>();
  for (const [k, { initiator, target }] of known.pairs.entries()) {
    if (k % PAIRS_A_PART === 0) yield;
    for (const isl of known.routes.shortest(initiator.switch!.id, target.switch!.id)) {
      const key = [isl.a, isl.b].sort().join(' ');
      const group = crossing.get(key) ?? { initiators: new Map<string, number>(), targets: new Map<string, number>() };
      group.initiators.set(initiator.id, initiator.speed);
      group.targets.set(target.id, target.speed);
      crossing.set(key, group);
    }
  }
  const sum = (speeds: Iterable<number>) => [...speeds].reduce((total, speed) => total + speed, 0);
  return [...groups].map(([key, links]) => {
    const group = crossing.get(key);
    const crosses = group ? Math.min(sum(group.initiators.values()), sum(group.targets.values())) : 0;
    const carries = sum(links.filter((isl) => isl.state === 'up').map((isl) => isl.speed));
    return {
      a: view.table('switch').get(links[0]!.a)!,
      b: view.table('switch').get(links[0]!.b)!,
      links,
      crossing: crosses,
      carries,
      ratio: carries === 0 ? 0 : crosses / carries,
    };
  });
}
