import { notParsed, parsed, type Parsed } from '../units/parsed';

/** The highest LUN that eight bytes name in one level: extended flat addressing has 24 bits. */
export const HIGHEST_LUN = 0xffffff;

/**
 * The 8 bytes of a LUN as it goes over the wire (SAM): 0–255 peripheral, to 16,383 flat, to 16,777,215 extended flat; 16 digits.
 * @throws RangeError beyond {@link HIGHEST_LUN}, or where it is no whole number from 0.
 */
export function encodeLun(lun: number): string {
  if (!Number.isInteger(lun) || lun < 0 || lun > HIGHEST_LUN)
    throw new RangeError(`${lun} is no LUN: they run from 0 to ${HIGHEST_LUN}.`);
  const hex = (value: number, digits: number) => value.toString(16).padStart(digits, '0');
  if (lun <= 255) return `00${hex(lun, 2)}`.padEnd(16, '0');
  if (lun <= 16_383) return hex(0x4000 | lun, 4).padEnd(16, '0');
  return `d2${hex(lun, 6)}`.padEnd(16, '0');
}

/** Reads the 8 bytes. Reasons: lun-bad-code, lun-bus-not-zero, lun-coding-unsupported; a code of more than one level is of the last. */
export function decodeLun(code: string): Parsed<number> {
  if (!/^[0-9a-f]{16}$/i.test(code)) return notParsed('lun-bad-code', `${code} is no LUN: it has 16 digits.`);
  const first = parseInt(code.slice(0, 2), 16);
  const method = first >> 6;
  const used = method === 3 ? 8 : 4;
  if (method !== 2 && /[^0]/.test(code.slice(used)))
    return notParsed(
      'lun-coding-unsupported',
      `${code} names a unit behind another one, in more than one level; hosts here read one level.`,
    );
  if (method === 0)
    return (first & 0x3f) === 0
      ? parsed(parseInt(code.slice(2, 4), 16))
      : notParsed('lun-bus-not-zero', `${code} names bus ${first & 0x3f}; only bus 0 is used.`);
  if (method === 1) return parsed(parseInt(code.slice(0, 4), 16) & 0x3fff);
  if (method === 3 && first === 0xd2) return parsed(parseInt(code.slice(2, 8), 16));
  return notParsed('lun-coding-unsupported', `${code} is coded in a way that hosts here do not read.`);
}
