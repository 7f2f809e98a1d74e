import { changed, type Effect } from '../estate/effects';
import type { Kind, Rows } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import type { Check, Finding } from './finding';

/** Something that is down, and what bringing it back would be. */
export interface Cause {
  kind: 'array' | 'switch' | 'network' | 'controller' | 'enclosure' | 'isl' | 'nameServer' | 'authServer';
  id: string;
  name: string;
  repairs: Effect[];
}

/** As many causes are looked into: with more than these the estate is best read from the top. */
const MOST_CAUSES = 5;

const kindWords: Record<Cause['kind'], string> = {
  array: 'Array',
  switch: 'Switch',
  network: 'Network',
  controller: 'Controller',
  enclosure: 'Enclosure',
  isl: 'Link',
  nameServer: 'Name server',
  authServer: 'Authentication server',
};

/** What is down and takes others along, the greatest first: arrays, switches, networks, then their parts and the servers that hosts ask. */
export function causesOf(view: EstateView): Cause[] {
  const found: Cause[] = [];
  const up = <K extends Kind>(kind: K, rows: Iterable<Rows[K]>): Effect[] =>
    [...rows].flatMap((row) =>
      (row as { state?: string }).state === 'down' ? [changed(kind, row, { ...row, state: 'up' })] : [],
    );
  const put = <K extends Cause['kind'] & Kind>(kind: K, row: Rows[K], name: string) =>
    found.push({ kind, id: row.id, name, repairs: up(kind, [row]) });
  const dead = new Set<string>();
  for (const array of view.table('array').values()) {
    const controllers = view.table('controller').by('array', array.id);
    if (controllers.length === 0 || controllers.some((row) => row.state !== 'down')) continue;
    dead.add(array.id);
    const repairs = [
      ...up('controller', controllers),
      ...up('enclosure', view.table('enclosure').by('array', array.id)),
    ];
    found.push({ kind: 'array', id: array.id, name: array.name, repairs });
  }
  for (const row of view.table('switch').values()) if (row.state === 'down') put('switch', row, row.name);
  for (const row of view.table('network').values()) if (row.state === 'down') put('network', row, row.name);
  const arrayName = (id: string) => view.table('array').get(id)?.name ?? '';
  for (const row of view.table('controller').values())
    if (row.state === 'down' && !dead.has(row.array)) put('controller', row, `${arrayName(row.array)} ${row.name}`);
  for (const row of view.table('enclosure').values())
    if (row.state === 'down' && !dead.has(row.array)) put('enclosure', row, `${arrayName(row.array)} ${row.number}`);
  const switchName = (id: string) => view.table('switch').get(id)?.name ?? '';
  for (const row of view.table('isl').values())
    if (row.state === 'down') put('isl', row, `${switchName(row.a)} – ${switchName(row.b)}`);
  for (const row of view.table('nameServer').values()) if (row.state === 'down') put('nameServer', row, row.name);
  for (const row of view.table('authServer').values()) if (row.state === 'down') put('authServer', row, row.name);
  return found;
}

export const COMPONENT_DOWN = 'component-down';

/** One finding a cause; how much hangs on it is added when all is found. */
export const componentDown: Check = {
  id: COMPONENT_DOWN,
  severity: 'warning',
  title: 'What is down',
  *find(view) {
    for (const { kind, id, name } of causesOf(view))
      yield {
        subject: { kind, id, name },
        says: `${kindWords[kind]} ${name} is down.`,
        advice: 'Bring it back: what hangs on it goes with it.',
        mend: null,
      };
  },
};

/** The estate as it would be with causes mended. */
export function mended(view: EstateView, causes: readonly Cause[]): EstateView {
  const overlay = new Overlay(view);
  for (const { repairs } of causes) overlay.apply(repairs);
  return overlay;
}

/**
 * Which of the findings hang on which cause: those that would be gone were it mended. `keysWith` finds on an estate, by key, what is wrong there; it is
 * asked for every cause, and for all together: what only goes with all of them hangs on the greatest.
 */
export function* hangings<P>(
  view: EstateView,
  present: readonly Pick<Finding, 'check' | 'subject'>[],
  keyOf: (finding: Pick<Finding, 'check' | 'subject'>) => string,
  keysWith: (view: EstateView) => Generator<P, ReadonlySet<string>>,
): Generator<P, Map<string, Cause>> {
  const causes = causesOf(view).slice(0, MOST_CAUSES);
  const because = new Map<string, Cause>();
  if (causes.length === 0) return because;
  const open = new Set(present.filter((one) => one.check !== COMPONENT_DOWN).map(keyOf));
  const settle = function* (mend: readonly Cause[], on: Cause): Generator<P, void> {
    const still = yield* keysWith(mended(view, mend));
    for (const key of open)
      if (!still.has(key)) {
        because.set(key, on);
        open.delete(key);
      }
  };
  for (const cause of causes) yield* settle([cause], cause);
  if (causes.length > 1) yield* settle(causes, causes[0]!);
  return because;
}
