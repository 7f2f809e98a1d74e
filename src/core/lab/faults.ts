import { changed, deleted, type Effect } from '../estate/effects';
import type { Drive, Kind, Row } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { arrayOf, hostOf, raidGroupOf } from '../estate/relations';
import { driveRef } from '../operation/inquiry';
import type { Refusal } from '../operation/refusal';
import { groupHealth } from '../raid/health';
import { loseDrive, tendGroup } from '../raid/tend';
import { DAY, type Milliseconds } from '../units/duration';
import { adapterId, componentsOf, type Component, type ComponentClass } from '../whatif/components';
import { effectsOfFailure } from '../whatif/outage';
import { silences } from './silence';
import { standstill } from './standstill';

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
const figures = {
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
/** How far a clock jumps (a choice). */
const CLOCK_JUMP: Milliseconds = 90 * DAY;

const wholes: Partial<Record<FaultKind, ComponentClass>> = {
  'adapter-down': 'adapter',
  'array-down': 'array',
  'site-link-down': 'site-link',
  'site-down': 'site',
};

/** What ails a line that is up. */
const ailments = { 'site-link-slow': 'slow', 'site-link-lossy': 'lossy' } as const;
const isAilment = (kind: FaultKind): kind is keyof typeof ailments => Object.hasOwn(ailments, kind);

const agentFaults = ['agent-absent', 'agent-slow', 'agent-silent'] as const;
type AgentFault = (typeof agentFaults)[number];
const isAgentFault = (kind: FaultKind): kind is AgentFault => (agentFaults as readonly string[]).includes(kind);

export const faultTable = (kind: FaultKind) => figures[kind].table;

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

type FaultResult = { ok: true; effects: Effect[]; said: string } | { ok: false; refusals: Refusal[] };

const no = (kind: FaultKind, id: string, code: string, message: string, mend: string): FaultResult => ({
  ok: false,
  refusals: [{ code, subject: { kind: figures[kind].table, id, name: id }, message, mend }],
});

const unknown = (kind: FaultKind, id: string): FaultResult =>
  no(kind, id, 'component-unknown', `There is no ${figures[kind].component} ${id}.`, 'Name a component by its id.');

/** Breaks a component; what the array does about it by itself (a rebuild to a spare) follows at once, and work stands still where nothing serves it. */
export function setFault(
  view: EstateView,
  kind: FaultKind,
  id: string,
  now: Milliseconds,
  newId: (kind: Kind) => string,
): FaultResult {
  return withJobs(view, breakPart(view, kind, id, now, newId), now);
}

function withJobs(view: EstateView, result: FaultResult, now: Milliseconds): FaultResult {
  if (!result.ok) return result;
  const { effects } = result;
  return { ...result, effects: [...effects, ...standstill(view, effects, now), ...silences(view, effects, now)] };
}

function breakPart(
  view: EstateView,
  kind: FaultKind,
  id: string,
  now: Milliseconds,
  newId: (kind: Kind) => string,
): FaultResult {
  const { table, state, said } = figures[kind];
  if (kind === 'clock-jump') return setClock(view, id, CLOCK_JUMP);
  if (isAilment(kind)) return setAilment(view, kind, id, true);
  if (isAgentFault(kind) || table === 'host') return breakAgent(view, kind as AgentFault, id);
  if (wholes[kind] || table === 'array' || table === 'site') return breakWhole(view, kind, id);
  const row = view.table(table).get(id);
  if (!row) return unknown(kind, id);
  const name = componentName(view, kind, id);
  const done = { ok: true as const, said: `${name} ${said}` };
  if (table !== 'drive') {
    if (row.state === 'down') return no(kind, id, 'fault-set', `${name} is down already.`, 'Clear that fault first.');
    return { ...done, effects: [changed(table, row as never, { state: 'down' } as never)] };
  }
  const drive = row as Drive;
  if (drive.lun !== null)
    return no(
      kind,
      id,
      'drive-outside',
      `${name} is a LUN of an outside array.`,
      'Break a controller, a port or drives of that array, or the zone between both.',
    );
  if (drive.state === 'failed' || drive.state === 'missing' || drive.state === state)
    return no(kind, id, 'fault-set', `${name} is ${drive.state} already.`, 'Clear that fault first.');
  if (state !== 'failed' && state !== 'missing')
    return {
      ...done,
      effects: [changed('drive', drive, { state: 'predicted', recentErrors: 14, mediaErrors: drive.mediaErrors + 14 })],
    };
  const effects = loseDrive(view, drive, state, now, newId);
  const rebuild = effects.find((effect) => effect.kind === 'job' && effect.after);
  return { ...done, effects, said: `${done.said}${rebuild ? '; a spare stands in' : ''}` };
}

/** The small program at a host answers wrongly from now on. */
function breakAgent(view: EstateView, kind: AgentFault, id: string): FaultResult {
  const host = view.table('host').get(id);
  if (!host) return unknown(kind, id);
  const name = componentName(view, kind, id);
  if (host.agent === 'none')
    return no(kind, id, 'no-agent', `${host.name} has no agent.`, 'Say first what runs there, with its agent.');
  const { state, said } = figures[kind];
  if (host.agent === state) return no(kind, id, 'fault-set', `${name} is so already.`, 'Clear that fault first.');
  return { ok: true, effects: [changed('host', host, { agent: state })], said: `${name} ${said}` };
}

/** A line grows slow or lossy, or is well again. */
function setAilment(view: EstateView, kind: keyof typeof ailments, id: string, ails: boolean): FaultResult {
  const link = view.table('siteLink').get(id);
  if (!link) return unknown(kind, id);
  const name = componentName(view, kind, id);
  const field = ailments[kind];
  if (link[field] === ails)
    return ails
      ? no(kind, id, 'fault-set', `${name} is so already.`, 'Clear that fault first.')
      : no(kind, id, 'no-fault', `${name} is well.`, 'Leave it as it is.');
  return {
    ok: true,
    effects: [changed('siteLink', link, { [field]: ails })],
    said: ails ? `${name} ${figures[kind].said}` : `${name} is well again`,
  };
}

/** The clock of an array jumps ahead, or goes by its time source again. */
function setClock(view: EstateView, id: string, clockOff: Milliseconds): FaultResult {
  const array = view.table('array').get(id);
  if (!array) return unknown('clock-jump', id);
  const name = componentName(view, 'clock-jump', id);
  if (array.clockOff === clockOff)
    return clockOff === 0
      ? no('clock-jump', id, 'no-fault', `${name} is right.`, 'Leave it as it is.')
      : no('clock-jump', id, 'fault-set', `${name} is ahead already.`, 'Clear that fault first.');
  return {
    ok: true,
    effects: [changed('array', array, { clockOff })],
    said: clockOff === 0 ? `${name} is right again` : `${name} ${figures['clock-jump'].said}`,
  };
}

function mendAgent(view: EstateView, kind: FaultKind, id: string): FaultResult {
  const host = view.table('host').get(id);
  if (!host) return unknown(kind, id);
  const name = componentName(view, kind, id);
  if (host.agent === 'ready' || host.agent === 'none')
    return no(kind, id, 'no-fault', `${name} is not broken.`, 'Leave it as it is.');
  return { ok: true, effects: [changed('host', host, { agent: 'ready' })], said: `${name} answers again` };
}

function wholeOf(view: EstateView, kind: FaultKind, id: string): Component | null {
  const found = componentsOf(view).get(id);
  return found && found.class === wholes[kind] ? found : null;
}

function breakWhole(view: EstateView, kind: FaultKind, id: string): FaultResult {
  const component = wholeOf(view, kind, id);
  if (!component) return unknown(kind, id);
  const effects = effectsOfFailure(view, [component]);
  if (effects.length === 0)
    return no(kind, id, 'fault-set', `${component.name} is down already.`, 'Clear that fault first.');
  return { ok: true, effects, said: `${component.name} is down` };
}

/** Brings all parts up again, as those that fell with the whole would come. */
function mendWhole(view: EstateView, kind: FaultKind, id: string): FaultResult {
  const component = wholeOf(view, kind, id);
  if (!component) return unknown(kind, id);
  const up = <
    K extends 'interface' | 'controller' | 'enclosure' | 'switch' | 'network' | 'witness' | 'isl' | 'siteLink',
  >(
    table: K,
    rows: readonly Row<K>[],
  ): Effect[] =>
    rows
      .filter((row) => (row as { state: string }).state === 'down')
      .map((row) => changed(table, row, { state: 'up' } as Partial<Row<K>>));
  const array = (one: string): Effect[] => [
    ...up('controller', view.table('controller').by('array', one)),
    ...up('enclosure', view.table('enclosure').by('array', one)),
  ];
  const parts: Partial<Record<FaultKind, () => Effect[]>> = {
    'array-down': () => array(id),
    'site-link-down': () => {
      const link = view.table('siteLink').get(id)!;
      return [
        ...up('siteLink', [link]),
        ...up(
          'isl',
          link.isls.map((isl) => view.table('isl').get(isl)!),
        ),
      ];
    },
    'site-down': () => [
      ...view
        .table('array')
        .by('site', id)
        .flatMap((row) => array(row.id)),
      ...up('switch', view.table('switch').by('site', id)),
      ...up('network', view.table('network').by('site', id)),
      ...up('witness', view.table('witness').by('site', id)),
    ],
    'adapter-down': () =>
      up(
        'interface',
        [...view.table('interface').values()].filter((row) => row.host && adapterId(row.host, row.adapter) === id),
      ),
  };
  const effects = parts[kind]?.() ?? [];
  if (effects.length === 0) return no(kind, id, 'no-fault', `${component.name} is not broken.`, 'Leave it as it is.');
  return { ok: true, effects, said: `${component.name} is up again` };
}

/**
 * Mends a component. A drive put back into a group that still stands is written again by a rebuild; into one that was lost, the very drive
 * returns with its data. Where a spare has taken its place, the spare hands it back.
 */
export const clearFault = (
  view: EstateView,
  kind: FaultKind,
  id: string,
  now: Milliseconds,
  newId: (kind: Kind) => string,
): FaultResult => withJobs(view, mendPart(view, kind, id, now, newId), now);

function mendPart(
  view: EstateView,
  kind: FaultKind,
  id: string,
  now: Milliseconds,
  newId: (kind: Kind) => string,
): FaultResult {
  const { table } = figures[kind];
  if (kind === 'clock-jump') return setClock(view, id, 0);
  if (isAilment(kind)) return setAilment(view, kind, id, false);
  if (table === 'host') return mendAgent(view, kind, id);
  if (wholes[kind] || table === 'array' || table === 'site') return mendWhole(view, kind, id);
  const row = view.table(table).get(id);
  if (!row) return unknown(kind, id);
  const name = componentName(view, kind, id);
  const whole = table === 'drive' ? row.state === 'ok' || row.state === 'rebuilding' : row.state === 'up';
  if (whole) return no(kind, id, 'no-fault', `${name} is not broken.`, 'Leave it as it is.');
  if (table !== 'drive')
    return {
      ok: true,
      effects: [changed(table, row as never, { state: 'up' } as never)],
      said: `${name} ${table === 'enclosure' ? 'answers again' : 'is up again'}`,
    };
  const drive = row as Drive;
  const group = raidGroupOf(view, drive);
  const effects: Effect[] = [
    ...view
      .table('job')
      .by('drive', id)
      .filter((job) => job.kind === 'raid-rebuild')
      .map((job) => deleted('job', job)),
  ];
  if (drive.state === 'predicted')
    return {
      ok: true,
      effects: [changed('drive', drive, { state: 'ok', recentErrors: 0 })],
      said: `${name} is well again`,
    };
  const survived = group && groupHealth(view, group).state !== 'lost';
  effects.push(changed('drive', drive, { state: survived ? 'rebuilding' : 'ok' }));
  const overlay = new Overlay(view);
  overlay.apply(effects);
  const tended = group?.id ?? view.table('drive').by('standsInFor', id)[0]?.raidGroup;
  if (tended) effects.push(...tendGroup(overlay, tended, now, newId));
  return { ok: true, effects, said: `${name} is back${survived ? ' and rebuilds' : ''}` };
}
