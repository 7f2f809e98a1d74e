import { idFor, type Kind } from './entities';
import { hexFrom } from './random';

/**
 * A maker of ids: the same seed gives the same ids in the same order. Those of one maker lie side by side in the keys of a database, so that a
 * thousand rows made at once touch a few of its pages.
 */
export const newIds = (seed: string): ((kind: Kind) => string) => {
  const maker = hexFrom(seed, 12);
  let count = 0;
  return (kind) => idFor(kind, `${maker}${(count++).toString(16).padStart(4, '0')}`);
};
