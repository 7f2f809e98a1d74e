import { notParsed, parsed, type Parsed } from '../units/parsed';

const MAX_OCTETS = 223;
const FORWARD_TOP_LABELS = new Set(['com', 'org', 'net', 'edu', 'gov', 'mil', 'int', 'example', 'test']);
/** Characters that the profile maps to nothing (RFC 3722 §4, RFC 3454 table B.1): soft hyphen, zero-width space and joiners, variation selectors. */
const NOTHING = /\u00ad|\u034f|\u1806|[\u180b-\u180d]|[\u200b-\u200d]|\u2060|[\ufe00-\ufe0f]|\ufeff/g;
/** What it prohibits beyond ASCII (tables C.2 to C.9): controls, formats, private use, surrogates; and the full stop of ideographs. */
const PROHIBITED = /[\p{Cc}\p{Cf}\p{Co}\p{Cs}]|\u0340|\u0341|[\u2ff0-\u2ffb]|\u3002|[\ufff9-\uffff]/u;
const LABEL = /^[a-z0-9\u0080-\uffff](?:[a-z0-9\u0080-\uffff-]{0,61}[a-z0-9\u0080-\uffff])?$/;

/**
 * Reads an iSCSI name (RFC 7143 §4.2.7, RFC 3721, the profile of RFC 3722) and gives it folded, as it is compared.
 * `today` is a month, `2031-04`: the naming authority's date must not lie after it. The first failure wins.
 * Reasons: empty, port-name-not-node-name, space-inside, too-long, bad-prefix, bad-char, bad-date, month-out-of-range, date-in-future,
 * date-before-domains, missing-authority, bad-authority, empty-suffix, eui-length, naa-length, naa-length-mismatch, naa-unknown.
 */
export function parseIscsiName(text: string, today: string): Parsed<string> {
  const trimmed = text.trim();
  if (trimmed === '')
    return notParsed(
      'empty',
      'No iSCSI name is given. Write the name as the host shows it, such as iqn.2031-04.example.skarholt:gate-1.',
    );
  if (/,(i|t),0x/i.test(trimmed))
    return notParsed(
      'port-name-not-node-name',
      `${trimmed} is a port name: it ends in a session or portal group number. Write the part before the comma.`,
    );
  const folded = trimmed.replace(NOTHING, '').normalize('NFKC').toLowerCase();
  const warnings = folded === trimmed ? [] : ['case-folded'];
  const space = folded.search(/\s/);
  if (space >= 0)
    return notParsed(
      'space-inside',
      `${trimmed} has a blank at position ${space + 1}. An iSCSI name has none; take it out.`,
      space + 1,
    );
  const octets = new TextEncoder().encode(folded).length;
  if (octets > MAX_OCTETS)
    return notParsed('too-long', `The name has ${octets} octets; ${MAX_OCTETS} is the most. Write a shorter one.`);
  if (folded.startsWith('iqn.')) return parseIqn(trimmed, folded, today, warnings);
  if (folded.startsWith('eui.')) return parseHexName(trimmed, folded, warnings, [16]);
  if (folded.startsWith('naa.')) return parseHexName(trimmed, folded, warnings, [16, 32]);
  return notParsed(
    'bad-prefix',
    `${trimmed} begins with neither iqn., eui. nor naa. Write the whole name, such as iqn.2031-04.example.skarholt:gate-1.`,
  );
}

function parseIqn(shown: string, folded: string, today: string, warnings: string[]): Parsed<string> {
  const [ascii, beyond] = [folded.search(/[^a-z0-9\-.:\u0080-\uffff]/), folded.search(PROHIBITED)];
  const bad = ascii < 0 || (beyond >= 0 && beyond < ascii) ? beyond : ascii;
  if (bad >= 0) {
    const hint = folded[bad] === '_' ? ' Perhaps - is meant.' : '';
    return notParsed(
      'bad-char',
      `${shown} has ${signText(folded[bad]!)} at position ${bad + 1}; only a-z, 0-9, - . and : may stand there.${hint}`,
      bad + 1,
    );
  }
  const date = /^iqn\.(\d{4})-(\d{2})(?=[.:]|$)/.exec(folded);
  if (!date)
    return notParsed('bad-date', `${shown} has no month after iqn. Write year and month, such as iqn.2031-04.`, 5);
  const [head, year, month] = date;
  if (Number(month) < 1 || Number(month) > 12)
    return notParsed('month-out-of-range', `${shown} names month ${month}; months run from 01 to 12.`, 10);
  if (`${year}-${month}` > today)
    return notParsed(
      'date-in-future',
      `${shown} is dated ${year}-${month}, after this month, ${today}. Write a month in which the owner held the domain.`,
      5,
    );
  if (Number(year) < 1985)
    return notParsed(
      'date-before-domains',
      `${shown} is dated ${year}; domain names are younger. Correct the year.`,
      5,
    );
  const rest = folded.slice(head.length);
  if (!rest.startsWith('.') || rest.length === 1)
    return notParsed(
      'missing-authority',
      `${shown} names no owner after the month. Write the domain reversed, such as iqn.2031-04.example.skarholt.`,
    );
  const colon = rest.indexOf(':');
  const labels = (colon < 0 ? rest.slice(1) : rest.slice(1, colon)).split('.');
  const wrong = labels.find((label) => !LABEL.test(label));
  if (wrong !== undefined)
    return notParsed(
      'bad-authority',
      `${shown}: "${wrong}" is no part of a domain name. Correct the owner after the month.`,
    );
  if (colon >= 0 && colon === rest.length - 1)
    return notParsed(
      'empty-suffix',
      `${shown} ends in a colon with nothing after it. Write the rest or take the colon out.`,
    );
  if (labels.length === 1) warnings.push('authority-one-label');
  else if (FORWARD_TOP_LABELS.has(labels.at(-1)!) && !FORWARD_TOP_LABELS.has(labels[0]!))
    warnings.push('authority-not-reversed');
  return parsed(folded, warnings);
}

function parseHexName(shown: string, folded: string, warnings: string[], lengths: number[]): Parsed<string> {
  const digits = folded.slice(4);
  const bad = digits.search(/[^0-9a-f]/);
  if (bad >= 0)
    return notParsed(
      'bad-char',
      `${shown} has ${JSON.stringify(digits[bad])} at position ${bad + 5}; only hexadecimal digits may stand there.`,
      bad + 5,
    );
  const kind = folded.slice(0, 3);
  if (!lengths.includes(digits.length))
    return notParsed(
      `${kind}-length`,
      `${shown} has ${digits.length} digits; ${kind}. takes ${lengths.join(' or ')}. Write the whole name.`,
    );
  if (kind === 'naa') {
    if (!/^[1-6c-f]/.test(digits))
      return notParsed(
        'naa-unknown',
        `${shown} begins with ${digits[0]}, which is no known format of a name. Check its first digit.`,
        5,
      );
    if ((digits.length === 32) !== (digits[0] === '6'))
      return notParsed(
        'naa-length-mismatch',
        `${shown}: a name of format 6 has 32 digits, the others 16; this one has ${digits.length}.`,
      );
  }
  return parsed(folded, warnings);
}

/** A character as it can be told: one that cannot be seen by its number. */
const signText = (sign: string): string =>
  PROHIBITED.test(sign)
    ? `the character U+${sign.codePointAt(0)!.toString(16).toUpperCase().padStart(4, '0')}`
    : JSON.stringify(sign);

/** The iSCSI name the product proposes for a new host or array. */
export const proposeIqn = (authority: string, thing: string): string =>
  `${authority}:${thing.toLowerCase().replace(/[^a-z0-9.-]+/g, '-')}`;
