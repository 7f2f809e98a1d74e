import type { Replication, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, siteOf } from '../estate/relations';
import { arrayAnswers, volumeHealth } from '../volume/health';
import {
  definedRoles,
  reach,
  targetOf,
  type ReplicationState,
  type RoleEvent,
  type Roles,
  roleStep,
  type Side,
} from './roles';
import { unpartneredWhy } from './partners';

/** The roles of a replication as its row has them. */
export const rolesOf = (row: Replication): Roles => ({
  ...definedRoles,
  state: row.state.toUpperCase().replace('-', '_') as ReplicationState,
  source: row.source,
  link: row.linkState,
  sites: { P: row.siteP, S: row.siteS },
  image: row.image,
  drill: row.drill,
  access: { P: row.accessP, S: row.accessS },
});

/** The fields of a row that say so. */
export const roleFields = ({ state, source, link, sites, image, drill, access }: Roles): Partial<Replication> => ({
  state: state.toLowerCase().replace('_', '-') as Replication['state'],
  source,
  linkState: link,
  siteP: sites.P,
  siteS: sites.S,
  image,
  drill,
  accessP: access.P,
  accessS: access.S,
});

const volumesAt = (view: EstateView, row: Replication, side: Side): Volume[] =>
  (side === 'P' ? row.primaries : row.secondaries).map((id) => view.table('volume').get(id)!);

export interface Sides {
  source: Volume[];
  target: Volume[];
  sourceSite: string;
  targetSite: string;
}

/** Where a replication comes from and where it leads, volume by volume. */
export function sidesOf(view: EstateView, row: Replication): Sides {
  const source = volumesAt(view, row, row.source);
  const target = volumesAt(view, row, targetOf(rolesOf(row)));
  const place = ([first]: Volume[]) => siteOf(view, arrayOf(view, first!)).name;
  return { source, target, sourceSite: place(source), targetSite: place(target) };
}

/** Arrays that a replication reads from and writes to. */
export function arraysUnder(view: EstateView, row: Replication): string[] {
  const { source, target } = sidesOf(view, row);
  return [...new Set([...source, ...target].map(({ array }) => array))];
}

/** The site of a side, as people name it. */
export const siteOfSide = (view: EstateView, row: Replication, side: Side): string =>
  siteOf(view, arrayOf(view, volumesAt(view, row, side)[0]!)).name;

/** Whether a side is up: its array answers. One of a stretched pair serves only what is there, too. */
export function answersAt(view: EstateView, row: Replication, side: Side): boolean {
  const health = row.stretch === null ? null : volumeHealth(view);
  return volumesAt(view, row, side).every(
    (volume) => arrayAnswers(view, volume.array) && (health === null || health(volume) !== 'lost'),
  );
}

/** Why the arrays of both sides do not copy to each other, though line and sites be up; null where they do. */
function apartWhy(view: EstateView, row: Replication): string | null {
  const arrays = (ids: readonly string[]) => [...new Set(ids.map((id) => view.table('volume').get(id)!.array))];
  for (const from of arrays(row.primaries))
    for (const to of arrays(row.secondaries)) {
      const why = unpartneredWhy(view, from, to);
      if (why) return why;
    }
  return null;
}

/** Whether anything goes over a replication's line: it is up, and the arrays at its ends agree. One that is down cannot be asked. */
export function lineState(view: EstateView, row: Replication): 'up' | 'down' {
  if (view.table('siteLink').get(row.link)!.state === 'down') return 'down';
  const asked = answersAt(view, row, 'P') && answersAt(view, row, 'S');
  return asked && apartWhy(view, row) !== null ? 'down' : 'up';
}

/** What has happened to a replication's line and sites since its row was written. */
export function happenedTo(view: EstateView, row: Replication): RoleEvent[] {
  const events: RoleEvent[] = [];
  for (const [site, was] of [
    ['P', row.siteP],
    ['S', row.siteS],
  ] as const) {
    const is = answersAt(view, row, site) ? 'up' : 'down';
    if (is !== was) events.push({ e: is === 'up' ? 'siteBack' : 'siteLost', site });
  }
  const line = lineState(view, row);
  if (line !== row.linkState) events.push({ e: line === 'up' ? 'linkBack' : 'linkLost' });
  return events;
}

/** A replication's roles as they are at this moment, whether or not its row knows yet. */
export const presentRoles = (view: EstateView, row: Replication): Roles =>
  happenedTo(view, row).reduce((roles, event) => roleStep(roles, event).roles, rolesOf(row));

/** Why both sides do not reach each other, in words; null where they do. */
export function unreachedWhy(view: EstateView, row: Replication): string | null {
  const roles = presentRoles(view, row);
  if (reach(roles)) return null;
  const link = view.table('siteLink').get(row.link)!;
  if (roles.link === 'down' && link.state === 'down') return `${link.name} is down`;
  if (roles.sites.P === 'up' && roles.sites.S === 'up') return apartWhy(view, row) ?? `${link.name} was down`;
  const side = roles.sites.P === 'down' ? 'P' : 'S';
  return `the array at ${siteOfSide(view, row, side)} does not answer`;
}
