/** For each field that a change may move: how its new value is said, `is called gate-9`. A field that did not move is not said. */
export type FieldWords<T> = { [F in keyof T]?: (value: T[F]) => string };

/** What a change moves, in the order of the words; `nothing changes` where it moves nothing. */
export function movedWords<T extends object>(before: T, after: T, words: FieldWords<T>): string {
  const said: string[] = [];
  for (const field of Object.keys(words) as (keyof T)[])
    if (JSON.stringify(before[field]) !== JSON.stringify(after[field])) said.push(words[field]!(after[field]));
  return said.join(', ') || 'nothing changes';
}

/** How a secret that moved is said: never what it is. */
export const secretWords =
  (what: string) =>
  (secret: string | null): string =>
    secret === null ? `no ${what}` : `a new ${what}`;

/** A row with what an operation names of these fields; what is not named stays as it is. */
export function withNamed<T extends object, F extends keyof T>(
  row: T,
  params: { readonly [f in F]?: T[f] | undefined },
  ...fields: readonly F[]
): T {
  const after = { ...row };
  for (const field of fields) {
    const named = params[field];
    if (named !== undefined) after[field] = named;
  }
  return after;
}
