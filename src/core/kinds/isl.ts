import { z } from 'zod';
import { count, id, name, upDown } from './fields';
import { kind, to, type RowOf } from './kind';

/** An inter-switch link. */
export const islKind = kind({
  words: ['inter-switch link', 'inter-switch links'],
  prefix: 'isl',
  path: 'inter-switch-links',
  row: z.object({
    id,
    name,
    a: id,
    aPort: count,
    b: id,
    bPort: count,
    /** Gb/s at which it runs. */
    speed: z.number().positive(),
    /** Length of the fibre. */
    km: z.number().min(0).default(0),
    /** Buffer-to-buffer credits assigned to it. */
    credits: count.default(8),
    state: upDown,
  }),
  refers: {
    a: to('switch', { by: 'switch' }),
    b: to('switch', { by: 'switch' }),
  },
  named: '',
});
export type Isl = RowOf<typeof islKind>;
