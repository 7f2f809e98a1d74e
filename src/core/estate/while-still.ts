import { kinds } from './entities';
import type { EstateView } from './estate';

const movedIn = (view: EstateView): number => kinds.reduce((sum, kind) => sum + view.revision(kind), 0);

/** Keeps what is worked out of an estate as long as nothing in it moves; an overlay in which nothing moved shares what is kept of the one below. */
export function whileStill<T>(work: (view: EstateView) => T): (view: EstateView) => T {
  const books = new WeakMap<EstateView, { stamp: number; known: T }>();
  return (view) => {
    let root = view;
    while (root.below && movedIn(root) === 0) root = root.below;
    const stamp = movedIn(root);
    const book = books.get(root);
    if (book?.stamp === stamp) return book.known;
    const known = work(root);
    books.set(root, { stamp, known });
    return known;
  };
}
