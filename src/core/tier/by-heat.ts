/** Fewer than these are sorted by comparing. */
const FEW = 4096;
/** Digits of a key are so wide. */
const BITS = 16;
const BUCKETS = 1 << BITS;

/** Places of extents by heat descending, ties by place: a million in well under a second. */
export function byHeat(heat: ArrayLike<number>): Uint32Array {
  const order = new Uint32Array(heat.length);
  for (let k = 0; k < order.length; k++) order[k] = k;
  return heat.length < FEW ? order.sort((a, b) => heat[b]! - heat[a]! || a - b) : byDigits(heat, order);
}

/** Sorts by the bits of the heats, from the lowest digit to the highest: each pass keeps the order of the one before. */
function byDigits(heat: ArrayLike<number>, order: Uint32Array<ArrayBuffer>): Uint32Array {
  const values = new Float64Array(heat.length);
  // Adding nothing makes both zeros one.
  for (let k = 0; k < values.length; k++) values[k] = heat[k]! + 0;
  const words = new Uint32Array(values.buffer);
  const littleEndian = new Uint8Array(Uint16Array.of(1).buffer)[0] === 1;
  const [low, high] = littleEndian ? [0, 1] : [1, 0];
  for (let k = 0; k < heat.length; k++) {
    // Bits of what is positive rise with the value, of what is negative they fall: turned so that the greatest comes first.
    const negative = words[2 * k + high]! >>> 31 === 1;
    if (negative) continue;
    words[2 * k + high] = ~words[2 * k + high]! & 0x7fffffff;
    words[2 * k + low] = ~words[2 * k + low]!;
  }
  let [from, to] = [order, new Uint32Array(order.length)];
  for (const [word, shift] of [
    [low, 0],
    [low, BITS],
    [high, 0],
    [high, BITS],
  ] as const) {
    const starts = new Uint32Array(BUCKETS + 1);
    const digit = (k: number) => (words[2 * k + word]! >>> shift) & (BUCKETS - 1);
    for (let k = 0; k < from.length; k++) starts[digit(k) + 1]! += 1;
    for (let b = 0; b < BUCKETS; b++) starts[b + 1]! += starts[b]!;
    for (let k = 0; k < from.length; k++) to[starts[digit(from[k]!)]!++] = from[k]!;
    [from, to] = [to, from];
  }
  return from;
}
