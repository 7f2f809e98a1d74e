import { changed, deleted, type Effect } from '../estate/effects';
import type { Drive, Kind, Row } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { raidGroupOf } from '../estate/relations';
import type { Refusal } from '../operation/refusal';
import { groupHealth } from '../raid/health';
import { loseDrive, tendGroup } from '../raid/tend';
import { DAY, type Milliseconds } from '../units/duration';
import { adapterId, componentsOf, type Component } from '../whatif/components';
import { effectsOfFailure } from '../whatif/outage';
import {
  ailments,
  componentName,
  figures,
  isAgentFault,
  isAilment,
  wholes,
  type AgentFault,
  type FaultKind,
} from './fault-kinds';
import { silences } from './silence';
import { standstill } from './standstill';

/** How far a clock jumps (a choice). */
const CLOCK_JUMP: Milliseconds = 90 * DAY;

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
