import { DAY, HOUR, MINUTE, SECOND, type Milliseconds } from '../units/duration';
import { parsed, type Parsed } from '../units/parsed';
import { elapsedInstants } from './elapsed-grid';
import { refuse } from './refusal';
import { elapses, parseRule, parseWall, type Rule } from './rule';
import { periodBefore, periodOf } from './wall-dates';
import { zoneOf, type GapRule, type Zone } from './zone';

/** A schedule as people write it: the text after `RRULE:`, a local start, and whose clock it goes by. */
export interface Recurrence {
  rrule: string;
  /** `YYYY-MM-DDTHH:MM:SS`, local. */
  dtstart: string;
  /** IANA name of the time zone. */
  tz: string;
  gap?: GapRule;
  /** Instants that are left out; they still use up COUNT. */
  exdates?: readonly Milliseconds[];
}

/** Half-open: [from, to). */
export interface Window {
  from: Milliseconds;
  to: Milliseconds;
}

/** How far a gap of the clock may move a run, beyond one day over the date line. */
const REACH = 2 * DAY;
/** A rule that has no instance within so long of its start never fires. */
const TEN_YEARS = 3653 * DAY;
/** Ever longer looks: most rules answer at once. */
const HORIZONS = [2 * DAY, 40 * DAY, 400 * DAY, TEN_YEARS];

interface Read {
  rule: Rule;
  wall: Milliseconds;
  zone: Zone;
  gap: GapRule;
}

function read({ rrule, dtstart, tz, gap = 'shift' }: Recurrence): Parsed<Read> {
  const rule = parseRule(rrule);
  if (!rule.ok) return rule;
  const wall = parseWall(dtstart);
  if (!wall.ok) return wall;
  const zone = zoneOf(tz);
  if (!zone) return refuse('schedule-zone-unknown', tz);
  return parsed({ rule: rule.value, wall: wall.value, zone, gap });
}

/**
 * All runs within a window, ascending (RFC 5545 §3.3.10; clock changes by protect.md A). Reasons: those of a rule, schedule-start,
 * schedule-zone-unknown.
 */
export function expandRecurrence({ from, to, ...recurrence }: Recurrence & Window): Parsed<Milliseconds[]> {
  const asked = read(recurrence);
  if (!asked.ok) return asked;
  const left = new Set(recurrence.exdates ?? []);
  const instants = expanded(asked.value, from, to);
  return parsed(left.size > 0 ? instants.filter((at) => !left.has(at)) : instants);
}

function expanded(asked: Read, from: Milliseconds, to: Milliseconds): Milliseconds[] {
  const { rule } = asked;
  const end = Math.min(to - 1, rule.until ?? Infinity);
  // A number of runs is counted from the first.
  const since = rule.count === null ? from : -Infinity;
  if (end < since) return [];
  const all = elapses(rule) ? grid(asked, since, end) : byTheWall(asked, since, end);
  return rule.count === null ? all : all.slice(0, rule.count).filter((at) => at >= from);
}

/** A start in a gap is shifted whatever the rule for gaps: an interval has to begin somewhere. */
const grid = ({ rule, wall, zone }: Read, since: Milliseconds, end: Milliseconds): Milliseconds[] =>
  elapsedInstants(rule, zone, zone.instantOf(wall)!, since, end);

/** Runs of a rule DAILY or longer up to `end` (included), in order, each once. */
function byTheWall({ rule, wall, zone, gap }: Read, since: Milliseconds, end: Milliseconds): Milliseconds[] {
  const startDay = Math.floor(wall / DAY);
  const startTime = wall - startDay * DAY;
  const times = timesOfDay(rule, startTime);
  const found: Milliseconds[] = [];
  let disorder = false;
  const k = since === -Infinity ? 0 : periodBefore(rule, startDay, Math.floor((since - REACH) / DAY));
  for (let period = k; ; period++) {
    const { first, dates } = periodOf(rule, startDay, period);
    if (first * DAY > end + REACH) break;
    for (const at of picked(rule, dates, times)) {
      if (at < wall) continue;
      const instant = zone.instantOf(at, gap);
      if (instant === null || instant > end || instant < since) continue;
      if (found.length > 0 && instant <= found.at(-1)!) disorder = true;
      found.push(instant);
    }
  }
  return disorder ? [...new Set(found)].sort((a, b) => a - b) : found;
}

function timesOfDay({ hours, minutes }: Rule, start: Milliseconds): Milliseconds[] {
  const hour = Math.floor(start / HOUR);
  const minute = Math.floor((start % HOUR) / MINUTE);
  const second = Math.floor((start % MINUTE) / SECOND);
  return (hours ?? [hour]).flatMap((h) => (minutes ?? [minute]).map((m) => h * HOUR + m * MINUTE + second * SECOND));
}

/** Dates × times of one period, or those of them at the wanted positions. */
function picked({ positions }: Rule, dates: readonly number[], times: readonly Milliseconds[]): Milliseconds[] {
  const all = dates.flatMap((day) => times.map((time) => day * DAY + time));
  if (!positions) return all;
  const at = positions.map((one) => (one > 0 ? one - 1 : all.length + one));
  return [...new Set(at)].sort((a, b) => a - b).flatMap((one) => all[one] ?? []);
}

export interface RecurrenceSummary {
  count: number;
  first: Milliseconds | null;
  last: Milliseconds | null;
  /** Between neighbours inside the window; null where there are none. */
  maxGap: Milliseconds | null;
  minGap: Milliseconds | null;
  /** The run before the largest gap. */
  maxGapAfter: Milliseconds | null;
}

/** How many runs a window holds, the first and last of them, and the largest and smallest gap between neighbours. */
export function summariseRecurrence(asked: Recurrence & Window): Parsed<RecurrenceSummary> {
  const runs = expandRecurrence(asked);
  if (!runs.ok) return runs;
  return parsed(summarised(runs.value));
}

export function summarised(instants: readonly Milliseconds[]): RecurrenceSummary {
  let maxGap: number | null = null;
  let minGap: number | null = null;
  let maxGapAfter: number | null = null;
  for (let k = 1; k < instants.length; k++) {
    const gap = instants[k]! - instants[k - 1]!;
    if (minGap === null || gap < minGap) minGap = gap;
    if (maxGap === null || gap > maxGap) {
      maxGap = gap;
      maxGapAfter = instants[k - 1]!;
    }
  }
  return {
    count: instants.length,
    first: instants[0] ?? null,
    last: instants.at(-1) ?? null,
    maxGap,
    minGap,
    maxGapAfter,
  };
}

/** The first run ever. Reasons: those of a rule, schedule-start, schedule-zone-unknown, rrule-never-fires. */
export function validateRecurrence(recurrence: Recurrence): Parsed<Milliseconds> {
  const asked = read(recurrence);
  if (!asked.ok) return asked;
  const start = asked.value.zone.instantOf(asked.value.wall)!;
  const left = new Set(recurrence.exdates ?? []);
  for (const horizon of HORIZONS) {
    const first = expanded(asked.value, start - DAY, start + horizon).find((at) => !left.has(at));
    if (first !== undefined) return parsed(first, warningsOf(asked.value.rule));
  }
  return refuse('rrule-never-fires');
}

/** The first run after an instant. Reasons: those of a rule, schedule-start, schedule-zone-unknown, rrule-never-fires where none comes within ten years. */
export function nextAfter(recurrence: Recurrence, after: Milliseconds): Parsed<Milliseconds> {
  for (const horizon of HORIZONS) {
    const found = expandRecurrence({ ...recurrence, from: after + 1, to: after + 1 + horizon });
    if (!found.ok) return found;
    if (found.value.length > 0) return parsed(found.value[0]!);
  }
  return refuse('rrule-never-fires');
}

/** What a clock change may do to a grid of hours. */
function warningsOf({ freq, interval, hours }: Rule): string[] {
  if (freq !== 'HOURLY') return [];
  const said: string[] = [];
  if (24 % interval !== 0)
    said.push(`Every ${interval} hours falls on other hours each day: 24 is no multiple of ${interval}.`);
  if (hours && interval > 1)
    said.push('After a clock change the grid may fall on other hours than those listed, and never run again.');
  return said;
}
