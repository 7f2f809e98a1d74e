import type { InParts, Progress } from '@/core/units/in-parts';
import type { Plant } from './plant';
import { Problem } from './problem';

/** Longest that work keeps the thread before others are answered, real milliseconds. */
const SLICE = 12;
/** How often work that found the estate changed begins anew before it gives up. */
const TRIES = 6;

const breathe = () => new Promise<void>((resolve) => setImmediate(resolve));

/** Told how far sliced work is; a signal that is aborted ends it. */
export interface Watching {
  signal?: AbortSignal | undefined;
  progress?: ((progress: Progress) => void) | undefined;
  /** Whether the work has to wait just now. */
  wait?: (() => boolean) | undefined;
}

const cancelled = () => new Problem(499, 'cancelled', 'The request was taken back.', 'Ask again.');

/** Runs a generator to its end in slices. */
export async function inSlices<T>(work: InParts<T>, { signal, progress, wait }: Watching = {}): Promise<T> {
  let end = performance.now() + SLICE;
  for (;;) {
    const next = work.next();
    if (next.done) return next.value;
    if (performance.now() < end) continue;
    if (next.value) progress?.(next.value);
    do await breathe();
    while (wait?.());
    if (signal?.aborted) throw cancelled();
    end = performance.now() + SLICE;
  }
}

/**
 * Works something out from the estate in slices, as it stands at one moment: where the estate changes in between, the work begins anew, the
 * second time with the lab's clock held.
 * @throws Problem where others keep changing the estate.
 */
export async function ofOneMoment<T>(plant: Plant, make: () => InParts<T>, watching: Watching = {}): Promise<T> {
  let letGo = () => {};
  try {
    for (let tries = 0; tries < TRIES; tries++) {
      if (tries === 1) letGo = plant.hold();
      const { version } = plant;
      const result = await inSlices(untilMoved(plant, version, make()), watching);
      if (result !== MOVED) return result;
    }
  } finally {
    letGo();
  }
  throw new Problem(409, 'estate-moving', 'The estate kept changing while this was worked out.', 'Try once more.');
}

const MOVED = Symbol('moved');

/** The same work, given up as soon as the estate is another. */
function* untilMoved<T>(plant: Plant, version: number, work: InParts<T>): InParts<T | typeof MOVED> {
  for (;;) {
    const next = work.next();
    if (next.done) return next.value;
    yield next.value;
    if (plant.version !== version) return MOVED;
  }
}
