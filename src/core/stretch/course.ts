import type { StretchCourse } from '../kinds/stretch';
import type { Milliseconds } from '../units/duration';
import { BLIND, HOLD_MAX, LEASE, LEASE_SURELY_OVER, PREFERENCE_DELAY } from './choices';
import { arriving, noticed, ofSite, together, type Turn } from './protocol';
import {
  failed,
  healthyPair,
  isUp,
  otherSite,
  parts,
  repaired,
  seeEachOther,
  seesWitness,
  siteNames,
  withSite,
  type Pair,
  type Part,
  type SiteName,
} from './state';

/** What there is to be seen of a pair's parts: whether each is up. */
export type Seen = Readonly<Record<Part, boolean>>;

/** What a pair goes by in the course of time, beside its own state. */
export interface Surroundings {
  seen: Seen;
  /** There and back to the witness. */
  roundTrip: Readonly<Record<SiteName, Milliseconds>>;
  /** What is refreshed equals its owner by now. */
  refreshed: boolean;
}

/** Something that happened to a pair: a part that failed or came back, or a rule that acted. */
export type Happening =
  { at: Milliseconds; part: Part; up: boolean } | { at: Milliseconds; turn: Turn; before: Pair; after: Pair };

const nothing = { A: null, B: null };

/** A pair that begins: healthy, or with a second copy that has yet to be made. */
export const beginning = (preferred: SiteName, owner: SiteName | null): StretchCourse => {
  const whole = healthyPair(preferred);
  return {
    pair: owner === null ? whole : beginsAt(whole, owner),
    partedAt: null,
    sightlessAt: nothing,
    askedAt: nothing,
    silentAt: nothing,
    expired: { A: false, B: false },
    denied: [],
    history: [],
  };
};

/** The owner serves alone, as the witness knows; the other holds nothing that could be served. */
function beginsAt(pair: Pair, owner: SiteName): Pair {
  const alone = withSite(pair, owner, { mode: 'SOLO', alone: true });
  const stale = withSite(alone, otherSite(owner), { mode: 'STALE', phase: 'HOLD', lease: false });
  return { ...stale, W: { ...stale.W, owner } };
}

const silent = (pair: Pair, site: SiteName): boolean =>
  pair[site].up && pair[site].mode !== 'STALE' && pair[site].phase !== 'RUN';

const question = (pair: Pair, site: SiteName): string =>
  `${site} ${pair[site].epoch} ${pair.W.epoch} ${pair.W.owner} ${String(pair.W.up)}`;

/** What follows for the clocks of a pair from how it stands at a moment. */
function timed(course: StretchCourse, pair: Pair, at: Milliseconds): StretchCourse {
  const parted = !seeEachOther(pair);
  const since = (old: Milliseconds | null, holds: boolean) => (holds ? (old ?? at) : null);
  const of = <T>(value: (site: SiteName) => T) => ({ A: value('A'), B: value('B') });
  return {
    ...course,
    pair,
    partedAt: since(course.partedAt, parted),
    sightlessAt: of((site) => since(course.sightlessAt[site], !seesWitness(pair, site))),
    askedAt: of((site) => since(course.askedAt[site], pair[site].asked !== null)),
    silentAt: of((site) => since(course.silentAt[site], silent(pair, site))),
    expired: of((site) => course.expired[site] && silent(pair, site)),
  };
}

/** The turn by which a copy that was refreshed is found to equal its owner. */
const finds = ({ rule, after }: Turn, before: Pair): boolean =>
  rule === 'T8' && siteNames.some((site) => after[site].synced && !before[site].synced);

/** Turns that could be next, in the order in which they come first, with the moment at which each may. */
function candidates(
  course: StretchCourse,
  around: Surroundings,
  now: Milliseconds,
): { at: Milliseconds; turn: Turn }[] {
  const { pair, partedAt, sightlessAt, askedAt, silentAt } = course;
  // Both do without the witness once neither has seen it for so long.
  const blind = Math.max(sightlessAt.A ?? now, sightlessAt.B ?? now);
  const parted = partedAt ?? now;
  const from = (turn: Turn): Milliseconds | null => {
    const site = turn.site === 'W' ? 'A' : turn.site;
    switch (turn.rule) {
      case 'lease over':
      case 'T1':
        return parted + LEASE;
      case 'T2':
        return course.denied.includes(question(pair, site))
          ? null
          : Math.max(parted + LEASE, silentAt[site] ?? 0) + (site === pair.preferred ? 0 : PREFERENCE_DELAY);
      case 'T2 arrives':
        return (askedAt[site] ?? now) + around.roundTrip[site];
      case 'T3':
      case 'T4':
      case 'T5':
        return parted + LEASE_SURELY_OVER;
      case 'T11':
        return blind + BLIND;
      default:
        return finds(turn, pair) && !around.refreshed ? null : now;
    }
  };
  const own = [pair.preferred, otherSite(pair.preferred)].flatMap((site) => ofSite(pair, site));
  return [...noticed(pair), ...arriving(pair), ...together(pair), ...own].flatMap((turn) => {
    const at = from(turn);
    return at === null ? [] : [{ at, turn }];
  });
}

/** More turns than any moment takes: a defect, not a long way. */
const MOST_TURNS = 1000;

/** A pair at a moment: what its parts are seen to do, and every rule that is due by then. */
export function advanced(
  course: StretchCourse,
  around: Surroundings,
  now: Milliseconds,
): { course: StretchCourse; happened: Happening[] } {
  const happened: Happening[] = [];
  let pair: Pair = course.pair;
  for (const part of parts) {
    const up = around.seen[part];
    if (isUp(pair, part) === up) continue;
    pair = up ? repaired(pair, part) : failed(pair, part);
    happened.push({ at: now, part, up });
  }
  let one = timed(course, pair, now);
  /** When the last turn was: none comes before it. */
  let last = -Infinity;
  for (let turns = 0; ; turns++) {
    if (turns > MOST_TURNS) throw new Error('A stretched pair did not come to rest.');
    const due = candidates(one, around, now).filter(({ at }) => at <= now);
    // Array.sort is stable: of those due at one moment the first stays first.
    const [first] = due.sort((a, b) => a.at - b.at);
    if (!first) break;
    const { turn } = first;
    const at = Math.max(first.at, last);
    last = at;
    const before = one.pair;
    const denied =
      turn.rule === 'T2 arrives' && turn.site !== 'W' && !turn.after[turn.site].granted
        ? [...one.denied, question(before, turn.site)].slice(-4)
        : one.denied;
    one = timed({ ...one, denied }, turn.after, at);
    happened.push({ at, turn, before, after: turn.after });
  }
  const expired = (site: SiteName) => {
    const since = one.silentAt[site];
    return since !== null && now >= since + HOLD_MAX;
  };
  return { course: { ...one, expired: { A: expired('A'), B: expired('B') } }, happened };
}

/** The next moment at which a pair does something by itself; null where it waits for something to change. */
export function nextMoment(course: StretchCourse, around: Surroundings, now: Milliseconds): Milliseconds | null {
  if (parts.some((part) => isUp(course.pair, part) !== around.seen[part])) return now;
  const turns = candidates(course, around, now).map(({ at }) => Math.max(at, now));
  const says = siteNames.flatMap((site) => {
    const since = course.silentAt[site];
    return since === null || course.expired[site] ? [] : [Math.max(since + HOLD_MAX, now)];
  });
  const all = [...turns, ...says];
  return all.length === 0 ? null : Math.min(...all);
}
