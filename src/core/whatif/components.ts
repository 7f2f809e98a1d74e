import { byName } from '../operation/draft';
import type { EstateView } from '../estate/estate';
import { hostOf } from '../estate/relations';

/** What can fail by itself. A cable fails like the port it ends at. */
export const componentClasses = [
  'adapter',
  'host-port',
  'switch',
  'isl',
  'network',
  'array-port',
  'controller',
  'enclosure',
  'array',
  'site-link',
  'witness',
  'site',
] as const;
export type ComponentClass = (typeof componentClasses)[number];

export const classWords: Record<ComponentClass, string> = {
  adapter: 'host card',
  'host-port': 'host port or its cable',
  switch: 'switch',
  isl: 'inter-switch link',
  network: 'network',
  'array-port': 'array port or its cable',
  controller: 'controller',
  enclosure: 'enclosure',
  array: 'array',
  'site-link': 'link between sites',
  witness: 'witness',
  site: 'site',
};

export interface Component {
  id: string;
  class: ComponentClass;
  /** `cargo-db-1 hba0`, `lintel-1 controller a` */
  name: string;
  /** The components that take it along when they fail: of an inter-switch link both its ends and the line it runs over. */
  within: string[];
}

/** Cards have no rows of their own: ports of one host with one card name share it. */
export const adapterId = (host: string, adapter: string): string => `card_${host}_${adapter}`;

/** Every component there is, by id. */
export function componentsOf(view: EstateView): Map<string, Component> {
  const found = new Map<string, Component>();
  const put = (id: string, kind: ComponentClass, name: string, ...within: (string | null)[]) =>
    found.set(id, { id, class: kind, name, within: within.filter((one): one is string => one !== null) });
  const arrayOf = (id: string) => view.table('array').get(id)?.name ?? '';
  for (const row of view.table('site').values()) put(row.id, 'site', row.name);
  for (const row of view.table('array').values()) put(row.id, 'array', row.name, row.site);
  for (const row of view.table('controller').values())
    put(row.id, 'controller', `${arrayOf(row.array)} controller ${row.name}`, row.array);
  for (const row of view.table('enclosure').values())
    put(row.id, 'enclosure', `${arrayOf(row.array)} enclosure ${row.number}`, row.array);
  for (const row of view.table('port').values())
    if (row.role !== 'none') put(row.id, 'array-port', `${arrayOf(row.array)} ${row.name}`, row.controller);
  for (const row of view.table('switch').values()) put(row.id, 'switch', row.name, row.site);
  for (const row of view.table('isl').values()) {
    const lines = view.table('siteLink').by('isl', row.id);
    put(row.id, 'isl', row.name, row.a, row.b, ...lines.map(({ id }) => id));
  }
  for (const row of view.table('siteLink').values()) put(row.id, 'site-link', row.name);
  for (const row of view.table('witness').values()) put(row.id, 'witness', row.name, row.site);
  for (const row of view.table('network').values()) put(row.id, 'network', row.name, row.site);
  for (const row of view.table('interface').values()) {
    if (row.host === null) continue;
    const host = hostOf(view, row)?.name ?? '';
    const card = row.adapter === '' ? null : adapterId(row.host, row.adapter);
    if (card && !found.has(card)) put(card, 'adapter', `${host} ${row.adapter}`);
    put(row.id, 'host-port', `${host} ${row.name}`, card);
  }
  return found;
}

/** Finds a component by id or by its name, in any case. */
export function findComponent(components: ReadonlyMap<string, Component>, ref: string): Component | null {
  const known = components.get(ref);
  if (known) return known;
  const wanted = ref.trim().toLowerCase();
  for (const one of components.values()) if (one.name.toLowerCase() === wanted) return one;
  return null;
}

export const listed = (components: Iterable<Component>): Component[] =>
  [...components].sort((a, b) => componentClasses.indexOf(a.class) - componentClasses.indexOf(b.class) || byName(a, b));
