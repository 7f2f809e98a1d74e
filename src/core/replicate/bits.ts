import { notParsed, parsed, type Parsed } from '../units/parsed';

const units: Readonly<Record<string, number>> = { '': 1, k: 1e3, m: 1e6, g: 1e9, t: 1e12 };

/** Reads `10 Gb/s`, `200 Mbit/s`: decimal bits a second. Reasons: speed-unreadable. */
export function parseBits(text: string): Parsed<number> {
  const match = /^(\d+(?:[.,]\d+)?)\s*([kmgt]?)b(?:it)?(?:\/s|ps)$/i.exec(text.trim());
  const value = match ? Number(match[1]!.replace(',', '.')) * units[match[2]!.toLowerCase()]! : 0;
  return value > 0
    ? parsed(value)
    : notParsed(
        'speed-unreadable',
        `${text || 'Nothing'} is no speed of a line. Write one such as 10 Gb/s or 200 Mb/s.`,
      );
}

/** `10 Gb/s` */
export function formatBits(bitsPerS: number): string {
  const [unit, size] = (
    [
      ['Tb/s', 1e12],
      ['Gb/s', 1e9],
      ['Mb/s', 1e6],
      ['kb/s', 1e3],
    ] as const
  ).find(([, least]) => bitsPerS >= least) ?? ['b/s', 1];
  return `${Number((bitsPerS / size).toPrecision(3))} ${unit}`;
}
