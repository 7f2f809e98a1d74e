import { idFor, type Kind } from './entities';
import type { EstateView } from './estate';
import { hexFrom } from './random';

/**
 * A maker of ids: the same seed gives the same ids in the same order. Those of one maker lie side by side in the keys of a database, so that a
 * thousand rows made at once touch a few of its pages. Ids that rows of `view` have are passed over: what is named by its moment may be made
 * twice at one moment.
 */
export const newIds = (seed: string, view?: EstateView): ((kind: Kind) => string) => {
  const maker = hexFrom(seed, 12);
  let count = 0;
  return (kind) => {
    for (;;) {
      const id = idFor(kind, `${maker}${(count++).toString(16).padStart(4, '0')}`);
      if (view?.table(kind).get(id) === undefined) return id;
    }
  };
};
