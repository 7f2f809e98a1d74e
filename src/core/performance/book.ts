import { SLOT_S, SLOTS_AN_HOUR } from './choices';
import type { Listener, VolumeFigures } from './figures';
import { clearRow, emptyRow, type LoadRow } from './row';
import type { LoadModel } from './shape';
import { addSpread, spreadOf, type Spread } from './spread';

/** Five minutes of an hour: what charts draw of longer spans. */
export const PARTS_AN_HOUR = 12;

/** Rows of one volume or resource, part by part. */
export interface SubjectRows {
  subject: string;
  parts: LoadRow[];
}

/** Gathers what is told of a stretch of time into rows of equal length, by volume and resource. Several models may follow each other. */
export class Book implements Listener {
  private readonly rows = new Map<string, LoadRow[]>();
  private model: LoadModel = { resources: [], volumes: [], limits: [], background: [] };

  /** `start` is a slot; there are `parts` parts of `slots` slots. */
  constructor(
    public start: number,
    readonly slots: number,
    readonly parts: number,
    private readonly wanted: ((id: string) => boolean) | null = null,
  ) {}

  /** Begins anew at another slot, with rows that are there already. */
  restart(start: number): void {
    this.start = start;
    for (const rows of this.rows.values()) for (const row of rows) clearRow(row);
  }

  get end(): number {
    return this.start + this.slots * this.parts;
  }

  /** What is told from now on goes by this model. */
  by(model: LoadModel): this {
    this.model = model;
    return this;
  }

  volume(index: number, from: number, to: number, figures: VolumeFigures): void {
    const rows = this.rowsOf(this.model.volumes[index]!.id);
    if (!rows) return;
    // How its latency lies is the same in all parts that the stretch reaches into.
    const { means, variances } = figures;
    const lies = [spreadOf(means[0], variances[0]), spreadOf(means[1], variances[1]), spreadOf(means[2], variances[2])];
    const end = Math.min(to, this.end);
    for (let at = Math.max(from, this.start); at < end;) {
      const part = this.partAt(at);
      const next = Math.min(end, this.start + (part + 1) * this.slots);
      addVolume(rows[part]!, figures, lies, at, next - at);
      at = next;
    }
  }

  resource(index: number, from: number, to: number, used: number): void {
    const { id, capacity } = this.model.resources[index]!;
    const rows = this.rowsOf(id);
    if (!rows) return;
    const rho = used / capacity;
    const end = Math.min(to, this.end);
    for (let at = Math.max(from, this.start); at < end;) {
      const part = this.partAt(at);
      const row = rows[part]!;
      const next = Math.min(end, this.start + (part + 1) * this.slots);
      row.slots += next - at;
      row.used += used * (next - at) * SLOT_S;
      if (rho > row.mostRho) [row.mostRho, row.mostRhoAt] = [rho, at];
      at = next;
    }
  }

  private partAt(slot: number): number {
    return Math.floor((slot - this.start) / this.slots);
  }

  /** Rows of a volume or resource, part by part; undefined where nobody wants them. */
  private rowsOf(subject: string): LoadRow[] | undefined {
    let rows = this.rows.get(subject);
    if (rows || (this.wanted && !this.wanted(subject))) return rows;
    rows = Array.from({ length: this.parts }, emptyRow);
    this.rows.set(subject, rows);
    return rows;
  }

  *all(): Generator<SubjectRows> {
    for (const [subject, parts] of this.rows) yield { subject, parts };
  }
}

/** The book of an hour that begins at a slot, in parts of five minutes. */
export const hourBook = (start: number): Book => new Book(start, SLOTS_AN_HOUR / PARTS_AN_HOUR, PARTS_AN_HOUR);

/** Adds a stretch of a volume's figures to a row; `lies` is how the latency of each of its three kinds of I/O lies. */
function addVolume(row: LoadRow, f: VolumeFigures, lies: readonly (Spread | null)[], at: number, slots: number): void {
  const seconds = slots * SLOT_S;
  row.slots += slots;
  row.asked += f.asked * seconds;
  row.served += f.served * seconds;
  row.refused += f.refused * seconds;
  if (f.limited) row.held += f.served * seconds;
  row.bytes += f.bytesPerS * seconds;
  row.latency += f.served * seconds * f.latency;
  if (f.most > row.mostIops) [row.mostIops, row.mostIopsAt] = [f.most, at];
  if (f.served > 0 && f.mostLatency > row.mostLatency) [row.mostLatency, row.mostLatencyAt] = [f.mostLatency, at];
  if (f.queue > row.mostQueue) [row.mostQueue, row.mostQueueAt] = [f.queue, at];
  if (f.served > 0) row.mostBytesPerS = Math.max(row.mostBytesPerS, (f.bytesPerS * f.most) / f.served);
  row.mostRefused = Math.max(row.mostRefused, f.refused);
  const done = f.served * seconds;
  for (let k = 0; k < 3; k++) {
    const [count, how] = [done * f.shares[k]!, lies[k]];
    if (how && count > 0) addSpread(row.counts, count, how);
  }
}
