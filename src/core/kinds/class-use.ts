import { z } from 'zod';
import { id, instant } from './fields';
import { goesWith, kind, type RowOf } from './kind';

/** The service class that a volume was given under; it has one at most. */
export const classUseKind = kind({
  words: ['use of a service class', 'uses of service classes'],
  prefix: 'cuse',
  path: 'class-uses',
  row: z.object({ id, serviceClass: id, volume: id, since: instant }),
  refers: { serviceClass: goesWith('serviceClass'), volume: goesWith('volume') },
  once: ['volume'],
});
export type ClassUse = RowOf<typeof classUseKind>;
