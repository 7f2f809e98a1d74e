/** What a reader of human text answers: the value, or one sentence that names the value, the rule and the mend. */
export type Parsed<T> = { ok: true; value: T; warnings: string[] } | ParseFailure;

export interface ParseFailure {
  ok: false;
  /** Stable, kebab-case. */
  reason: string;
  message: string;
  /** 1-based position of the first wrong character, where there is one. */
  at?: number;
}

export const parsed = <T>(value: T, warnings: string[] = []): Parsed<T> => ({ ok: true, value, warnings });

export const notParsed = (reason: string, message: string, at?: number): ParseFailure => ({
  ok: false,
  reason,
  message,
  ...(at === undefined ? {} : { at }),
});
