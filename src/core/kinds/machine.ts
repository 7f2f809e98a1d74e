import { z } from 'zod';
import { bytes, id, instant, name } from './fields';
import { goesWith, kind, to, type RowOf } from './kind';

/** A virtual machine of a hypervisor cluster. */
export const machineKind = kind({
  words: ['machine', 'machines'],
  prefix: 'mach',
  path: 'machines',
  row: z.object({
    id,
    name,
    cluster: id,
    /** Its volumes, copied at one instant and brought back together; null while it has none of its own. */
    workload: id.nullable().default(null),
    /** The allotment its volumes are taken from; null where they may lie anywhere. */
    allotment: id.nullable().default(null),
    running: z.boolean().default(true),
    notes: z.string().default(''),
    createdAt: instant.default(0),
  }),
  refers: {
    cluster: to('cluster'),
    workload: to('workload', { by: 'workload' }),
    allotment: to('allotment', { by: 'allotment' }),
  },
  named: '',
  searched: {},
});
export type Machine = RowOf<typeof machineKind>;

/** A disk of a machine: a volume of its own, or a share of one that its cluster keeps files on. */
export const machineDiskKind = kind({
  words: ['machine disk', 'machine disks'],
  prefix: 'machdisk',
  path: 'machine-disks',
  row: z.object({
    id,
    name,
    machine: id,
    volume: id,
    size: bytes.min(1),
    /** It is a file on a volume that others lie on, too. */
    share: z.boolean().default(false),
  }),
  refers: { machine: goesWith('machine'), volume: to('volume') },
  named: 'machine',
});
export type MachineDisk = RowOf<typeof machineDiskKind>;
