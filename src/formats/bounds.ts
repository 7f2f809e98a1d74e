import { Lexer, Parser } from 'yaml';

/** What a document may come to: enough for any change a person could look through, and little enough to read at once. */
export const MOST_DEPTH = 40;
export const MOST_KEYS = 40_000;
export const MOST_ANCHORS = 100;
/** Bytes of a YAML document: reading it takes about two seconds a MiB. */
export const MOST_YAML = 8 << 20;

/** Why a document is not read, in words. */
export interface Unbounded {
  code: string;
  message: string;
  mend: string;
}

const tooDeep: Unbounded = {
  code: 'too-deep',
  message: `The document nests deeper than ${MOST_DEPTH} levels.`,
  mend: 'Write it flatter: operations take lists of names, hardly more.',
};

/** How deep JSON nests, without reading it: one pass over the text, brackets in strings left out. */
export function boundsOfJson(text: string): Unbounded | null {
  let depth = 0;
  let inString = false;
  for (let k = 0; k < text.length; k++) {
    const c = text.charCodeAt(k);
    if (inString) {
      if (c === 92) k += 1;
      else if (c === 34) inString = false;
    } else if (c === 34) inString = true;
    else if (c === 91 || c === 123) {
      if (++depth > MOST_DEPTH) return tooDeep;
    } else if (c === 93 || c === 125) depth -= 1;
  }
  return null;
}

/** Depth, keys and anchors of YAML, counted from its tokens before anything is built of it. */
export function boundsOfYaml(text: string): Unbounded | null {
  if (text.length > MOST_YAML)
    return {
      code: 'too-large',
      message: `The YAML has ${text.length} characters; ${MOST_YAML} is the most.`,
      mend: 'Send it as JSON.',
    };
  const parser = new Parser();
  let keys = 0;
  let anchors = 0;
  for (const token of new Lexer().lex(text)) {
    if (token === ':') keys += 1;
    else if (token[0] === '&' || token[0] === '*') anchors += 1;
    if (keys > MOST_KEYS)
      return {
        code: 'too-many-keys',
        message: `The document has more than ${MOST_KEYS} keys.`,
        mend: 'Send it as JSON, or in several parts.',
      };
    if (anchors > MOST_ANCHORS)
      return {
        code: 'too-many-anchors',
        message: `The document has more than ${MOST_ANCHORS} anchors and aliases.`,
        mend: 'Write the values out.',
      };
    // What it yields is of no interest here: only how deep it stands.
    for (const _ of parser.next(token));
    if (parser.stack.length > 2 * MOST_DEPTH) return tooDeep;
  }
  return null;
}

// eslint-disable-next-line no-control-regex
const UNFIT = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f\u0085\u2028\u2029]/;

/** The path of the first text (or key) that holds control characters or half a character, or null. */
export function unfitText(value: unknown, path = ''): string | null {
  if (typeof value === 'string') return UNFIT.test(value) || !isWellFormed(value) ? path || 'the text' : null;
  if (Array.isArray(value)) {
    for (const [k, one] of value.entries()) {
      const found = unfitText(one, `${path}${path ? '.' : ''}${k}`);
      if (found) return found;
    }
    return null;
  }
  if (typeof value !== 'object' || value === null) return null;
  for (const [key, one] of Object.entries(value)) {
    const at = `${path}${path ? '.' : ''}${key}`;
    const found = unfitText(key, `${path || 'the document'}, a name in it`) ?? unfitText(one, at);
    if (found) return found;
  }
  return null;
}

/** No surrogate stands alone. */
const isWellFormed = (text: string): boolean =>
  !/[\ud800-\udfff]/.test(text.replace(/[\ud800-\udbff][\udc00-\udfff]/g, ''));
