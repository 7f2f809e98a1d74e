import type { Kind, Rows } from './entities';
import type { EstateView } from './estate';

/**
 * What a row belongs to, by the reference it holds: `arrayOf(view, port)`. The rule book keeps what is referred to in the estate as long as the
 * row stands, so that only a reference that may be null gives undefined. What belongs to a row is asked of a table by index:
 * `view.table('port').by('array', array.id)`.
 */
const toThe =
  <K extends Kind, F extends string>(kind: K, field: F) =>
  <R extends { readonly [one in F]: string | null }>(
    view: EstateView,
    row: R,
  ): null extends R[F] ? Rows[K] | undefined : Rows[K] => {
    const id = row[field];
    return (id === null ? undefined : view.table(kind).get(id)) as Rows[K];
  };

export const siteOf = toThe('site', 'site');
export const arrayOf = toThe('array', 'array');
export const controllerOf = toThe('controller', 'controller');
/** The controller that owns a volume. */
export const ownerOf = toThe('controller', 'owner');
export const enclosureOf = toThe('enclosure', 'enclosure');
export const driveOf = toThe('drive', 'drive');
export const raidGroupOf = toThe('raidGroup', 'raidGroup');
export const poolOf = toThe('pool', 'pool');
export const volumeOf = toThe('volume', 'volume');
export const workloadOf = toThe('workload', 'workload');
export const hostOf = toThe('host', 'host');
export const clusterOf = toThe('cluster', 'cluster');
export const interfaceOf = toThe('interface', 'interface');
export const portOf = toThe('port', 'port');
export const targetOf = toThe('target', 'target');
export const subsystemOf = toThe('subsystem', 'subsystem');
export const fabricOf = toThe('fabric', 'fabric');
export const switchOf = toThe('switch', 'switch');
export const networkOf = toThe('network', 'network');
