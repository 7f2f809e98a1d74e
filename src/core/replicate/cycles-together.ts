import { whole, type InParts } from '../units/in-parts';
import { behind, INSTANT, nextCut, type CycleRow, type Cycles } from './cycles';
import { Steps, type Step } from './steps';

/** Events between two breaths. */
const BREATH = 500;

/** One of many replications on the lines of `cyclesTogether`. */
export interface SharingReplication {
  /** Which of the lines it goes over. */
  line: number;
  weight: number;
  /** The most it takes of the line, bytes a second; endless without. By time where what else is on its way leaves it more or less. */
  capBytesPerS?: number | readonly Step[];
  /** Bytes that differ at `toS` from what was there at `fromS`. */
  changed: (fromS: number, toS: number) => number;
  intervalS: number;
  /** It cuts at multiples of its interval behind this moment; 0 without. */
  phaseS?: number;
  wireRatio: number;
  fixedS: number;
  rpoS?: number;
}

export interface SharedLines {
  /** What each line brings through for replications, by time. */
  lines: readonly (readonly Step[])[];
  replications: readonly SharingReplication[];
  horizonS: number;
  lagAt?: readonly number[];
}

/** What a replication does: waits for its next cut, or for the first byte of a cycle; sends; cuts no more. */
const [RESTING, PREPARING, SENDING, OVER] = [0, 1, 2, 3] as const;

/**
 * The cycles of many replications that share lines by their weights and caps (protect.md H3 and H4): what one sends is slower while others send.
 * Every one begins in step at moment 0 and cuts by its interval; figures are those of `rpoCycles`, in the order of `replications`.
 */
export const cyclesTogether = (asked: SharedLines): Cycles[] => whole(cyclesTogetherInParts(asked));

export function* cyclesTogetherInParts({ lines, replications, horizonS, lagAt = [] }: SharedLines): InParts<Cycles[]> {
  const rows = replications.map((): CycleRow[] => []);
  for (const [line, steps] of lines.entries()) {
    const one = new SharedLine(
      new Steps(steps),
      replications.flatMap((replication, k) => (replication.line === line ? [{ replication, rows: rows[k]! }] : [])),
      horizonS,
    );
    for (let events = 1; one.step(); events++) if (events % BREATH === 0) yield;
  }
  return replications.map(({ rpoS }, k) => ({ rows: rows[k]!, ...behind(rows[k]!, horizonS, lagAt, rpoS) }));
}

interface OnLine {
  replication: SharingReplication;
  rows: CycleRow[];
}

const capOf = ({ capBytesPerS = Infinity }: SharingReplication): Steps =>
  new Steps(typeof capBytesPerS === 'number' ? [{ fromS: 0, bytesPerS: capBytesPerS }] : capBytesPerS);

/** One line and what shares it. */
class SharedLine {
  private readonly all: readonly OnLine[];
  private readonly caps: readonly Steps[];
  /** In which they meet their caps, so that one pass shares the line anew. */
  private readonly order: Int32Array;
  /** Moments at which the line or a cap is another than before. */
  private readonly turns: readonly number[];
  private readonly weight: Float64Array;
  private readonly cap: Float64Array;
  private readonly doing: Uint8Array;
  /** When the next thing happens to it; while it sends, when its last byte is over at the present rate. */
  private readonly due: Float64Array;
  private readonly left: Float64Array;
  private readonly rate: Float64Array;
  private readonly pit: Float64Array;
  private now = 0;
  private turn = 0;

  constructor(
    private readonly through: Steps,
    members: readonly OnLine[],
    private readonly horizonS: number,
  ) {
    this.all = members;
    this.caps = members.map(({ replication }) => capOf(replication));
    this.order = Int32Array.from(members, (_, k) => k);
    this.turns = [...new Set([through, ...this.caps].flatMap(({ changes }) => changes))].sort((a, b) => a - b);
    const of = (figure: (one: SharingReplication) => number) =>
      Float64Array.from(this.all, ({ replication }) => figure(replication));
    this.weight = of((one) => one.weight);
    this.cap = new Float64Array(this.all.length);
    this.due = of(({ intervalS, phaseS = 0 }) => phaseS + nextCut(-phaseS, -Infinity, intervalS));
    this.doing = new Uint8Array(this.all.length).fill(RESTING);
    this.left = new Float64Array(this.all.length);
    this.rate = new Float64Array(this.all.length);
    this.pit = new Float64Array(this.all.length);
    this.capped();
  }

  /** What each may take from now on. */
  private capped(): void {
    this.caps.forEach((steps, k) => (this.cap[k] = steps.rate(this.now + INSTANT)));
    const level = (k: number) => this.cap[k]! / this.weight[k]!;
    this.order.sort((a, b) => (level(a) === level(b) ? a - b : level(a) - level(b)));
  }

  /** Goes to the next moment at which anything happens, and lets it happen; false once nothing does within the horizon. */
  step(): boolean {
    const { turns } = this;
    let next = turns[this.turn] ?? Infinity;
    for (let k = 0; k < this.all.length; k++) if (this.doing[k] !== OVER && this.due[k]! < next) next = this.due[k]!;
    if (next > this.horizonS + INSTANT) return this.end();
    this.advance(next);
    if ((turns[this.turn] ?? Infinity) <= next + INSTANT) this.capped();
    while ((turns[this.turn] ?? Infinity) <= next + INSTANT) this.turn += 1;
    for (let k = 0; k < this.all.length; k++)
      while (this.doing[k] !== OVER && this.due[k]! <= next + INSTANT) this.happen(k);
    this.share();
    return true;
  }

  private advance(to: number): void {
    const span = to - this.now;
    for (let k = 0; k < this.all.length; k++)
      if (this.doing[k] === SENDING) this.left[k] = Math.max(0, this.left[k]! - this.rate[k]! * span);
    this.now = to;
  }

  /** What is due of one: its cut, its first byte or its end. */
  private happen(k: number): void {
    const { replication, rows } = this.all[k]!;
    const at = this.due[k]!;
    if (this.doing[k] === RESTING) {
      const changedBytes = replication.changed(this.pit[k]!, at);
      rows.push({ pitS: at, changedBytes, wireBytes: changedBytes * replication.wireRatio, finishS: null });
      this.pit[k] = at;
      this.doing[k] = PREPARING;
      this.due[k] = at + replication.fixedS;
      return;
    }
    const cycle = rows.at(-1)!;
    if (this.doing[k] === PREPARING && cycle.wireBytes > 0) {
      this.doing[k] = SENDING;
      this.left[k] = cycle.wireBytes;
      this.due[k] = Infinity;
      return;
    }
    cycle.finishS = at;
    this.doing[k] = RESTING;
    const { intervalS, phaseS = 0 } = replication;
    this.due[k] = phaseS + nextCut(cycle.pitS - phaseS, at - phaseS, intervalS);
    if (this.due[k] > this.horizonS + INSTANT) this.doing[k] = OVER;
  }

  /** Max-min fair by weights (`shareLink`), from whoever meets its cap first; ends of cycles follow from it. */
  private share(): void {
    let weight = 0;
    for (let k = 0; k < this.all.length; k++) if (this.doing[k] === SENDING) weight += this.weight[k]!;
    if (weight === 0) return;
    let room = this.through.rate(this.now + INSTANT);
    let level = Infinity;
    for (const k of this.order) {
      if (this.doing[k] !== SENDING) continue;
      const own = this.weight[k]!;
      if (level === Infinity && this.cap[k]! * weight > room * own) level = Math.max(0, room) / weight;
      const rate = level === Infinity ? this.cap[k]! : own * level;
      if (level === Infinity) {
        room -= rate;
        weight -= own;
      }
      this.rate[k] = rate;
      this.due[k] = rate > 0 ? this.now + this.left[k]! / rate : Infinity;
    }
  }

  private end(): false {
    this.doing.fill(OVER);
    return false;
  }
}
