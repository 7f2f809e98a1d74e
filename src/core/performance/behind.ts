import type { Part } from './apart';
import { SLOT } from './choices';
import type { LoadModel, TimedWork } from './shape';

/** What of a part's work is known to come and go. */
interface Timed {
  works: readonly TimedWork[];
  /** The slots for which what is set holds. */
  from: number;
  until: number;
}

/** What work in the background takes of each resource as time goes on, units a second. */
export class Behind {
  /** What hosts share with; and what is put behind them, as on links between sites. */
  readonly beside: Float64Array;
  readonly after: Float64Array;
  private readonly always: Float64Array;
  private readonly timed = new Map<Part, Timed>();

  constructor(
    private readonly model: LoadModel,
    parts: readonly Part[],
  ) {
    const { resources, background, timed = [] } = model;
    this.always = new Float64Array(resources.length);
    for (const { resource, perS } of background) this.always[resource]! += perS;
    this.beside = new Float64Array(resources.length);
    this.after = new Float64Array(resources.length);
    resources.forEach((_, r) => this.set(r, this.always[r]!));
    if (timed.length === 0) return;
    const partOf = new Map(parts.flatMap((part) => part.resources.map((r) => [r, part] as const)));
    for (const part of new Set(timed.map(({ resource }) => partOf.get(resource)!)))
      this.timed.set(part, {
        works: timed.filter(({ resource }) => partOf.get(resource) === part),
        from: Infinity,
        until: -Infinity,
      });
  }

  /** Sets what holds in a slot; whether that may be otherwise than before. */
  turn(part: Part, slot: number): boolean {
    const own = this.timed.get(part);
    if (!own || (slot >= own.from && slot < own.until)) return false;
    for (const { resource } of own.works) this.set(resource, this.always[resource]!);
    own.from = slot;
    own.until = Infinity;
    for (const work of own.works) {
      const share = overlap(work, slot);
      if (share > 0) this.set(work.resource, this.of(work.resource) + work.perS * share);
      own.until = Math.min(own.until, nextTurn(work, slot));
    }
    return true;
  }

  /** The slot at which it is next otherwise. */
  until = (part: Part): number => this.timed.get(part)?.until ?? Infinity;

  private yields = (r: number): boolean => this.model.resources[r]!.kind === 'line';

  private of = (r: number): number => (this.yields(r) ? this.after : this.beside)[r]!;

  private set(r: number, perS: number): void {
    (this.yields(r) ? this.after : this.beside)[r] = perS;
  }
}

/** Of a slot, the share in which a work goes on. */
const overlap = ({ from, until }: TimedWork, slot: number): number =>
  Math.max(0, Math.min(until, (slot + 1) * SLOT) - Math.max(from, slot * SLOT)) / SLOT;

/** The first slot behind one in which another share of it is taken. */
function nextTurn({ from, until }: TimedWork, slot: number): number {
  const [first, last] = [Math.floor(from / SLOT), Math.floor(until / SLOT)];
  return [first, first + 1, last, last + 1].find((one) => one > slot) ?? Infinity;
}
