import { z } from 'zod';
import { count, id, name } from './fields';
import { kind, to, type RowOf } from './kind';

/** An NVMe subsystem of an array. */
export const subsystemKind = kind({
  words: ['subsystem', 'subsystems'],
  prefix: 'sub',
  path: 'subsystems',
  row: z.object({
    id,
    name,
    array: id,
    nqn: z.string(),
    allowAny: z.boolean().default(false),
    /** Host NQNs, compared byte by byte. */
    allowed: z.array(z.string()).default([]),
    /** Array ports it is offered at; null for all NVMe/TCP ports. */
    ports: z.array(id).nullable().default(null),
    /** Most controllers at a time, and most I/O queues of each. */
    controllerLimit: count.min(1).default(256),
    queueLimit: count.min(1).max(65_535).default(64),
  }),
  refers: {
    array: to('array'),
    ports: to('port', { by: null }),
  },
  named: 'array',
  once: ['nqn'],
});
export type Subsystem = RowOf<typeof subsystemKind>;
