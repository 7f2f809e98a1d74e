import { grantOf, quotaUsed } from '../copies/quota';
import type { EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import type { Bytes } from '../units/bytes';
import { DAY, type Milliseconds } from '../units/duration';
import { standingOf, type Standing } from './partners';

/** What one array knows of another, and what that one uses of it. */
export interface PartnerRow extends Standing {
  id: string;
  array: string;
  peer: string;
  addresses: string[];
  contact: string;
  since: Milliseconds;
  /** The last day of what the array shows; null for no end. */
  secretUntil: Milliseconds | null;
  /** Pools that the other may use, and what its copies take of them. */
  offers: { pool: string; bytes: Bytes; used: Bytes }[];
  bytes: Bytes;
  usedBytes: Bytes;
  volumes: number | null;
  usedVolumes: number;
  until: Milliseconds | null;
}

const lastDay = (end: Milliseconds | null): Milliseconds | null => (end === null ? null : end - DAY);

/** All partners by array. */
export const partnerRows = (view: EstateView): PartnerRow[] =>
  [...view.table('partner').values()]
    .map((row) => {
      const used = quotaUsed(view, row);
      return {
        id: row.id,
        array: arrayOf(view, row).name,
        peer: row.name,
        addresses: row.addresses,
        contact: row.contact,
        since: row.since,
        ...standingOf(view, row),
        secretUntil: lastDay(row.secretUntil),
        offers: row.offered.map((pool, k) => ({
          pool: view.table('pool').get(pool)!.name,
          bytes: row.offeredBytes[k]!,
          used: used.pools[pool] ?? 0,
        })),
        bytes: grantOf(row).bytes,
        usedBytes: Object.values(used.pools).reduce((sum, bytes) => sum + bytes, 0),
        volumes: row.quotaVolumes,
        usedVolumes: used.volumes,
        until: lastDay(row.quotaUntil),
      };
    })
    .sort((a, b) => a.array.localeCompare(b.array) || a.peer.localeCompare(b.peer));
