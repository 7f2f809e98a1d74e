import { createHash } from 'node:crypto';

const ROUNDS = 400_000;
const BLOCK = Buffer.alloc(4 * 1024 * 1024, 7);

/** A fixed piece of plain JavaScript: mixing whole numbers and keeping them in a map. */
function mixing(): number {
  const seen = new Map<number, number>();
  let state = 1;
  for (let k = 0; k < ROUNDS; k++) {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    const key = state & 0xffff;
    seen.set(key, (seen.get(key) ?? 0) + 1);
  }
  return seen.size;
}

/** A fixed piece of native work. */
const hashing = (): string => createHash('sha256').update(BLOCK).digest('hex');

/**
 * Milliseconds of a fixed piece of work, the median of three: figures divided by it hold from machine to machine, and over the moods of one.
 */
export function yardstick(): number {
  const times = Array.from({ length: 3 }, () => {
    const begun = performance.now();
    mixing();
    hashing();
    return performance.now() - begun;
  });
  return times.sort((a, b) => a - b)[1]!;
}
