import { z } from 'zod';
import { id } from './fields';
import { goesWith, kind, to, type RowOf } from './kind';

/** A volume that a consumer took from its allotment. */
export const allotmentUseKind = kind({
  words: ['use of an allotment', 'uses of allotments'],
  prefix: 'ause',
  path: 'allotment-uses',
  row: z.object({ id, allotment: id, volume: id }),
  refers: { allotment: to('allotment'), volume: goesWith('volume') },
  once: ['volume'],
});
export type AllotmentUse = RowOf<typeof allotmentUseKind>;
