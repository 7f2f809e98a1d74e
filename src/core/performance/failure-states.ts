import { changed, type Effect } from '../estate/effects';
import type { Rows, Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { byName } from '../operation/draft';
import type { InParts } from '../units/in-parts';
import { loadModel } from './model';
import type { LoadModel } from './shape';

/** The load with one thing out, and what it is. */
export interface FailureState {
  name: string;
  model: LoadModel;
  /** Groups that are taken to have one member out. */
  degraded: ReadonlySet<string>;
}

const none: ReadonlySet<string> = new Set();

function stateWithout(view: EstateView, { name, effect }: Loss, counts?: (volume: Volume) => boolean): FailureState {
  const without = new Overlay(view);
  without.apply([effect]);
  return { name, model: loadModel(without, undefined, none, counts), degraded: none };
}

/** Every state of an array in which one controller, or one member of one group, is out; the state as it stands comes first. */
export function failureStates(view: EstateView, array: string): FailureState[] {
  const states: FailureState[] = [{ name: 'as it stands', model: loadModel(view), degraded: none }];
  const controllers = view.table('controller').by('array', array);
  const up = controllers.filter(({ state }) => state === 'up');
  if (up.length > 1) for (const controller of up) states.push(stateWithout(view, lossOf('controller', controller)));
  for (const group of view.table('raidGroup').by('array', array))
    if (group.parity > 0 || group.copies > 1) {
      const degraded = new Set([group.id]);
      states.push({ name: `a drive of ${group.name} lost`, model: loadModel(view, undefined, degraded), degraded });
    }
  return states;
}

/**
 * The same, and those in which one of the array's ports, or a switch they are wired to, or a link, is out: what went there goes by the others. Of
 * these models only what is asked of the array counts.
 */
export function* everyFailureState(view: EstateView, array: string): InParts<FailureState[]> {
  const states = failureStates(view, array);
  const asking = askingOf(states[0]!.model, array);
  const ports = view
    .table('port')
    .by('array', array)
    .filter(({ role, state }) => role !== 'none' && state === 'up');
  const losses: Loss[] = ports.length > 1 ? [...ports].sort(byName).map((port) => lossOf('port', port)) : [];
  const switches = new Set(ports.flatMap((port) => port.switch ?? []));
  losses.push(...[...switches].map((id) => lossOf('switch', view.table('switch').get(id)!)), ...linkLosses(view));
  return [...states, ...(yield* statesWithout(view, losses, ({ id }) => asking.has(id)))];
}

/** What links between switches and sites carry, as it stands and with one of them or one switch out. */
export function* linkFailureStates(view: EstateView): InParts<FailureState[]> {
  const switches = [...view.table('switch').values()].sort(byName).map((row) => lossOf('switch', row));
  const states = yield* statesWithout(view, [...linkLosses(view), ...switches]);
  return [{ name: 'as it stands', model: loadModel(view), degraded: none }, ...states];
}

/** Something that is up, and would be out. */
interface Loss {
  name: string;
  effect: Effect;
  up: boolean;
}
type Losable = 'controller' | 'port' | 'switch' | 'isl' | 'siteLink';

const lossOf = <K extends Losable>(kind: K, row: Rows[K]): Loss => ({
  name: `${kind === 'isl' || kind === 'siteLink' ? 'link' : kind} ${row.name} lost`,
  effect: changed(kind, row as never, { state: 'down' } as never),
  up: row.state === 'up',
});

/** Every link between switches, and of those between sites those that carry something for hosts. */
const linkLosses = (view: EstateView): Loss[] => [
  ...[...view.table('isl').values()].sort(byName).map((isl) => lossOf('isl', isl)),
  ...[...view.table('siteLink').values()]
    .filter(({ isls, networks }) => isls.length + networks.length > 0)
    .sort(byName)
    .map((line) => lossOf('siteLink', line)),
];

function* statesWithout(
  view: EstateView,
  losses: readonly Loss[],
  counts: (volume: Volume) => boolean = () => true,
): InParts<FailureState[]> {
  const states: FailureState[] = [];
  for (const loss of losses) {
    if (!loss.up) continue;
    yield;
    states.push(stateWithout(view, loss, counts));
  }
  return states;
}

/** Volumes that take anything of an array. */
const askingOf = ({ volumes, resources }: LoadModel, array: string): Set<string> =>
  new Set(
    volumes.flatMap(({ id, uses }) => (uses.some(({ resource }) => resources[resource]!.array === array) ? [id] : [])),
  );
