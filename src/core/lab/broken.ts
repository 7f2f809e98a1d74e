import type { EstateView } from '../estate/estate';
import { agentFaults, componentName, figures, type FaultKind } from './fault-kinds';

export interface Fault {
  kind: FaultKind;
  component: string;
  /** `lintel-1 drive 1:3` */
  name: string;
  state: string;
  /** `expects to fail` */
  says: string;
  /** The shape that shows it in the drawing. */
  post: 'broken' | 'leans' | 'in work' | 'absent';
}

/** Shapes of what is not simply broken. */
const posts: { readonly [K in FaultKind]?: Fault['post'] } = { 'drive-predicted': 'leans', 'drive-missing': 'absent' };
/** Faults of drives by their state; the others have failed. */
const driveFaults: { readonly [state: string]: FaultKind } = { missing: 'drive-missing', predicted: 'drive-predicted' };

/** Everything that is broken now, or at work because it was. */
export function faults(view: EstateView): Fault[] {
  const found: Fault[] = [];
  const add = (kind: FaultKind, row: { id: string; state: string }) =>
    found.push({
      kind,
      component: row.id,
      name: componentName(view, kind, row.id),
      state: row.state,
      says: row.state === 'rebuilding' ? 'is being rebuilt' : figures[kind].said,
      post: row.state === 'rebuilding' ? 'in work' : (posts[kind] ?? 'broken'),
    });
  for (const drive of view.table('drive').values()) {
    if (drive.state === 'ok') continue;
    add(driveFaults[drive.state] ?? 'drive-failed', drive);
  }
  for (const kind of [
    'enclosure-down',
    'port-down',
    'controller-down',
    'interface-down',
    'switch-down',
    'isl-down',
    'network-down',
    'site-link-down',
    'witness-down',
  ] as const)
    for (const row of view.table(figures[kind].table).values()) if (row.state === 'down') add(kind, row);
  for (const { id, agent } of view.table('host').values())
    for (const kind of agentFaults) if (figures[kind].state === agent) add(kind, { id, state: agent });
  for (const { id, slow, lossy } of view.table('siteLink').values()) {
    if (slow) add('site-link-slow', { id, state: 'slow' });
    if (lossy) add('site-link-lossy', { id, state: 'lossy' });
  }
  for (const { id, clockOff } of view.table('array').values())
    if (clockOff !== 0) add('clock-jump', { id, state: 'ahead' });
  return found;
}
