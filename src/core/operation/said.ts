/**
 * What a field that may be empty comes to: where nothing is said it stays as it was, one word (usually no word at all) empties it.
 */
export function saidOr<T, N extends string>(
  given: T | undefined,
  before: Exclude<T, N> | null,
  none: N,
): Exclude<T, N> | null {
  if (given === undefined) return before;
  return given === (none as unknown) ? null : (given as Exclude<T, N>);
}
