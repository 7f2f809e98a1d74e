import { idFor, type Kind } from './entities';
import { hexFrom } from './random';

/** A maker of ids: the same seed gives the same ids in the same order. */
export const newIds = (seed: string): ((kind: Kind) => string) => {
  let count = 0;
  return (kind) => idFor(kind, hexFrom(`${seed} ${count++}`, 12));
};
