import { notParsed, parsed, type Parsed } from '../units/parsed';
import { colonPairs } from './identity';

/** Formats of a Name_Identifier (FC-FS): the first digit tells which. */
const KNOWN_FORMATS = /^[1-6c-f]/;
const UNUSUAL_FORMATS = /^[34c-f]/;
const LOOKALIKES: Record<string, string> = { o: '0', l: '1', i: '1', s: '5' };

/**
 * Reads a Fibre Channel name in every usual way of writing: `50:00:…`, `5000-…`, `0x5000…`, `naa.5000…`; one kind of separator, equal groups
 * of 2 or 4 digits (FC-FS Name_Identifier). Gives the bare digits, 16 of a port or node name. The first failure wins.
 * Reasons: empty, bad-char, bad-grouping, too-short, too-long, naa-length-mismatch, all-zero, all-ones, naa-unknown, naa1-bits-not-zero,
 * volume-id-not-port-name (where a port or node name is wanted).
 */
export function parseWwn(text: string, wanted: 'port' | 'volume' | 'any' = 'port'): Parsed<string> {
  const trimmed = text.trim();
  if (trimmed === '')
    return notParsed(
      'empty',
      'No name is given. Write the 16 digits the switch shows, such as 50:00:0a:51:c1:00:00:01.',
    );
  const prefix = /^(0x|naa\.)/i.exec(trimmed)?.[0].length ?? 0;
  const rest = trimmed.slice(prefix);
  const bad = rest.search(/[^0-9a-fA-F:\-. ]/);
  if (bad >= 0) return badCharacter(trimmed, prefix + bad);
  const separators = new Set(rest.match(/[:\-. ]/g) ?? []);
  if (separators.size > 0) {
    const groups = rest.split([...separators][0]!);
    const length = groups[0]!.length;
    if (separators.size > 1 || ![2, 4].includes(length) || groups.some((group) => group.length !== length))
      return notParsed(
        'bad-grouping',
        `${trimmed} is not in equal groups of two or four digits. Write it as 50:00:0a:51:c1:00:00:01, or without separators.`,
      );
  }
  const digits = rest.replace(/[:\-. ]/g, '').toLowerCase();
  const count = `has ${digits.length} digits`;
  if (digits.length !== 16 && !(digits.length === 32 && digits[0] === '6')) {
    if (digits.length < 16)
      return notParsed('too-short', `${trimmed} ${count}; a port name has 16. Write the whole name.`);
    if (digits.length < 32 && digits[0] === '6')
      return notParsed(
        'naa-length-mismatch',
        `${trimmed} ${count}; a name that begins with 6 has 32. Write the whole name.`,
      );
    return notParsed('too-long', `${trimmed} ${count}; a port name has 16. Take out what is too much.`);
  }
  if (/^0+$/.test(digits))
    return notParsed('all-zero', `${trimmed} is all zeros, which names nothing. Write the real name.`);
  if (/^f+$/.test(digits))
    return notParsed('all-ones', `${trimmed} is all ones, which names nothing. Write the real name.`);
  if (!KNOWN_FORMATS.test(digits))
    return notParsed(
      'naa-unknown',
      `${trimmed} begins with ${digits[0]}, which is no known format of a name. Check its first digit.`,
      1,
    );
  if (digits[0] === '6' && digits.length === 16)
    return notParsed(
      'naa-length-mismatch',
      `${trimmed} begins with 6, so it has 32 digits and names a volume; this one has 16.`,
    );
  if (digits[0] === '1' && !digits.startsWith('1000'))
    return notParsed(
      'naa1-bits-not-zero',
      `${trimmed}: after the first digit 1 stand three zeros. Check the first four digits.`,
    );
  if (digits.length === 32 && wanted === 'port')
    return notParsed(
      'volume-id-not-port-name',
      `${trimmed} names a volume, not a port. Write the 16 digits of the port.`,
    );
  if (wanted === 'volume' && /^[14]/.test(digits))
    return notParsed('naa-not-for-volume', `${trimmed}: names that begin with ${digits[0]} never name a volume.`);
  return parsed(digits, UNUSUAL_FORMATS.test(digits) ? ['naa-unusual'] : []);
}

function badCharacter(shown: string, index: number): Parsed<string> {
  const sign = shown[index]!;
  const meant = LOOKALIKES[sign.toLowerCase()];
  const hint = meant ? `: letter ${sign} where the digit ${meant} is meant` : '';
  return notParsed(
    'bad-char',
    `${shown} has ${JSON.stringify(sign)} at position ${index + 1}${hint}. Only 0-9 and a-f may stand there.`,
    index + 1,
  );
}

/** The organisation a name was given by: 24 bits, 6 digits (FC-FS; for formats C–F the two top bits mark the format). */
export function organisationOf(digits: string): string {
  if (/^[12]/.test(digits)) return digits.slice(4, 10);
  if (/^[56]/.test(digits)) return digits.slice(1, 7);
  if (/^[c-f]/.test(digits)) {
    const low22 = parseInt(digits.slice(0, 6), 16) & 0x3fffff;
    return (((low22 >>> 16) << 18) | (low22 & 0xffff)).toString(16).padStart(6, '0');
  }
  return '';
}

/** `50:00:0a:51:c1:00:00:01` */
export const formatWwn = (digits: string): string => colonPairs(digits);

/** `…00:01`, where there is room for the end alone. */
export const shortWwn = (digits: string): string => `…${digits.slice(-4, -2)}:${digits.slice(-2)}`;
