import { formatBytes, parseBytes } from './bytes';
import { notParsed, type Parsed } from './parsed';

/** Bytes a second. */
export type BytesPerSecond = number;

/** Reads `32 MiB/s`. `0` means no traffic. The reasons are those of {@link parseBytes}, and `unit-missing` where `/s` is absent. */
export function parseRate(text: string): Parsed<BytesPerSecond> {
  const trimmed = text.trim();
  if (/^0+(\s*[A-Za-z]*\/s)?$/.test(trimmed)) return { ok: true, value: 0, warnings: [] };
  const match = /^(.*)\/\s*s$/.exec(trimmed);
  if (!match)
    return notParsed(
      'unit-missing',
      `${trimmed || 'The rate'} is no rate. Write a size each second, such as 32 MiB/s, or 0.`,
    );
  return parseBytes(match[1]!);
}

export const formatRate = (rate: BytesPerSecond): string => (rate === 0 ? '0 MiB/s' : `${formatBytes(rate)}/s`);
