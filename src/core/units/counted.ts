/** `1 volume`, `2 volumes`; `many` where the plural is no mere s. */
export const counted = (count: number, one: string, many = `${one}s`): string => `${count} ${count === 1 ? one : many}`;

/** `gate-1, gate-2, deck-1 and 4 more`: a list as it is read, with the first few named. */
export function someOf(names: readonly string[], most = 3): string {
  const shown = names.slice(0, most).join(', ');
  return names.length > most ? `${shown} and ${names.length - most} more` : shown;
}

/** The same words with a capital at their head. */
export const capital = (words: string): string => `${words.charAt(0).toUpperCase()}${words.slice(1)}`;

/** The same words within a sentence: what is written in capitals stays so. */
export const uncapital = (words: string): string =>
  /^[A-Z][a-z ]/.test(words) ? `${words.charAt(0).toLowerCase()}${words.slice(1)}` : words;

/** Without the full stop at its end, where it has one. */
export const unstopped = (sentence: string): string => sentence.replace(/\.$/, '');

/** With one full stop at its end. */
export const stopped = (sentence: string): string => `${unstopped(sentence)}.`;
