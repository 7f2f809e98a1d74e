import { kinds, type Kind } from './entities';
import type { EstateView } from './estate';

/** What a piece of work rests on; all kinds of rows unless said. */
interface RestsOn {
  of?: readonly Kind[];
  /** Of another kind only this much. */
  and?: (view: EstateView) => string;
}

/** Keeps what is worked out of an estate as long as nothing it rests on moves; an overlay in which nothing of it moved shares what is kept below. */
export function whileStill<T>(
  work: (view: EstateView) => T,
  { of = kinds, and = () => '' }: RestsOn = {},
): (view: EstateView) => T {
  const books = new WeakMap<EstateView, { stamp: string; known: T }>();
  const movedIn = (view: EstateView): number => of.reduce((sum, kind) => sum + view.revision(kind), 0);
  return (view) => {
    const more = and(view);
    let root = view;
    while (root.below && movedIn(root) === 0 && and(root.below) === more) root = root.below;
    const stamp = `${movedIn(root)} ${more}`;
    const book = books.get(root);
    if (book?.stamp === stamp) return book.known;
    const known = work(root);
    books.set(root, { stamp, known });
    return known;
  };
}
