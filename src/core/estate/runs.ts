import type { ByteRun } from './entities';
import type { Bytes } from '../units/bytes';

/** Sets of bytes as ascending runs `[start, end)` that neither touch nor overlap. */
export type Runs = readonly ByteRun[];

/** Runs in order, joined where they touch. */
export function joined(runs: Runs): ByteRun[] {
  // They mostly come in order already.
  const inOrder = runs.every((run, k) => k === 0 || runs[k - 1]![0] <= run[0]);
  const out: ByteRun[] = [];
  for (const [start, end] of inOrder ? runs : [...runs].sort((a, b) => a[0] - b[0])) {
    if (end <= start) continue;
    const last = out.at(-1);
    if (last && start <= last[1]) last[1] = Math.max(last[1], end);
    else out.push([start, end]);
  }
  return out;
}

export const union = (a: Runs, b: Runs): ByteRun[] => joined([...a, ...b]);

export function without(a: Runs, b: Runs): ByteRun[] {
  const out: ByteRun[] = [];
  let k = 0;
  for (const [from, end] of a) {
    let start = from;
    while (k < b.length && b[k]![1] <= start) k += 1;
    for (let j = k; j < b.length && b[j]![0] < end; j++) {
      if (b[j]![0] > start) out.push([start, b[j]![0]]);
      start = Math.max(start, b[j]![1]);
    }
    if (start < end) out.push([start, end]);
  }
  return out;
}

export const within = (a: Runs, start: Bytes, end: Bytes): ByteRun[] =>
  a.flatMap(([from, to]): ByteRun[] => {
    const run: ByteRun = [Math.max(from, start), Math.min(to, end)];
    return run[0] < run[1] ? [run] : [];
  });

export const common = (a: Runs, b: Runs): ByteRun[] => b.flatMap(([start, end]) => within(a, start, end));

export const bytesIn = (runs: Runs): Bytes => runs.reduce((sum, [start, end]) => sum + end - start, 0);

/** Runs cut down to whole units of `grain`, as an UNMAP does: partial heads and tails stay (SBC, advisory). */
export const wholeUnits = (runs: Runs, grain: Bytes): ByteRun[] =>
  runs.flatMap(([start, end]): ByteRun[] => {
    const run: ByteRun = [Math.ceil(start / grain) * grain, Math.floor(end / grain) * grain];
    return run[0] < run[1] ? [run] : [];
  });
