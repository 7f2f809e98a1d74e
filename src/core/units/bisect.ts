/**
 * Where a function that is negative at `low` and not at `high` becomes so: halved until the interval no longer shrinks in floating point; the
 * upper end is the answer.
 */
export function bisected(of: (x: number) => number, low: number, high: number): number {
  let [below, above] = [low, high];
  for (;;) {
    const middle = (below + above) / 2;
    if (middle <= below || middle >= above) return above;
    if (of(middle) < 0) below = middle;
    else above = middle;
  }
}
