import { Steps, type Step } from './steps';

/** Two moments closer than this are one, seconds. */
const INSTANT = 1e-9;

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
    const tick = nextTick(pit, intervalS);
    pit = tick >= finish - INSTANT ? tick : finish;
  }
  return { rows, ...behind(rows, horizonS, lagAt, rpoS) };
}

const changedBy = (bytes: number, workingSet: number | null): number =>
  workingSet === null ? bytes : workingSet === 0 ? 0 : workingSet * -Math.expm1(-bytes / workingSet);

/** The first tick behind a moment. */
const nextTick = (s: number, intervalS: number): number => (Math.floor((s + INSTANT) / intervalS) + 1) * intervalS;

/** How far the target is behind, from what was applied when. */
function behind(
  rows: readonly CycleRow[],
  horizonS: number,
  lagAt: readonly number[],
  rpoS: number | undefined,
): Omit<Cycles, 'rows'> {
  /** From each moment on the newest point in time that stands at the target. */
  const stands = [{ fromS: 0, pitS: 0 }];
  for (const { pitS, finishS } of rows) if (finishS !== null) stands.push({ fromS: finishS, pitS });
  const ends = [...stands.slice(1).map((one) => one.fromS), horizonS];
  const pitAt = (s: number) => stands.findLast((one) => one.fromS <= s + INSTANT)?.pitS ?? 0;
  const late = (limit: number) =>
    stands.reduce((sum, { fromS, pitS }, k) => sum + Math.max(0, ends[k]! - Math.max(fromS, pitS + limit)), 0);
  return {
    worstLagS: Math.max(0, ...stands.map(({ pitS }, k) => ends[k]! - pitS)),
    lagS: lagAt.map((s) => s - pitAt(s)),
    lateS: rpoS === undefined ? null : late(rpoS),
  };
}
