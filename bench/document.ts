import os from 'node:os';

/** A figure of the bench, as it is printed. */
export interface Row {
  what: string;
  median: string;
  worst: string;
  /** The median in yardsticks, measured just before; empty where it is no time. */
  yardsticks: string;
  target: string;
  held: string;
}

/** The last run, for comparing the next one with: by the yardsticks where the machine is another. */
export const benchDocument = (rows: readonly Row[]): string =>
  [
    '# Bench',
    '',
    'Written by `npm run bench`. A yardstick is a fixed piece of plain JavaScript and a fixed hash, measured beside each figure',
    '(`bench/yardstick.ts`): medians in yardsticks hold from machine to machine.',
    '',
    `${os.cpus().length} cores, Node ${process.version}.`,
    '',
    '| what | median | worst | yardsticks | target | held |',
    '|---|--:|--:|--:|--:|---|',
    ...rows.map((row) => `| ${[row.what, row.median, row.worst, row.yardsticks, row.target, row.held].join(' | ')} |`),
    '',
  ].join('\n');
