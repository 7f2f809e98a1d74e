import { z } from 'zod';
import { id, name, upDown } from './fields';
import { kind, to, type RowOf } from './kind';

export const controllerKind = kind({
  words: ['controller', 'controllers'],
  prefix: 'ctl',
  path: 'controllers',
  row: z.object({ id, name, array: id, state: upDown }),
  refers: {
    array: to('array'),
  },
  unique: [{ fields: ['array', 'name'], by: 'array' }],
});
export type Controller = RowOf<typeof controllerKind>;
