import {
  isNamedWeek,
  type ActivityKind,
  type ActivityProfile,
  type NamedWeek,
  type WeekShape,
} from '../kinds/activity';
import { KIB, type Bytes } from '../units/bytes';
import { DAY, HOUR, SECOND, type Milliseconds } from '../units/duration';
import { parseWeek } from '../units/week';
import { PARTS } from './parts';

/** What an array keeps apart at the least when a byte is overwritten under a copy (a choice of protect.md H1: 64 KiB … 1 MiB). */
export const GRAIN: Bytes = 64 * KIB;
/** Hosts write whole blocks of this. */
const ALIGNED: Bytes = 4 * KIB;

/** What applications usually do to their volumes (made-up figures of their kind). */
export const usualActivity: Record<ActivityKind, ActivityProfile> = {
  database: profile('database', 900, 300, 8 * KIB, 'random', 0.3, 0.15, 0.7, 4, 'office'),
  log: profile('log', 10, 150, 64 * KIB, 'sequential', 0.6, 0, 0, 3, 'office'),
  machines: profile('machines', 700, 250, 16 * KIB, 'random', 0.25, 0.2, 0.6, 6, 'even'),
  files: profile('files', 120, 30, 32 * KIB, 'random', 0.08, 0.25, 0.5, 8, 'office'),
  mail: profile('mail', 200, 80, 16 * KIB, 'random', 0.2, 0.2, 0.6, 5, 'office'),
  archive: profile('archive', 40, 0.5, 256 * KIB, 'sequential', 0.02, 0, 0, 2, 'night'),
};

function profile(
  kind: ActivityKind,
  reads: number,
  writes: number,
  ioBytes: Bytes,
  pattern: ActivityProfile['pattern'],
  workingSet: number,
  hot: number,
  hotShare: number,
  burst: number,
  week: WeekShape,
): ActivityProfile {
  return { kind, reads, writes, ioBytes, pattern, workingSet, hot, hotShare, burst, week };
}

/** How busy an hour of the day is, from Monday to Friday and at the weekend; only the proportions matter. */
const days: Record<NamedWeek, { work: (hour: number) => number; rest: (hour: number) => number }> = {
  even: { work: () => 1, rest: () => 1 },
  office: { work: (hour) => (hour >= 7 && hour < 18 ? 2.4 : 0.3), rest: () => 0.2 },
  // Ferries sail from five in the morning to eleven at night, every day.
  harbour: {
    work: (hour) => (hour >= 5 && hour < 23 ? (hour % 12 >= 5 && hour % 12 < 9 ? 2 : 1) : 0.15),
    rest: (hour) => (hour >= 5 && hour < 23 ? 1.6 : 0.15),
  },
  night: { work: (hour) => (hour >= 22 || hour < 5 ? 3 : 0.1), rest: (hour) => (hour >= 22 || hour < 5 ? 3 : 0.1) },
};

const WEEK = 7 * DAY;
/** 1 January 1970 was a Thursday: the week begins three days before. */
const MONDAY = -3 * DAY;

interface Week {
  /** By hour of the week from Monday 00:00 UTC; 1 on the average. */
  hours: number[];
  /** Hours' worth up to the beginning of each hour; 168 at the end. */
  before: number[];
}

/** Weeks that are kept worked out; one that is measured is like no other. */
const KEPT_WEEKS = 5000;
const weeks = new Map<WeekShape, Week>();

function weekOf(shape: WeekShape): Week {
  const known = weeks.get(shape);
  if (known) return known;
  const raw = rawWeek(shape);
  const mean = raw.reduce((sum, one) => sum + one, 0) / 168;
  const hours = raw.map((one) => one / mean);
  const before = [0];
  for (const one of hours) before.push(before.at(-1)! + one);
  if (weeks.size >= KEPT_WEEKS) weeks.clear();
  weeks.set(shape, { hours, before });
  return { hours, before };
}

/** @throws RangeError where a text is no week: rows never hold one. */
function rawWeek(shape: WeekShape): number[] {
  if (isNamedWeek(shape))
    return Array.from({ length: 168 }, (_, k) => (k < 120 ? days[shape].work(k % 24) : days[shape].rest(k % 24)));
  const hours = parseWeek(shape);
  if (!hours.ok) throw new RangeError(hours.message);
  return hours.value;
}

/** How busy each hour of the week is, from Monday 00:00 UTC, against the average of the week. */
export const hoursOfWeek = (shape: WeekShape): readonly number[] => weekOf(shape).hours;

/** Milliseconds of average work that have passed between some Monday long ago and `at`. */
function workUpTo(shape: WeekShape, at: Milliseconds): number {
  const { hours, before } = weekOf(shape);
  const since = at - MONDAY;
  const week = Math.floor(since / WEEK);
  const within = since - week * WEEK;
  const hour = Math.min(167, Math.floor(within / HOUR));
  return week * WEEK + before[hour]! * HOUR + hours[hour]! * (within - hour * HOUR);
}

/** Seconds of average work within [from, to): a closed form, however long the stretch is. */
export const workSeconds = (shape: WeekShape, from: Milliseconds, to: Milliseconds): number =>
  (workUpTo(shape, to) - workUpTo(shape, from)) / SECOND;

/** Overwriting writes within [from, to). */
export const writesWithin = ({ writes, week }: ActivityProfile, from: Milliseconds, to: Milliseconds): number =>
  writes * workSeconds(week, from, to);

/** The ends of the parts that a profile rewrites often and at all, as shares of the volume's bytes. */
export const partsOf = ({ workingSet, hot, hotShare }: ActivityProfile): number[] =>
  hotShare > 0 ? [workingSet * hot, workingSet] : [0, workingSet];

/** Grains that one write touches on average (protect.md H1: k = 1 + (io − align)/extent). */
const grainsOf = (ioBytes: Bytes): number => 1 + Math.max(0, ioBytes - Math.min(ioBytes, ALIGNED)) / GRAIN;

/** Where the writes of a profile go: stretches of the volume's bytes, as shares, with their share of the writes. */
function stretchesOf(activity: ActivityProfile): { from: number; to: number; share: number }[] {
  const [hot, warm] = partsOf(activity) as [number, number];
  const hotShare = hot > 0 ? activity.hotShare : 0;
  return [
    { from: 0, to: hot, share: hotShare },
    // Where everything is hot, nothing is left for the rest of the working set.
    { from: hot, to: warm, share: warm > hot ? 1 - hotShare : 0 },
  ].filter(({ from, to, share }) => to > from && share > 0);
}

/**
 * What still stands of each part of a volume's bytes after [from, to), of what stood at its beginning: e^(−Δ) where writes are scattered, Δ =
 * grains touched / grains of the part; 1 − Δ where they go through from end to end. `parts` are the ends by which copies count; the profile's
 * own may have moved since, and its writes fall into them as they overlap.
 */
export function standsAfter(
  activity: ActivityProfile,
  { bytes, parts, stands }: { bytes: Bytes; parts: readonly number[]; stands: readonly number[] },
  from: Milliseconds,
  to: Milliseconds,
): number[] {
  const writes = writesWithin(activity, from, to);
  if (writes <= 0 || bytes === 0) return [...stands];
  const ends = [0, parts[0]!, Math.max(parts[0]!, parts[1]!), 1];
  const sequential = activity.pattern === 'sequential';
  const touched = sequential ? writes * activity.ioBytes : writes * grainsOf(activity.ioBytes) * GRAIN;
  return PARTS.map((part) => {
    const [low, high] = [ends[part]!, ends[part + 1]!];
    const size = (high - low) * bytes;
    if (size <= 0) return stands[part]!;
    const here = stretchesOf(activity).reduce(
      (sum, { from: a, to: b, share }) => sum + (share * Math.max(0, Math.min(high, b) - Math.max(low, a))) / (b - a),
      0,
    );
    const delta = (touched * here) / Math.max(size, GRAIN);
    return sequential ? Math.max(0, stands[part]! - delta) : stands[part]! * Math.exp(-delta);
  });
}

/** Bytes that would be kept apart for a copy cut at `from` until `to`: U of protect.md H1 over the parts. */
export function changedWithin(activity: ActivityProfile, bytes: Bytes, from: Milliseconds, to: Milliseconds): number {
  const parts = partsOf(activity);
  const stands = standsAfter(activity, { bytes, parts, stands: [1, 1, 1] }, from, to);
  const [hot, warm] = parts as [number, number];
  return bytes * (hot * (1 - stands[0]!) + (warm - hot) * (1 - stands[1]!));
}
