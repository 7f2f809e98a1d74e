import type { Kind, Row, Rows } from './entities';
import type { EstateView } from './estate';
import { indexes } from './table';

/**
 * What a row refers to, and what becomes of it when that goes: `refuse` keeps the other from going, `goes-along` lets it be taken away
 * with the other. The store's foreign keys, the import's checks and undo all follow this one table.
 */
export interface Reference<K extends Kind = Kind> {
  from: K;
  field: keyof Rows[K] & string;
  to: Kind;
  onDelete: 'refuse' | 'goes-along';
}

const ref = <K extends Kind>(
  from: K,
  field: keyof Rows[K] & string,
  to: Kind,
  onDelete: Reference['onDelete'],
): Reference => ({ from, field, to, onDelete }) as unknown as Reference;

export const references: readonly Reference[] = [
  ref('array', 'site', 'site', 'refuse'),
  ref('controller', 'array', 'array', 'refuse'),
  ref('enclosure', 'array', 'array', 'refuse'),
  ref('drive', 'array', 'array', 'refuse'),
  ref('drive', 'enclosure', 'enclosure', 'refuse'),
  ref('drive', 'raidGroup', 'raidGroup', 'refuse'),
  ref('drive', 'spareGroup', 'raidGroup', 'refuse'),
  ref('drive', 'standsInFor', 'drive', 'refuse'),
  ref('raidGroup', 'array', 'array', 'refuse'),
  ref('raidGroup', 'drives', 'drive', 'refuse'),
  ref('raidGroup', 'pool', 'pool', 'refuse'),
  ref('pool', 'array', 'array', 'refuse'),
  ref('volume', 'array', 'array', 'refuse'),
  ref('volume', 'pool', 'pool', 'refuse'),
  ref('volume', 'owner', 'controller', 'refuse'),
  ref('volume', 'workload', 'workload', 'refuse'),
  ref('extent', 'volume', 'volume', 'goes-along'),
  ref('extent', 'store', 'pool', 'goes-along'),
  ref('extent', 'raidGroup', 'raidGroup', 'refuse'),
  ref('network', 'site', 'site', 'refuse'),
  ref('network', 'routes', 'network', 'refuse'),
  ref('switch', 'fabric', 'fabric', 'refuse'),
  ref('switch', 'site', 'site', 'refuse'),
  ref('isl', 'a', 'switch', 'refuse'),
  ref('isl', 'b', 'switch', 'refuse'),
  ref('alias', 'fabric', 'fabric', 'refuse'),
  ref('zone', 'fabric', 'fabric', 'refuse'),
  ref('zoneSet', 'fabric', 'fabric', 'refuse'),
  ref('zoneSet', 'zones', 'zone', 'refuse'),
  ref('activeZone', 'fabric', 'fabric', 'refuse'),
  ref('port', 'array', 'array', 'refuse'),
  ref('port', 'switch', 'switch', 'refuse'),
  ref('port', 'controller', 'controller', 'refuse'),
  ref('host', 'site', 'site', 'refuse'),
  ref('host', 'cluster', 'cluster', 'refuse'),
  ref('initiator', 'host', 'host', 'goes-along'),
  ref('interface', 'host', 'host', 'goes-along'),
  ref('interface', 'switch', 'switch', 'refuse'),
  ref('login', 'host', 'host', 'goes-along'),
  ref('login', 'array', 'array', 'goes-along'),
  ref('access', 'array', 'array', 'goes-along'),
  ref('access', 'initiator', 'initiator', 'goes-along'),
  ref('domainSet', 'domains', 'discoveryDomain', 'refuse'),
  ref('login', 'target', 'target', 'goes-along'),
  ref('target', 'array', 'array', 'refuse'),
  ref('target', 'authServer', 'authServer', 'refuse'),
  ref('mapping', 'target', 'target', 'refuse'),
  ref('subsystem', 'array', 'array', 'refuse'),
  ref('subsystem', 'ports', 'port', 'refuse'),
  ref('mapping', 'host', 'host', 'refuse'),
  ref('mapping', 'volume', 'volume', 'refuse'),
  ref('mapping', 'ports', 'port', 'refuse'),
  ref('mapping', 'cluster', 'cluster', 'refuse'),
  ref('mapping', 'subsystem', 'subsystem', 'refuse'),
  ref('hostDevice', 'host', 'host', 'refuse'),
  ref('hostDevice', 'volume', 'volume', 'refuse'),
  ref('job', 'array', 'array', 'goes-along'),
  ref('job', 'raidGroup', 'raidGroup', 'goes-along'),
  ref('job', 'pool', 'pool', 'goes-along'),
  ref('job', 'volume', 'volume', 'goes-along'),
  ref('job', 'drive', 'drive', 'goes-along'),
  ref('job', 'partners', 'drive', 'goes-along'),
];

/** The ids a row's field refers to: none, one or several. */
export function referredIds(row: Row, field: string): readonly string[] {
  const value = (row as unknown as Record<string, unknown>)[field];
  if (value === null || value === undefined) return [];
  return Array.isArray(value) ? (value as string[]) : [value as string];
}

/** Rows of a kind whose field refers to the id, by index where there is one. */
export function rowsReferring(view: EstateView, kind: Kind, field: string, id: string): readonly Rows[Kind][] {
  const table = view.table(kind);
  const index = kind === 'mapping' && field === 'ports' ? 'port' : field in indexes[kind] ? field : null;
  if (index) return table.by(index as never, id);
  return [...table.values()].filter((row) => referredIds(row, field).includes(id));
}
