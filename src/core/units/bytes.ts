import { notParsed, parsed, type Parsed } from './parsed';

/** A count of bytes: a non-negative safe integer. */
export type Bytes = number;

export const KIB = 2 ** 10;
export const MIB = 2 ** 20;
export const GIB = 2 ** 30;
export const TIB = 2 ** 40;

/** Above this a Number is no longer exact, so nothing larger is accepted anywhere. */
export const MAX_BYTES: Bytes = Number.MAX_SAFE_INTEGER;

const PREFIXES = ['', 'K', 'M', 'G', 'T', 'P', 'E'];
const PATTERN = /^\s*([0-9]{1,3}(?:[ _][0-9]{3})+|[0-9]+)(?:\.([0-9]+))?\s*([A-Za-z]*)\s*$/;

function factorOf(unit: string): { factor: bigint; bare: boolean } | null {
  if (unit === 'B') return { factor: 1n, bare: false };
  const match = /^([kKMGTPE])(i?)(B?)$/.exec(unit);
  if (!match) return null;
  const power = BigInt(PREFIXES.indexOf(match[1]!.toUpperCase()));
  const decimal = match[2] === '' && match[3] === 'B';
  return { factor: decimal ? 1000n ** power : 1024n ** power, bare: match[2] === '' && match[3] === '' };
}

/**
 * Reads a size as people write it: `500 GiB`, `1.5 TiB`, `3.84 TB`, `20G` (a bare letter is binary and warned about).
 * A fraction of a byte is rounded up for what is asked for and down for what is promised.
 * Reasons: empty, negative, decimal-comma, exponent, unit-missing, unit-unknown, not-a-size, fraction-too-long, zero, too-large.
 */
export function parseBytes(text: string, rounding: 'request' | 'promise' = 'request'): Parsed<Bytes> {
  const trimmed = text.trim();
  if (trimmed === '') return notParsed('empty', 'No size is given. Write a number and a unit, such as 500 GiB.');
  if (trimmed.startsWith('-')) return notParsed('negative', `${trimmed} is below zero. Write a size above zero.`);
  if (/^[0-9][0-9 _]*,[0-9]/.test(trimmed))
    return notParsed(
      'decimal-comma',
      `${trimmed} has a comma, which can be read two ways. Write the decimal point: 1.5 TiB.`,
    );
  if (/^[0-9.]+e[+-]?[0-9]+/i.test(trimmed))
    return notParsed('exponent', `${trimmed} is in exponent form. Write the number out, such as 500 GiB.`);
  const match = PATTERN.exec(trimmed);
  if (!match) return notParsed('not-a-size', `${trimmed} is no size. Write a number and a unit, such as 500 GiB.`);
  const [, whole, fraction = '', unit] = match;
  if (!unit) return notParsed('unit-missing', `${trimmed} has no unit. Write the unit, such as ${trimmed} GiB.`);
  const factor = factorOf(unit);
  if (!factor)
    return notParsed(
      'unit-unknown',
      `${unit} is no unit of size. Use B, KiB, MiB, GiB, TiB, PiB, or kB, MB, GB, TB, PB.`,
    );
  if (fraction.length > 6)
    return notParsed(
      'fraction-too-long',
      `${trimmed} has more than six digits after the point. Write it in a smaller unit.`,
    );
  const scale = 10n ** BigInt(fraction.length);
  const scaled = (BigInt(whole!.replace(/[ _]/g, '')) * scale + BigInt(fraction || '0')) * factor.factor;
  const bytes = rounding === 'request' ? (scaled + scale - 1n) / scale : scaled / scale;
  if (bytes === 0n) return notParsed('zero', `${trimmed} is zero. Write a size above zero.`);
  if (bytes > BigInt(MAX_BYTES))
    return notParsed(
      'too-large',
      `${trimmed} is beyond the largest size, ${formatBytes(MAX_BYTES)}. Write a smaller one.`,
    );
  const value = Number(bytes);
  return parsed(value, factor.bare ? [`${unit} is read as ${unit.toUpperCase()}iB: ${formatBytes(value)}.`] : []);
}

const THIN_SPACE = '\u2009';

function withUnit(bytes: Bytes, base: number, units: readonly string[], digits: number, up: boolean): string {
  let power = 0;
  let divisor = 1;
  while (power < units.length - 1 && bytes >= divisor * base) {
    divisor *= base;
    power += 1;
  }
  const scale = 10 ** (power === 0 ? 0 : digits);
  // Exactly: a byte too many is told, however large the rest.
  const exact = BigInt(up ? Math.ceil(bytes) : Math.floor(bytes)) * BigInt(scale);
  const value = (exact + (up ? BigInt(divisor) - 1n : 0n)) / BigInt(divisor);
  const grouped = String(value / BigInt(scale)).replace(/\B(?=(\d{3})+$)/g, THIN_SPACE);
  const fraction =
    scale === 1
      ? ''
      : String(value % BigInt(scale))
          .padStart(digits, '0')
          .replace(/0+$/, '');
  return `${grouped}${fraction === '' ? '' : `.${fraction}`} ${units[power]}`;
}

const BINARY = ['B', 'KiB', 'MiB', 'GiB', 'TiB', 'PiB', 'EiB'];
const DECIMAL = ['B', 'kB', 'MB', 'GB', 'TB', 'PB', 'EB'];

/** Binary, largest unit with a value of at least 1. Free and usable are cut off; pass 'used' to round up what is consumed. */
export const formatBytes = (bytes: Bytes, kind: 'free' | 'used' = 'free', digits = 2): string =>
  withUnit(bytes, 1024, BINARY, digits, kind === 'used');

/** Decimal, as drives are labelled. */
export const formatDecimalBytes = (bytes: Bytes): string => withUnit(bytes, 1000, DECIMAL, 2, false);

/** Exact text that {@link parseBytes} reads back to the same bytes: the largest binary unit without a remainder. */
export function exactBytes(bytes: Bytes): string {
  for (const [unit, size] of [
    ['TiB', TIB],
    ['GiB', GIB],
    ['MiB', MIB],
    ['KiB', KIB],
  ] as const)
    if (bytes >= size && bytes % size === 0) return `${bytes / size} ${unit}`;
  return `${bytes} B`;
}

/** Whole per cent used, rounded up; 100 only when nothing is left. */
export function percentUsed(used: Bytes, whole: Bytes): number {
  if (whole <= 0) return used > 0 ? 100 : 0;
  const [part, all] = [BigInt(Math.ceil(used)), BigInt(Math.floor(whole))];
  const percent = Number((part * 100n + all - 1n) / all);
  return used < whole ? Math.min(percent, 99) : percent;
}
