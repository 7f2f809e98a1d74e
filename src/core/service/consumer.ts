import { ownPools } from '../estate/own';
import { copiesOf } from '../copies/area';
import type { Allotment } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, hostOf, poolOf } from '../estate/relations';
import { byName } from '../operation/draft';
import { allotmentRefusal, takenFrom, takenOf } from '../pool/allotments';
import type { Bytes } from '../units/bytes';
import type { Milliseconds } from '../units/duration';
import { classOf, judged, poolFacts } from './facts';

/** A volume as the one who took it sees it. */
export interface ConsumerVolume {
  id: string;
  name: string;
  array: string;
  pool: string;
  size: Bytes;
  written: Bytes;
  class: string | null;
  /** Hosts that see it, and where it is mounted. */
  hosts: { name: string; mountPoint: string | null }[];
  /** Copies in time that can be gone back to, and when the newest was made. */
  copies: number;
  newestCopy: Milliseconds | null;
  /** Retired, and kept until then. */
  keptUntil: Milliseconds | null;
}

/** What is set aside for a consumer, from where more can be taken, and what was taken. */
export interface ConsumerAnswer {
  id: string;
  name: string;
  contact: string;
  notes: string;
  bytes: Bytes;
  takenBytes: Bytes;
  mostVolumes: number | null;
  classes: string[];
  /** Pools that fit one of its classes: what may still be taken there; 0 with why where nothing may. */
  pools: { array: string; pool: string; leftBytes: Bytes; why: string | null }[];
  volumes: ConsumerVolume[];
}

/** The page of a consumer: theirs alone, by what they were given. */
export function consumerOf(view: EstateView, row: Allotment): ConsumerAnswer {
  const taken = takenOf(view, row.id);
  const classes = row.classes.map((id) => view.table('serviceClass').get(id)!);
  const pools = ownPools(view);
  return {
    id: row.id,
    name: row.name,
    contact: row.contact,
    notes: row.notes,
    bytes: row.bytes,
    takenBytes: taken.bytes,
    mostVolumes: row.volumes,
    classes: classes.map(({ name }) => name),
    pools: pools
      .filter(
        (pool) =>
          classes.length === 0 ||
          classes.some(({ rules }) =>
            judged(view, rules, poolFacts(view, pool)).every(
              ({ outcome }) => outcome === 'pass' || outcome === 'unknown',
            ),
          ),
      )
      .map((pool) => {
        const at = row.pools.indexOf(pool.id);
        const most = at < 0 ? Infinity : row.poolBytes[at]!;
        const left = Math.max(0, Math.min(row.bytes - taken.bytes, most - (taken.pools[pool.id] ?? 0)));
        const refusal = allotmentRefusal(view, row, [{ pool: pool.id, bytes: 1 }], 'pool');
        return {
          array: arrayOf(view, pool).name,
          pool: pool.name,
          leftBytes: refusal ? 0 : left,
          why: refusal?.message ?? null,
        };
      })
      .sort((a, b) => b.leftBytes - a.leftBytes || byName({ name: a.array + a.pool }, { name: b.array + b.pool })),
    volumes: takenFrom(view, row.id)
      .sort(byName)
      .map((volume): ConsumerVolume => {
        const copies = copiesOf(view, volume.id);
        const devices = view.table('hostDevice').by('volume', volume.id);
        return {
          id: volume.id,
          name: volume.name,
          array: arrayOf(view, volume).name,
          pool: poolOf(view, volume).name,
          size: volume.size,
          written: volume.written,
          class: classOf(view, volume.id)?.name ?? null,
          hosts: view
            .table('mapping')
            .by('volume', volume.id)
            .map((mapping) => ({
              name: hostOf(view, mapping).name,
              mountPoint: devices.find(({ host }) => host === mapping.host)?.mountPoint ?? null,
            })),
          copies: copies.length,
          newestCopy: copies.length === 0 ? null : Math.max(...copies.map(({ at }) => at)),
          keptUntil: volume.deletedAt === null ? null : volume.keepUntil,
        };
      }),
  };
}
