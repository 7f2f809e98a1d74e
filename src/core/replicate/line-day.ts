import { cuts } from '../copies/replica';
import { isStretched } from '../copies/legs';
import { changedIn, writingOf, type Writing } from '../copies/writing';
import type { Replication, SiteLink } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { byName } from '../operation/draft';
import type { Bytes } from '../units/bytes';
import { DAY, HOUR, SECOND, type Milliseconds } from '../units/duration';
import type { InParts } from '../units/in-parts';
import { FIXED } from './choices';
import { lagWithin } from './cycles';
import { cyclesTogetherInParts, type SharingReplication } from './cycles-together';
import { lineRateAt } from './line';
import { hostsOver } from './line-load';
import { mirroredRate } from './mirror';
import { nextTick } from './pass';
import { firstMost, MONDAY, needsByHour, type Terms } from './planner';
import { hourOfWeek, hourWords } from '../units/week';
import { arraysUnder, sidesOf } from './sides';
import { spareHours } from './spare';
import type { Step } from './steps';

const WEEK = 7 * DAY;

/** One of those that share a line, in a day of it. */
export interface DayOnLine {
  /** Null for the one that is weighed. */
  id: string | null;
  name: string;
  interval: Milliseconds;
  rpo: Milliseconds | null;
  /** How far it is behind at the most, and when, from midnight UTC. */
  worst: Milliseconds;
  worstAt: Milliseconds;
  /** For how long it is further behind than it may; null where nothing is promised. */
  late: Milliseconds | null;
  /** It is further behind at the end of the day than at its beginning, by more than a cut. */
  falls: boolean;
  cycles: number;
  sent: Bytes;
}

export interface LineDay {
  /** The day of the week in which the line falls shortest of what all need. */
  day: string;
  rows: DayOnLine[];
}

/** One that is not there yet, or is to go otherwise. */
export interface Weighed extends Terms {
  name: string;
  writing: Writing;
  weight: number;
  cap: number | null;
  /** Arrays that it reads from and writes to, as far as they are known. */
  arrays: readonly string[];
}

interface Member extends Weighed {
  id: string | null;
  phase: Milliseconds;
}

/** Beginning of the day of a week in which the line falls shortest of what all need. */
function scarcestDay(
  monday: Milliseconds,
  members: readonly Member[],
  roomAt: (at: Milliseconds) => number,
): Milliseconds {
  const needs = members.flatMap(({ writing, ...terms }) => [needsByHour(writing, terms) ?? []]);
  const short = (hour: number) =>
    needs.reduce((sum, hours) => sum + (hours[hour] ?? 0), 0) - roomAt(monday + hour * HOUR);
  const worst = firstMost(Array.from({ length: 168 }, (_, hour) => short(hour)));
  return monday + Math.floor(worst / 24) * DAY;
}

/**
 * How far behind everything on a line is in its scarcest day of the week, hosts, mirrors and all replications together, with one that is weighed
 * among them: cycle by cycle (protect.md H3, H4), after a day that brings it to its stride. `own` is the replication that it would take the place of.
 */
export function* lineDay(
  view: EstateView,
  { line, weighed, own, now }: { line: SiteLink; weighed: Weighed; own: Replication | null; now: Milliseconds },
): InParts<LineDay> {
  const monday = MONDAY + Math.floor((now - MONDAY) / WEEK) * WEEK;
  const others = view
    .table('replication')
    .by('link', line.id)
    .filter((row) => row.id !== own?.id && row.mode === 'async' && !isStretched(row) && cuts(row));
  const members: Member[] = [
    { ...weighed, id: null, phase: own ? nextTick(view, { ...own, interval: weighed.interval }, monday) - monday : 0 },
    ...[...others].sort(byName).map((row): Member => ({
      ...row,
      writing: writingOf(view, sidesOf(view, row).source),
      arrays: arraysUnder(view, row),
      phase: nextTick(view, row, monday) - monday,
    })),
  ];
  const hosts = hostsOver(view, line);
  const roomAt = (at: Milliseconds) =>
    Math.max(0, lineRateAt(line, at) - mirroredRate(view, line, at, own?.id) - hosts);
  yield;
  const day = scarcestDay(monday, members, roomAt);
  const from = day - DAY;
  // What hosts leave of an array's groups is shared by what is on this line; others that use the array are not looked at.
  const onArray = (array: string) =>
    members.reduce((sum, { arrays, weight }) => (arrays.includes(array) ? sum + weight : sum), 0);
  const left = new Map(
    [...new Set(members.flatMap(({ arrays }) => arrays))].map((array) => [
      array,
      { spare: spareHours(view, array), weight: onArray(array) },
    ]),
  );
  const capped = ({ arrays, cap, weight }: Member): Step[] =>
    Array.from({ length: 48 }, (_, hour) => ({
      fromS: (hour * HOUR) / SECOND,
      bytesPerS: Math.min(
        cap ?? Infinity,
        ...arrays.map((array) => {
          const one = left.get(array)!;
          return (one.spare[hourOfWeek(from + hour * HOUR)]! * weight) / one.weight;
        }),
      ),
    }));
  const moment = (s: number) => from + s * SECOND;
  const [fromS, toS] = [DAY / SECOND, (2 * DAY) / SECOND];
  const found = yield* cyclesTogetherInParts({
    lines: [
      Array.from({ length: 48 }, (_, hour) => ({
        fromS: (hour * HOUR) / SECOND,
        bytesPerS: roomAt(from + hour * HOUR),
      })),
    ],
    replications: members.map((member): SharingReplication => ({
      line: 0,
      weight: member.weight,
      capBytesPerS: capped(member),
      changed: (a, b) => changedIn(member.writing, moment(a), (b - a) * SECOND),
      intervalS: member.interval / SECOND,
      phaseS: ((monday + member.phase - from) % member.interval) / SECOND,
      wireRatio: member.wireRatio,
      fixedS: FIXED / SECOND,
    })),
    horizonS: toS,
    lagAt: [fromS, toS],
  });
  return {
    day: hourWords((day - monday) / HOUR).split(' ')[0]!,
    rows: members.map(({ id, name, interval, rpo }, k) => {
      const { rows, lagS } = found[k]!;
      const { worstLagS, worstAtS, lateS } = lagWithin(rows, {
        fromS,
        toS,
        rpoS: rpo === null ? undefined : rpo / SECOND,
      });
      const done = rows.filter(({ finishS }) => finishS !== null && finishS > fromS);
      return {
        id,
        name,
        interval,
        rpo,
        worst: Math.round(worstLagS * SECOND),
        worstAt: Math.round((worstAtS - fromS) * SECOND),
        late: lateS === null ? null : Math.round(lateS * SECOND),
        falls: lagS[1]! > lagS[0]! + interval / SECOND,
        cycles: done.length,
        sent: done.reduce((sum, row) => sum + row.wireBytes, 0),
      };
    }),
  };
}
