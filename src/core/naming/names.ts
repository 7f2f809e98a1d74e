import { notParsed, parsed, type Parsed } from '../units/parsed';

/** Names of groups, pools, volumes, hosts: 1–63 characters, letters, digits, `.`, `_`, `-`; begins with a letter or digit. */
export function parseName(text: string, what: string): Parsed<string> {
  const name = text.trim();
  if (name === '') return notParsed('name-missing', `The ${what} has no name. Write one.`);
  if (name.length > 63)
    return notParsed(
      'name-too-long',
      `${name.slice(0, 20)}… has ${name.length} characters; 63 is the most. Write a shorter name.`,
    );
  const bad = name.search(/[^A-Za-z0-9._-]/);
  if (bad >= 0)
    return notParsed(
      'name-bad-char',
      `${name} has ${JSON.stringify(name[bad])} at position ${bad + 1}; names take letters, digits, dot, underscore and hyphen.`,
      bad + 1,
    );
  if (!/^[A-Za-z0-9]/.test(name))
    return notParsed('name-bad-start', `${name} begins with ${name[0]}; a name begins with a letter or digit.`, 1);
  return parsed(name);
}

/** Names of workloads, and of what else people talk about: spaces are allowed, 1–63 characters. */
export function parseWorkloadName(text: string, what = 'workload'): Parsed<string> {
  const name = text.trim().replace(/\s+/g, ' ');
  if (name === '') return notParsed('name-missing', `The ${what} has no name. Write one.`);
  const unseen = name.search(/[\p{Cc}\p{Cf}]/u);
  if (unseen >= 0)
    return notParsed(
      'name-bad-char',
      `${name} has a character that nobody sees at position ${unseen + 1}. Take it out.`,
      unseen + 1,
    );
  if (name.length > 63)
    return notParsed(
      'name-too-long',
      `${name.slice(0, 20)}… has ${name.length} characters; 63 is the most. Write a shorter name.`,
    );
  return parsed(name);
}

/**
 * Names of a series. One thing keeps the plain name. More take the place marked by `#` (`log-##` → log-01, log-02 …), or are numbered
 * at the end (`booking` → booking-1 …); numbers have as many digits as the last one needs, or as there are `#`.
 */
export function nameSeries(pattern: string, count: number, from = 1): string[] {
  if (count === 1 && !pattern.includes('#')) return [pattern];
  const marks = /#+/.exec(pattern);
  const width = Math.max(marks?.[0].length ?? 1, String(from + count - 1).length);
  return Array.from({ length: count }, (_, k) => {
    const number = String(from + k).padStart(width, '0');
    return marks ? pattern.replace(/#+/, number) : `${pattern}-${number}`;
  });
}
