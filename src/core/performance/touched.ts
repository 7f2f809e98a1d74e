import type { Effect } from '../estate/effects';
import type { Kind } from '../estate/entities';

/** Kinds of which any change may move load to another place. */
const all: ReadonlySet<Kind> = new Set<Kind>([
  'array',
  'controller',
  'port',
  'interface',
  'host',
  'drive',
  'raidGroup',
  'pool',
  'mapping',
  'loadLimit',
  'limitUse',
  'allotmentUse',
  'isl',
  'switch',
  'fabric',
  'activeZone',
  'target',
  'subsystem',
  'access',
  'login',
  'initiator',
  'network',
  'cluster',
]);

/** Fields of the others that do. */
const some: { readonly [K in Kind]?: readonly string[] } = {
  volume: ['activity', 'owner', 'pool', 'workload', 'deletedAt', 'size', 'name'],
  hostDevice: ['state', 'selector', 'weights', 'current', 'volume'],
  job: ['rate', 'paused', 'raidGroup', 'pool'],
  replication: ['state', 'mode', 'source', 'primaries', 'secondaries', 'link', 'stretch'],
  move: ['state', 'mode', 'held', 'twin'],
  outsideLun: ['front', 'drive'],
  siteLink: ['state', 'name', 'bitsPerS', 'rtt', 'km', 'loss', 'slow', 'lossy', 'networks', 'isls'],
};

/** Whether effects may change what replications and moves carry. */
export const touchesCarried = (effects: readonly Effect[]): boolean =>
  effects.some(
    (effect) =>
      (effect.kind === 'replication' && effect.before?.carrying !== effect.after?.carrying) ||
      (effect.kind === 'move' && effect.before?.round !== effect.after?.round),
  );

/** Whether effects may change the model of the load. Growing data alone does not: where it lies is looked at anew once a day. */
export const touchesLoad = (effects: readonly Effect[]): boolean =>
  effects.some(({ kind, before, after }) => {
    if (all.has(kind)) return true;
    const fields = some[kind];
    if (!fields) return false;
    if (before === null || after === null) return true;
    return fields.some(
      (field) =>
        JSON.stringify((before as Record<string, unknown>)[field]) !==
        JSON.stringify((after as Record<string, unknown>)[field]),
    );
  });
