import { idFor } from '../estate/entities';
import { changed, created, deleted, type Effect } from '../estate/effects';
import type { EstateView } from '../estate/estate';
import { driveRef } from '../operation/inquiry';
import type { Refusal } from '../operation/refusal';
import { groupHealth } from '../raid/health';
import { BUILD_SHARE, mediaFigures } from '../raid/media';
import { SECOND, type Milliseconds } from '../units/duration';
import { hexFrom } from '../estate/random';

export const faultKinds = ['drive-failed', 'port-down', 'controller-down', 'interface-down'] as const;
export type FaultKind = (typeof faultKinds)[number];

export const faultWords: Record<FaultKind, { set: string; component: string }> = {
  'drive-failed': { set: 'failed', component: 'drive' },
  'port-down': { set: 'down', component: 'array port' },
  'controller-down': { set: 'down', component: 'controller' },
  'interface-down': { set: 'down', component: 'host interface' },
};

export interface Fault {
  kind: FaultKind;
  component: string;
  /** `lintel-1 drive 1:3` */
  name: string;
  state: string;
}

const tableOf = {
  'drive-failed': 'drive',
  'port-down': 'port',
  'controller-down': 'controller',
  'interface-down': 'interface',
} as const;

/** Everything that is broken now. */
export function faults(view: EstateView): Fault[] {
  const found: Fault[] = [];
  for (const kind of faultKinds)
    for (const row of view.table(tableOf[kind]).values()) {
      if (row.state === 'ok' || row.state === 'up') continue;
      found.push({ kind, component: row.id, name: componentName(view, kind, row.id), state: row.state });
    }
  return found;
}

export function componentName(view: EstateView, kind: FaultKind, id: string): string {
  const array = (row: { array: string }) => view.table('array').get(row.array)?.name ?? '';
  if (kind === 'drive-failed') {
    const drive = view.table('drive').get(id);
    return drive ? `${array(drive)} drive ${driveRef(view, drive)}` : id;
  }
  if (kind === 'port-down') {
    const port = view.table('port').get(id);
    return port ? `${array(port)} port ${port.name}` : id;
  }
  if (kind === 'controller-down') {
    const controller = view.table('controller').get(id);
    return controller ? `${array(controller)} controller ${controller.name}` : id;
  }
  const row = view.table('interface').get(id);
  return row ? `${view.table('host').get(row.host)?.name} ${row.name}` : id;
}

type FaultResult = { ok: true; effects: Effect[]; said: string } | { ok: false; refusals: Refusal[] };

const no = (kind: FaultKind, id: string, code: string, message: string, mend: string): FaultResult => ({
  ok: false,
  refusals: [{ code, subject: { kind: tableOf[kind], id, name: id }, message, mend }],
});

/** Breaks a component. */
export function setFault(view: EstateView, kind: FaultKind, id: string): FaultResult {
  const row = view.table(tableOf[kind]).get(id);
  if (!row)
    return no(
      kind,
      id,
      'component-unknown',
      `There is no ${faultWords[kind].component} ${id}.`,
      'Name a component by its id.',
    );
  const name = componentName(view, kind, id);
  if (row.state === 'failed' || row.state === 'down')
    return no(kind, id, 'fault-set', `${name} is ${row.state} already.`, 'Clear that fault first.');
  if (kind !== 'drive-failed')
    return {
      ok: true,
      effects: [changed(tableOf[kind], row as never, { state: 'down' } as never)],
      said: `${name} is down`,
    };
  const drive = view.table('drive').get(id)!;
  const rebuild = view
    .table('job')
    .by('drive', id)
    .map((job) => deleted('job', job));
  return { ok: true, effects: [...rebuild, changed('drive', drive, { state: 'failed' })], said: `${name} has failed` };
}

/** Time to write a returned member again from the others. */
export function rebuildTime(
  view: EstateView,
  drive: { id: string; media: keyof typeof mediaFigures; raidGroup: string | null },
): Milliseconds {
  const group = drive.raidGroup ? view.table('raidGroup').get(drive.raidGroup) : undefined;
  if (!group) return 0;
  return Math.ceil(group.memberSize / (mediaFigures[drive.media].writeMBps * 1e6 * BUILD_SHARE)) * SECOND;
}

/**
 * Mends a component. A drive put back into a group that still stands is written again by a rebuild; into one that was lost, the very drive
 * returns with its data.
 */
export function clearFault(view: EstateView, kind: FaultKind, id: string, now: Milliseconds): FaultResult {
  const row = view.table(tableOf[kind]).get(id);
  if (!row)
    return no(
      kind,
      id,
      'component-unknown',
      `There is no ${faultWords[kind].component} ${id}.`,
      'Name a component by its id.',
    );
  const name = componentName(view, kind, id);
  if (row.state !== 'failed' && row.state !== 'down')
    return no(kind, id, 'no-fault', `${name} is not broken.`, 'Leave it as it is.');
  if (kind !== 'drive-failed')
    return {
      ok: true,
      effects: [changed(tableOf[kind], row as never, { state: 'up' } as never)],
      said: `${name} is up again`,
    };
  const drive = view.table('drive').get(id)!;
  const group = drive.raidGroup ? view.table('raidGroup').get(drive.raidGroup) : undefined;
  if (!group || groupHealth(view, group).state === 'lost')
    return { ok: true, effects: [changed('drive', drive, { state: 'ok' })], said: `${name} is back` };
  const takes = rebuildTime(view, drive);
  const job = {
    id: idFor('job', hexFrom(`rebuild ${id} ${now}`, 12)),
    kind: 'raid-rebuild' as const,
    array: drive.array,
    raidGroup: group.id,
    drive: id,
    startedAt: now,
    finishesAt: now + takes,
  };
  return {
    ok: true,
    effects: [changed('drive', drive, { state: 'rebuilding' }), created('job', job)],
    said: `${name} is back and rebuilds`,
  };
}
