import type { z } from 'zod';
import { isSecretField } from '../kinds/secret-field';

type Issue = z.core.$ZodIssue;

/** What was expected, in a person's words. */
const expectations: Record<string, string> = {
  string: 'a text',
  number: 'a number',
  int: 'a whole number',
  boolean: 'true or false',
  array: 'a list',
  object: 'a set of named fields',
  record: 'a set of named fields',
  null: 'nothing',
};

/** Longest that a value is said back. */
const LONGEST = 60;
/** What may be secret is never said back. */
const hidden = (path: readonly PropertyKey[]): boolean =>
  path.some((step) => typeof step === 'string' && isSecretField(step));

/** What a value is, in a person's words. */
function given(value: unknown, path: readonly PropertyKey[]): string {
  if (hidden(path)) return 'what was given';
  if (value === null) return 'nothing';
  if (Array.isArray(value)) return 'a list';
  if (typeof value === 'object') return 'a set of named fields';
  if (value === undefined) return 'left out';
  const text = JSON.stringify(value);
  return text.length > LONGEST ? `${text.slice(0, LONGEST)} …` : text;
}

/** Written in capitals wherever they stand. */
const capitals = /\b(chap|ip|iqn|lun|mtu|naa|nqn|os|raid|tcp|vlan|wwpn)\b/g;

/** `raidGroups` → `RAID groups`. */
export const inWords = (place: string): string =>
  place
    .replace(/([a-z])([A-Z])/g, (_, a: string, b: string) => `${a} ${b.toLowerCase()}`)
    .replace(capitals, (word) => word.toUpperCase());

/** Where in what was given: `interfaces, entry 2, mtu`. */
const placeOf = (path: readonly PropertyKey[]): string =>
  path.map((step) => (typeof step === 'number' ? `entry ${step + 1}` : inWords(String(step)))).join(', ');

function valueAt(input: unknown, path: readonly PropertyKey[]): unknown {
  let value = input;
  for (const step of path) {
    if (value === null || typeof value !== 'object') return undefined;
    value = (value as Record<PropertyKey, unknown>)[step];
  }
  return value;
}

/** How much of something: characters of a text, entries of a list, or the number itself. */
function measure(origin: string, bound: number | bigint): string {
  if (origin === 'string') return `${bound} ${Number(bound) === 1 ? 'character' : 'characters'}`;
  if (origin === 'array' || origin === 'set') return `${bound} ${Number(bound) === 1 ? 'entry' : 'entries'}`;
  return String(bound);
}

const oneOf = (values: readonly unknown[]): string => {
  const texts = values.map(String);
  return texts.length === 1 ? texts[0]! : `one of ${texts.join(', ')}`;
};

/** What should stand there; null where only the schema's own words say it. */
function expected(issue: Issue): string | null {
  switch (issue.code) {
    case 'invalid_type':
      return expectations[issue.expected] ?? null;
    case 'invalid_value':
      return oneOf(issue.values);
    case 'too_small':
      if (issue.origin === 'string' && Number(issue.minimum) === 1) return 'a text that is not empty';
      return `${issue.inclusive ? 'at least' : 'more than'} ${measure(issue.origin, issue.minimum)}`;
    case 'too_big':
      return `${issue.inclusive ? 'at most' : 'less than'} ${measure(issue.origin, issue.maximum)}`;
    case 'not_multiple_of':
      return `a multiple of ${issue.divisor}`;
    case 'invalid_union':
      return eitherOf(issue.errors);
    default:
      return null;
  }
}

/** Whichever alternative was meant: the ways are told together where all fail at once, else the one that came farthest speaks. */
function eitherOf(ways: readonly (readonly Issue[])[]): string | null {
  const words = ways.map(([first]) => (first?.path.length === 0 ? expected(first) : null));
  // True and false are read as words too: that need not be said twice.
  const told = [...new Set(words.filter((word) => word !== null && word !== 'one of true, false'))];
  return told.length > 0 ? told.join(', or ') : null;
}

/** The issue itself, or inside of alternatives the one that came farthest. */
function nearest(issue: Issue): Issue {
  if (issue.code !== 'invalid_union') return issue;
  const inner = issue.errors.flat().sort((a, b) => b.path.length - a.path.length)[0];
  if (!inner || inner.path.length === 0) return issue;
  return nearest({ ...inner, path: [...issue.path, ...inner.path] });
}

/** Whether the schema brings words of its own. */
const hasOwnWords = ({ message }: Issue): boolean =>
  !/^(Invalid|Too small|Too big|Unrecognized|Expected)/.test(message);

/** Why something that was given does not fit its schema, and what would: in a person's words, with the place and the value. */
export function misfit(found: Issue, input: unknown): { message: string; mend: string } {
  const issue = nearest(found);
  const place = placeOf(issue.path);
  const at = place === '' ? 'What was given' : place.replace(/^./, (letter) => letter.toUpperCase());
  if (issue.code === 'unrecognized_keys')
    return {
      message: `${at} has no field ${issue.keys.join(', ')}.`,
      mend: `Leave ${issue.keys.length === 1 ? 'it' : 'them'} out, or look for a slip of the pen.`,
    };
  if (hasOwnWords(issue)) return { message: `${at}: ${issue.message}.`, mend: `Correct the ${place || 'parameters'}.` };
  const wanted = expected(issue);
  const value = given(valueAt(input, issue.path), issue.path);
  if (wanted === null)
    return { message: `${at} cannot be ${value}.`, mend: `Write the ${place || 'parameters'} as the documents show.` };
  return { message: `${at} must be ${wanted}, not ${value}.`, mend: `Give ${wanted}.` };
}
