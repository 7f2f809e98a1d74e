import { HOUR, type Milliseconds } from '../units/duration';
import { SLOT_S, SLOTS_AN_HOUR } from './choices';
import type { Listener, VolumeFigures } from './course';
import { emptyRow, type LoadRow } from './row';
import type { LoadModel } from './shape';
import { spread } from './spread';

/** Five minutes of an hour: what charts draw. */
export const PARTS_AN_HOUR = 12;
const SLOTS_A_PART = SLOTS_AN_HOUR / PARTS_AN_HOUR;

export interface HourOf {
  subject: string;
  at: Milliseconds;
  row: LoadRow;
  parts: LoadRow[];
}

/** Gathers what is told of an hour into rows, by volume and resource. */
export class HourBook implements Listener {
  private readonly rows = new Map<string, LoadRow[]>();

  /** `hour` counts from 1970. */
  constructor(
    private readonly model: LoadModel,
    readonly hour: number,
    /** Rows of the same hour under a model before. */
    earlier: ReadonlyMap<string, LoadRow[]> = new Map(),
  ) {
    for (const [subject, parts] of earlier) this.rows.set(subject, parts);
  }

  private parts(subject: string): LoadRow[] {
    let known = this.rows.get(subject);
    if (!known) this.rows.set(subject, (known = Array.from({ length: PARTS_AN_HOUR }, emptyRow)));
    return known;
  }

  /** The stretch of each part of the hour that lies in [from, to). */
  private *cut(from: number, to: number): Generator<{ part: number; at: number; slots: number }> {
    const start = this.hour * SLOTS_AN_HOUR;
    for (let at = Math.max(from, start); at < Math.min(to, start + SLOTS_AN_HOUR);) {
      const part = Math.floor((at - start) / SLOTS_A_PART);
      const end = Math.min(to, start + (part + 1) * SLOTS_A_PART);
      yield { part, at, slots: end - at };
      at = end;
    }
  }

  volume(index: number, from: number, to: number, f: VolumeFigures): void {
    const parts = this.parts(this.model.volumes[index]!.id);
    for (const { part, at, slots } of this.cut(from, to)) addVolume(parts[part]!, f, at, slots);
  }

  resource(index: number, from: number, to: number, used: number): void {
    const { id, capacity } = this.model.resources[index]!;
    const parts = this.parts(id);
    for (const { part, at, slots } of this.cut(from, to)) {
      const row = parts[part]!;
      row.slots += slots;
      row.used += used * slots * SLOT_S;
      const rho = used / capacity;
      if (rho > row.mostRho) [row.mostRho, row.mostRhoAt] = [rho, at];
    }
  }

  /** What was gathered, for a model that follows within the hour. */
  gathered(): ReadonlyMap<string, LoadRow[]> {
    return this.rows;
  }

  hours(): { subject: string; at: Milliseconds; parts: LoadRow[] }[] {
    return [...this.rows].map(([subject, parts]) => ({ subject, at: this.hour * HOUR, parts }));
  }
}

/** Adds a stretch of a volume's figures to a row. */
export function addVolume(row: LoadRow, f: VolumeFigures, at: number, slots: number): void {
  const seconds = slots * SLOT_S;
  row.slots += slots;
  row.asked += f.asked * seconds;
  row.served += f.served * seconds;
  row.refused += f.refused * seconds;
  if (f.limited) row.held += f.served * seconds;
  row.bytes += f.bytesPerS * seconds;
  row.latency += f.served * seconds * f.latency;
  if (f.served > row.mostIops) [row.mostIops, row.mostIopsAt] = [f.served, at];
  if (f.served > 0 && f.latency > row.mostLatency) [row.mostLatency, row.mostLatencyAt] = [f.latency, at];
  if (f.queue > row.mostQueue) [row.mostQueue, row.mostQueueAt] = [f.queue, at];
  row.mostBytesPerS = Math.max(row.mostBytesPerS, f.bytesPerS);
  row.mostRefused = Math.max(row.mostRefused, f.refused);
  const done = f.served * seconds;
  for (let k = 0; k < 3; k++) spread(row.counts, done * f.shares[k]!, f.means[k]!, f.variances[k]!);
}
