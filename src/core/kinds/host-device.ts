import { z } from 'zod';
import { byteRuns, bytes, count, id, instant, name, pathEnds, pathSelectors } from './fields';
import { kind, to, type RowOf } from './kind';

export const hostDeviceKind = kind({
  words: ['host device', 'host devices'],
  prefix: 'dev',
  path: 'devices',
  row: z.object({
    id,
    name,
    host: id,
    volume: id,
    /** LUN, identity and size as the host last read them. */
    lun: count,
    naa: z.string(),
    size: bytes,
    fileSystem: z.string().nullable(),
    mountPoint: z.string().nullable(),
    /** How far the file system reaches, and the bytes used in it. */
    fileSystemSize: bytes.default(0),
    used: bytes,
    /** Runs that files once held and the file system has free again. */
    free: byteRuns.default([]),
    /** What the lab's write generator adds, bytes a second. */
    writeRate: bytes,
    /** A write was refused, since the host may only read: the file system stands read-only until it is mounted anew. */
    readOnly: z.boolean().default(false),
    /** Its own way to spread I/O; null as the host does. */
    selector: z.enum(pathSelectors).nullable().default(null),
    /** Which paths failover prefers: the heavier first, those not named weigh 0. */
    weights: z.array(pathEnds.extend({ weight: count })).default([]),
    /** The path that failover uses. */
    current: pathEnds.nullable().default(null),
    /** Since when what it writes waits for a path. */
    noPathSince: instant.nullable().default(null),
    state: z.enum(['online', 'offline']).default('online'),
    /** Carries a partition table. */
    initialised: z.boolean().default(false),
    /** Is mounted again after a restart. */
    persistent: z.boolean().default(true),
  }),
  refers: {
    host: to('host'),
    volume: to('volume'),
  },
  named: 'host',
  unique: [{ fields: ['host', 'volume'], by: 'volume' }],
  searched: { mountPoint: 'mount point' },
});
export type HostDevice = RowOf<typeof hostDeviceKind>;
