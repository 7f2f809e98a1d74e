/** How far long work is. */
export interface Progress {
  done: number;
  of: number;
}

/** Work that can be done in slices: it stops after each part, may tell how far it is, and gives its result in the end. */
export type InParts<T> = Generator<Progress | undefined, T>;

/** Does the whole of it at once. */
export function whole<T>(work: InParts<T>): T {
  for (;;) {
    const next = work.next();
    if (next.done) return next.value;
  }
}
