/** The two sides of a replication: where the first source lies, and the other. */
export type Side = 'P' | 'S';

export const replicationStates = [
  'DEFINED',
  'COPYING',
  'PROTECTED',
  'PAUSED',
  'BROKEN',
  'SWITCHING',
  'FAILED_OVER',
  'REMOVED',
] as const;
export type ReplicationState = (typeof replicationStates)[number];

/** Whether hosts may write at a side. */
export type HostAccess = 'yes' | 'no' | 'unknown';

export interface Roles {
  state: ReplicationState;
  source: Side;
  link: 'up' | 'down';
  sites: Readonly<Record<Side, 'up' | 'down'>>;
  /** The target holds a consistent image. */
  image: boolean;
  drill: boolean;
  access: Readonly<Record<Side, HostAccess>>;
}

export const definedRoles: Roles = {
  state: 'DEFINED',
  source: 'P',
  link: 'up',
  sites: { P: 'up', S: 'up' },
  image: false,
  drill: false,
  access: { P: 'yes', S: 'no' },
};

/** What happens to a replication. A confirmation counts only where it is given as true. */
export interface RoleEvent {
  e: string;
  /** Of a site that is lost or comes back. */
  site?: Side;
  sizeEqual?: boolean;
  targetHasData?: boolean;
  confirmOverwrite?: boolean;
  confirmHostsStopped?: boolean;
  sourceStopped?: boolean;
  confirmDataLoss?: boolean;
  confirmSourceFenced?: boolean;
  confirmDiscard?: boolean;
  confirmRemove?: boolean;
}

const other = (side: Side): Side => (side === 'P' ? 'S' : 'P');
export const targetOf = ({ source }: Roles): Side => other(source);
/** Link and both sites are up. */
export const reach = ({ link, sites }: Roles): boolean => link === 'up' && sites.P === 'up' && sites.S === 'up';

type Guard = readonly [holds: boolean, refusal: string];
interface RoleRule {
  guards: (roles: Roles, event: RoleEvent) => readonly Guard[];
  effect: (roles: Roles, event: RoleEvent) => Partial<Roles>;
}

const reachable = (roles: Roles): Guard => [reach(roles), 'replication-peer-unreachable'];
const within = (roles: Roles, states: readonly ReplicationState[], refusal: string): Guard => [
  states.includes(roles.state),
  refusal,
];
const notSwitching = ({ state }: Roles): Guard => [state !== 'SWITCHING', 'replication-busy'];
const access = (roles: Roles, source: HostAccess, target: HostAccess): Roles['access'] =>
  roles.source === 'P' ? { P: source, S: target } : { P: target, S: source };
const none = (): readonly Guard[] => [];

/** The table of protect.md K: what must hold, tested in this order, and what becomes of it. */
const rules: Readonly<Record<string, RoleRule>> = {
  start: {
    guards: (r, { sizeEqual, targetHasData, confirmOverwrite }) => [
      within(r, ['DEFINED'], 'replication-already-started'),
      reachable(r),
      [sizeEqual !== false, 'replication-size-differs'],
      [targetHasData !== true || confirmOverwrite === true, 'replication-target-not-empty'],
    ],
    effect: () => ({ state: 'COPYING' }),
  },
  copied: {
    guards: (r) => [within(r, ['COPYING'], 'replication-not-copying')],
    effect: () => ({ state: 'PROTECTED', image: true }),
  },
  pause: {
    guards: (r) => [within(r, ['PROTECTED', 'COPYING'], 'replication-not-active')],
    effect: () => ({ state: 'PAUSED' }),
  },
  resume: {
    guards: (r) => [within(r, ['PAUSED'], 'replication-not-paused'), reachable(r)],
    effect: () => ({ state: 'COPYING' }),
  },
  switch: {
    guards: (r, { confirmHostsStopped }) => [
      within(r, ['PROTECTED'], 'replication-not-protected'),
      [confirmHostsStopped === true, 'replication-confirm-hosts-stopped'],
    ],
    effect: () => ({ state: 'SWITCHING', access: { P: 'no', S: 'no' } }),
  },
  switched: {
    guards: (r) => [within(r, ['SWITCHING'], 'replication-not-switching')],
    effect: (r) => ({ state: 'PROTECTED', source: targetOf(r), access: access(r, 'no', 'yes') }),
  },
  switchFailed: {
    guards: (r) => [within(r, ['SWITCHING'], 'replication-not-switching')],
    effect: (r) => ({ state: 'PROTECTED', access: access(r, 'yes', 'no') }),
  },
  failover: {
    guards: (r, { sourceStopped, confirmDataLoss, confirmSourceFenced }) => [
      [r.state !== 'FAILED_OVER', 'replication-already-failed-over'],
      notSwitching(r),
      [r.sites[targetOf(r)] === 'up', 'replication-target-unreachable'],
      [r.image, 'replication-no-consistent-image'],
      [!reach(r) || sourceStopped === true, 'replication-source-alive-use-switch'],
      [confirmDataLoss === true, 'replication-confirm-data-loss'],
      [reach(r) || confirmSourceFenced === true, 'replication-confirm-source-fenced'],
    ],
    effect: (r) => ({ state: 'FAILED_OVER', access: access(r, reach(r) ? 'no' : 'unknown', 'yes') }),
  },
  reverse: {
    guards: (r, { confirmDiscard }) => [
      within(r, ['FAILED_OVER'], 'replication-not-failed-over'),
      reachable(r),
      [confirmDiscard === true, 'replication-confirm-discard-old-source'],
    ],
    effect: (r) => ({ state: 'COPYING', source: targetOf(r), access: access(r, 'no', 'yes'), image: false }),
  },
  undo: {
    guards: (r, { confirmDiscard }) => [
      within(r, ['FAILED_OVER'], 'replication-not-failed-over'),
      reachable(r),
      [confirmDiscard === true, 'replication-confirm-discard-recovery-site'],
    ],
    effect: (r) => ({ state: 'COPYING', access: access(r, 'yes', 'no') }),
  },
  drillStart: {
    guards: (r) => [
      notSwitching(r),
      [!r.drill, 'replication-drill-active'],
      [r.image, 'replication-no-consistent-image'],
    ],
    effect: () => ({ drill: true }),
  },
  drillStop: {
    guards: (r) => [[r.drill, 'replication-no-drill']],
    effect: () => ({ drill: false }),
  },
  remove: {
    guards: (r, { confirmRemove }) => [
      notSwitching(r),
      [!r.drill, 'replication-drill-active'],
      [confirmRemove === true, 'replication-confirm-remove'],
    ],
    effect: () => ({ state: 'REMOVED' }),
  },
  linkLost: { guards: none, effect: () => ({ link: 'down' }) },
  linkBack: { guards: none, effect: () => ({ link: 'up' }) },
  siteLost: { guards: none, effect: (r, { site }) => ({ sites: { ...r.sites, [site!]: 'down' } }) },
  siteBack: { guards: none, effect: (r, { site }) => ({ sites: { ...r.sites, [site!]: 'up' } }) },
};

/** What merely happens, and cannot be refused. */
const happens = ['linkLost', 'linkBack', 'siteLost', 'siteBack'];

/** What follows by itself from how both sides are reached. */
function followed(roles: Roles): Roles {
  const reached = reach(roles);
  const { state } = roles;
  let next = roles;
  if (!reached && (state === 'PROTECTED' || state === 'COPYING')) next = { ...next, state: 'BROKEN' };
  if (!reached && state === 'SWITCHING') next = { ...next, state: 'BROKEN', access: access(roles, 'yes', 'no') };
  if (reached && state === 'BROKEN') next = { ...next, state: 'COPYING' };
  if (!reached) return next;
  const known = (one: HostAccess): HostAccess => (one === 'unknown' ? 'no' : one);
  return { ...next, access: { P: known(next.access.P), S: known(next.access.S) } };
}

/** What an event does to a replication; a refused one changes nothing. */
export function roleStep(roles: Roles, event: RoleEvent): { roles: Roles; refusal: string | null } {
  const rule = Object.hasOwn(rules, event.e) ? rules[event.e] : undefined;
  const refuse = (refusal: string) => ({ roles, refusal });
  if (roles.state === 'REMOVED' && !happens.includes(event.e)) return refuse('replication-removed');
  if (!rule || (event.e.startsWith('site') && event.site !== 'P' && event.site !== 'S'))
    return refuse('replication-unknown-event');
  const failed = rule.guards(roles, event).find(([holds]) => !holds);
  if (failed) return refuse(failed[1]);
  return { roles: followed({ ...roles, ...rule.effect(roles, event) }), refusal: null };
}

/** A replication after some events, and what was said to each: `ok`, or why it was refused. Never do hosts write at both sides. */
export function replicationRoles({ events }: { events: readonly RoleEvent[] }): {
  state: ReplicationState;
  source: Side;
  hostAccess: Readonly<Record<Side, HostAccess>>;
  drill: boolean;
  consistentImage: boolean;
  log: string[];
} {
  let roles = definedRoles;
  const log: string[] = [];
  for (const event of events) {
    const step = roleStep(roles, event);
    roles = step.roles;
    log.push(step.refusal ?? 'ok');
  }
  const { state, source, access: hostAccess, drill, image } = roles;
  return { state, source, hostAccess, drill, consistentImage: image, log };
}
