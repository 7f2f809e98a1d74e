import { Temporal } from 'temporal-polyfill';
import { DAY, type Milliseconds } from '../units/duration';

/** What a local time that a clock change leaves out comes to: read by the offset in force before it, or nothing. */
export type GapRule = 'shift' | 'skip';

/** A stretch of time in which a zone's clock stands off from UTC by one offset. */
interface Stretch {
  from: Milliseconds;
  to: Milliseconds;
  offset: Milliseconds;
}

/** A time zone's clock. Instants are UTC milliseconds; wall times are what its clock shows, written as if it were UTC. */
export class Zone {
  private readonly stretches: Stretch[] = [];
  /** Where the last question was answered: the next is mostly answered there too. */
  private last = 0;

  /** @throws RangeError where there is no such zone. */
  constructor(readonly name: string) {
    this.stretches.push(this.stretchAt(0));
  }

  /** The offset from UTC in force at an instant. */
  offsetAt(at: Milliseconds): Milliseconds {
    return this.stretchOf(at).offset;
  }

  /** What the zone's clock shows at an instant. */
  wallAt(at: Milliseconds): Milliseconds {
    return at + this.offsetAt(at);
  }

  /** The end of the stretch of one offset in which an instant lies. */
  changeAfter(at: Milliseconds): Milliseconds {
    return this.stretchOf(at).to;
  }

  /** The first instant at which the clock shows a wall time; in a gap what the rule says (protect.md A 2). */
  instantOf(wall: Milliseconds, gap: GapRule = 'shift'): Milliseconds | null {
    // The clock never stands off by more than a day, so the three stretches around hold every answer.
    const early = this.stretchOf(wall - DAY);
    let before = early;
    for (let stretch = early; ; stretch = this.stretchOf(stretch.to)) {
      const at = wall - stretch.offset;
      if (at < stretch.from) break;
      if (at < stretch.to) return at;
      before = stretch;
      if (stretch.to > wall + DAY) break;
    }
    return gap === 'shift' ? wall - before.offset : null;
  }

  private stretchOf(at: Milliseconds): Stretch {
    const known = this.stretches[this.last]!;
    if (at >= known.from && at < known.to) return known;
    while (at < this.stretches[0]!.from) this.stretches.unshift(this.stretchAt(this.stretches[0]!.from - 1));
    while (at >= this.stretches.at(-1)!.to) this.stretches.push(this.stretchAt(this.stretches.at(-1)!.to));
    let low = 0;
    let high = this.stretches.length - 1;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (at < this.stretches[middle]!.to) high = middle;
      else low = middle + 1;
    }
    this.last = low;
    return this.stretches[low]!;
  }

  private stretchAt(at: Milliseconds): Stretch {
    const there = Temporal.Instant.fromEpochMilliseconds(at).toZonedDateTimeISO(this.name);
    const next = there.getTimeZoneTransition('next');
    // A moment past it, so that a change at this very instant counts as the one before.
    const before = there.add({ nanoseconds: 1 }).getTimeZoneTransition('previous');
    return {
      from: before?.epochMilliseconds ?? -Infinity,
      to: next?.epochMilliseconds ?? Infinity,
      offset: there.offsetNanoseconds / 1e6,
    };
  }
}

const known = new Map<string, Zone>();

/** A zone by its name in the IANA database, or null where there is none. */
export function zoneOf(name: string): Zone | null {
  const zone = known.get(name);
  if (zone) return zone;
  try {
    const made = new Zone(name);
    known.set(name, made);
    return made;
  } catch {
    return null;
  }
}
