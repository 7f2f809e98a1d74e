import { Steps, type Step } from './steps';

/** Two moments closer than this are one, seconds. */
export const INSTANT = 1e-9;

/** A replication under writes and a link that change with time. */
export interface CycleProfile {
  write: readonly Step[];
  link: readonly Step[];
  /** What the writes are scattered over; null where each byte is a new one. */
  workingSetBytes: number | null;
  /** Bytes of extents that change for each byte written. */
  amplification: number;
  intervalS: number;
  wireRatio: number;
  fixedS: number;
  horizonS: number;
  lagAt?: readonly number[];
  rpoS?: number;
}

export interface CycleRow {
  pitS: number;
  changedBytes: number;
  wireBytes: number;
  /** When it was wholly applied; null where that lies beyond the horizon. */
  finishS: number | null;
}

export interface Cycles {
  rows: CycleRow[];
  worstLagS: number;
  /** At each moment asked for; what finishes at that moment counts. */
  lagS: number[];
  /** Seconds within the horizon in which the lag exceeds the recovery point; null where none is given. */
  lateS: number | null;
}

/** The cycles of a replication, one after the other, and how far it is behind (protect.md H3). It begins in step at moment 0. */
export function rpoCycles({ write, link, lagAt = [], rpoS, ...one }: CycleProfile): Cycles {
  const [writes, sends] = [new Steps(write), new Steps(link)];
  const { horizonS, intervalS } = one;
  const rows: CycleRow[] = [];
  let [last, pit] = [0, intervalS];
  while (pit <= horizonS + INSTANT) {
    const written = writes.upTo(pit) - writes.upTo(last);
    const changedBytes = changedBy(written * one.amplification, one.workingSetBytes);
    const wireBytes = changedBytes * one.wireRatio;
    const finish = sends.passed(pit + one.fixedS, wireBytes);
    const within = finish <= horizonS + INSTANT;
    rows.push({ pitS: pit, changedBytes, wireBytes, finishS: within ? finish : null });
    if (!within) break;
    last = pit;
    pit = nextCut(pit, finish, intervalS);
  }
  return { rows, ...behind(rows, horizonS, lagAt, rpoS) };
}

function changedBy(bytes: number, workingSet: number | null): number {
  if (workingSet === null) return bytes;
  return workingSet === 0 ? 0 : workingSet * -Math.expm1(-bytes / workingSet);
}

/** The next cut after one of `pitS` that was applied at `finishS`: the first tick behind it, or its end where that is later. */
export function nextCut(pitS: number, finishS: number, intervalS: number): number {
  const tick = (Math.floor((pitS + INSTANT) / intervalS) + 1) * intervalS;
  return tick >= finishS - INSTANT ? tick : finishS;
}

/** How far the target is behind, from what was applied when; it was in step at moment 0. */
export function behind(
  rows: readonly CycleRow[],
  horizonS: number,
  lagAt: readonly number[],
  rpoS: number | undefined,
): Omit<Cycles, 'rows'> {
  const { worstLagS, lateS } = lagWithin(rows, { fromS: 0, toS: horizonS, rpoS });
  const pitAt = (s: number) => rows.findLast(({ finishS }) => finishS !== null && finishS <= s + INSTANT)?.pitS ?? 0;
  return { worstLagS, lagS: lagAt.map((s) => s - pitAt(s)), lateS };
}

/** The largest lag within [fromS, toS], when it was reached, and for how long the recovery point was exceeded then. */
export function lagWithin(
  rows: readonly CycleRow[],
  { fromS, toS, rpoS }: { fromS: number; toS: number; rpoS: number | undefined },
): { worstLagS: number; worstAtS: number; lateS: number | null } {
  const found = { worstLagS: 0, worstAtS: fromS };
  let late = 0;
  // From each moment on the newest point in time that stands at the target.
  let [since, stands] = [0, 0];
  const until = (s: number) => {
    if (s >= fromS && s - stands > found.worstLagS) Object.assign(found, { worstLagS: s - stands, worstAtS: s });
    if (rpoS !== undefined) late += Math.max(0, s - Math.max(since, stands + rpoS, fromS));
  };
  for (const { pitS, finishS } of rows) {
    if (finishS === null || finishS > toS) break;
    until(finishS);
    [since, stands] = [finishS, pitS];
  }
  until(toS);
  return { ...found, lateS: rpoS === undefined ? null : late };
}
