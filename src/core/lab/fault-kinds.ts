import type { Drive } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, hostOf } from '../estate/relations';
import { driveRef } from '../operation/inquiry';
import { componentsOf, type ComponentClass } from '../whatif/components';

export const faultKinds = [
  'drive-failed',
  'drive-predicted',
  'drive-missing',
  'enclosure-down',
  'port-down',
  'controller-down',
  'interface-down',
  'adapter-down',
  'switch-down',
  'isl-down',
  'network-down',
  'array-down',
  'agent-absent',
  'agent-slow',
  'agent-silent',
  'clock-jump',
  'site-link-down',
  'site-link-slow',
  'site-link-lossy',
  'witness-down',
  'site-down',
] as const;
export type FaultKind = (typeof faultKinds)[number];

/** The kind of row each fault befalls, the state it puts it in, and how that is said. */
export const figures = {
  'drive-failed': { table: 'drive', state: 'failed', said: 'has failed', component: 'drive' },
  'drive-predicted': { table: 'drive', state: 'predicted', said: 'expects to fail', component: 'drive' },
  'drive-missing': { table: 'drive', state: 'missing', said: 'is missing', component: 'drive' },
  'enclosure-down': { table: 'enclosure', state: 'down', said: 'does not answer', component: 'enclosure' },
  'port-down': { table: 'port', state: 'down', said: 'is down', component: 'array port' },
  'controller-down': { table: 'controller', state: 'down', said: 'is down', component: 'controller' },
  'interface-down': { table: 'interface', state: 'down', said: 'is down', component: 'host port' },
  'switch-down': { table: 'switch', state: 'down', said: 'is down', component: 'switch' },
  'isl-down': { table: 'isl', state: 'down', said: 'is down', component: 'inter-switch link' },
  'network-down': { table: 'network', state: 'down', said: 'is down', component: 'network' },
  // These two fall with all their parts, which then are listed one by one.
  'adapter-down': { table: 'interface', state: 'down', said: 'is down', component: 'host card' },
  'array-down': { table: 'array', state: 'down', said: 'is down', component: 'array' },
  'agent-absent': { table: 'host', state: 'absent', said: 'does not answer', component: 'agent' },
  'agent-slow': { table: 'host', state: 'slow', said: 'takes too long to pause its application', component: 'agent' },
  'agent-silent': {
    table: 'host',
    state: 'silent',
    said: 'never tells that its application goes on',
    component: 'agent',
  },
  'site-link-down': { table: 'siteLink', state: 'down', said: 'is down', component: 'link between sites' },
  'site-link-slow': {
    table: 'siteLink',
    state: 'slow',
    said: 'brings a tenth through, five times as slowly',
    component: 'link between sites',
  },
  'site-link-lossy': {
    table: 'siteLink',
    state: 'lossy',
    said: 'loses 1 % of its segments',
    component: 'link between sites',
  },
  'witness-down': { table: 'witness', state: 'down', said: 'is down', component: 'witness' },
  'site-down': { table: 'site', state: 'down', said: 'is down', component: 'site' },
  'clock-jump': { table: 'array', state: 'ahead', said: 'is 90 days ahead', component: 'clock' },
} as const;
export const wholes: Partial<Record<FaultKind, ComponentClass>> = {
  'adapter-down': 'adapter',
  'array-down': 'array',
  'site-link-down': 'site-link',
  'site-down': 'site',
};

/** What ails a line that is up. */
export const ailments = { 'site-link-slow': 'slow', 'site-link-lossy': 'lossy' } as const;
export const isAilment = (kind: FaultKind): kind is keyof typeof ailments => Object.hasOwn(ailments, kind);

export const agentFaults = ['agent-absent', 'agent-slow', 'agent-silent'] as const;
export type AgentFault = (typeof agentFaults)[number];
export const isAgentFault = (kind: FaultKind): kind is AgentFault => (agentFaults as readonly string[]).includes(kind);

export const faultTable = (kind: FaultKind) => figures[kind].table;

/** What befalls it, as people name it. */
export function componentName(view: EstateView, kind: FaultKind, id: string): string {
  const { table } = figures[kind];
  if (kind === 'clock-jump') return `clock of ${view.table('array').get(id)?.name ?? id}`;
  if (wholes[kind] && table !== 'siteLink') return componentsOf(view).get(id)?.name ?? id;
  if (table === 'witness') return `witness ${view.table('witness').get(id)?.name ?? id}`;
  if (table === 'switch' || table === 'isl' || table === 'siteLink' || table === 'network' || table === 'array') {
    const row = view.table(table).get(id);
    return row ? `${table === 'isl' || table === 'siteLink' ? 'link' : table} ${row.name}` : id;
  }
  if (table === 'interface') {
    const row = view.table('interface').get(id);
    return row ? `${row.host ? hostOf(view, row)?.name : 'unclaimed'} ${row.name}` : id;
  }
  if (table === 'host') return `agent at ${view.table('host').get(id)?.name ?? id}`;
  if (table === 'site') return view.table('site').get(id)?.name ?? id;
  const row = view.table(table).get(id);
  if (!row) return id;
  const array = arrayOf(view, row).name;
  if (table === 'drive') return `${array} drive ${driveRef(view, row as Drive)}`;
  if (table === 'enclosure') return `${array} enclosure ${(row as { number: number }).number}`;
  return `${array} ${table} ${(row as { name: string }).name}`;
}
