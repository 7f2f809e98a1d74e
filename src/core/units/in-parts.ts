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

/** Something worked out once: at once when it is asked for, or in slices by who comes before. */
export interface Prepared<T> {
  (): T;
  prepare: () => InParts<void>;
}

export function prepared<T>(work: () => InParts<T>): Prepared<T> {
  let known: { value: T } | null = null;
  const ask = (): T => (known ??= { value: whole(work()) }).value;
  return Object.assign(ask, {
    *prepare(): InParts<void> {
      known ??= { value: yield* work() };
    },
  });
}
