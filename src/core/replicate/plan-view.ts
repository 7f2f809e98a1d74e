import { shownBytes } from '../copies/parts';
import { changedIn, writingOf, type Writing } from '../copies/writing';
import type { Replication, SiteLink, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, siteOf } from '../estate/relations';
import { byName } from '../operation/draft';
import { allSubjects } from '../protect/coverage';
import type { Bytes } from '../units/bytes';
import { HOUR, MINUTE, SECOND, type Milliseconds } from '../units/duration';
import type { InParts } from '../units/in-parts';
import type { BytesPerSecond } from '../units/rate';
import { CHECKSUM, DIFFERS, EXTENT, FIXED, IMPORT, SCAN, TRANSIT, USUAL_RATIO } from './choices';
import { lineDay, type LineDay } from './line-day';
import { initialCopy, firstCopyMethods, type FirstCopyMethod } from './first-copy';
import { lineRate } from './line';
import { arraysUnder, sidesOf } from './sides';
import { replicaOf } from '../copies/replica';
import { firstMost, MONDAY, needsByHour, shareOf, sharesOf } from './planner';
import { hourWords } from '../units/week';
import { reservesOf } from './reserve';

/** Recovery points that are weighed against each other. */
const POINTS: readonly Milliseconds[] = [
  30 * SECOND,
  2 * MINUTE,
  5 * MINUTE,
  15 * MINUTE,
  30 * MINUTE,
  HOUR,
  4 * HOUR,
  12 * HOUR,
];
const HOURS = 168;

/** What one recovery point costs and whether the line holds it. */
export interface PlannedPoint {
  rpo: Milliseconds;
  interval: Milliseconds;
  /** By the hour of the week from Monday 00:00 UTC: bytes a second that it needs; null where no line would do. */
  needs: BytesPerSecond[] | null;
  /** The most of them, and its hour. */
  need: BytesPerSecond | null;
  hour: string;
  /** Hours of the week in which the share does not do. */
  breaks: number;
  /** What the source keeps for an outage, and the target for its images. */
  sourceReserve: Bytes;
  targetReserve: Bytes;
}

/** A replication before there is one. */
export interface ReplicationPlan {
  subjects: { id: string; name: string; site: string; copied: boolean }[];
  links: { id: string; name: string; sites: string[]; through: BytesPerSecond }[];
  of: string;
  link: string;
  /** What it would have of the line beside those that use it, and what the line brings through. */
  share: BytesPerSecond;
  /** The array whose groups leave it no more in its scarcest hour; null where it is the line. */
  heldBy: string | null;
  /** The same by the hour of the week. */
  shares: BytesPerSecond[];
  through: BytesPerSecond;
  /** By the hour of the week: what the others on the line need to hold theirs. */
  others: BytesPerSecond[];
  points: PlannedPoint[];
  /** The least recovery point that holds all week; null where none does. */
  holds: Milliseconds | null;
  first: { method: FirstCopyMethod; took: Milliseconds | null; wire: Bytes; start: Milliseconds }[];
  bytes: Bytes;
}

const week = (at: (hour: number) => number): number[] => Array.from({ length: HOURS }, (_, hour) => at(hour));

function plannedPoint(
  writing: Writing,
  rpo: Milliseconds,
  wireRatio: number,
  shares: readonly BytesPerSecond[],
): PlannedPoint {
  const interval = rpo / 2;
  const needs = needsByHour(writing, { interval, rpo, wireRatio });
  const hour = needs ? firstMost(needs) : 0;
  const kept = reservesOf(writing, { interval });
  return {
    rpo,
    interval,
    needs,
    need: needs ? Math.max(...needs) : null,
    hour: hourWords(hour),
    breaks: needs ? needs.filter((one, k) => one > shares[k]!).length : HOURS,
    sourceReserve: kept.source,
    targetReserve: kept.target,
  };
}

/** The three ways of a first copy, each with the rounds that catch up. */
function firstCopies(writing: Writing, share: BytesPerSecond, wireRatio: number): ReplicationPlan['first'] {
  const bytes = writing.volumes.reduce((sum, volume) => sum + shownBytes(volume), 0);
  const rate = changedIn(writing, MONDAY, 168 * HOUR) / ((168 * HOUR) / SECOND);
  return firstCopyMethods.map((method) => {
    const copy = initialCopy({
      method,
      allocatedBytes: bytes,
      bandwidthBytesPerS: Math.max(1, share),
      wireRatio,
      classes: [
        {
          kind: 'linear',
          bytesPerS: rate,
          ioBytes: EXTENT,
          alignBytes: EXTENT,
          extentBytes: EXTENT,
          workingSetBytes: 0,
        },
      ],
      intervalS: (10 * MINUTE) / SECOND,
      fixedS: FIXED / SECOND,
      scanBytesPerS: SCAN,
      diffFraction: DIFFERS,
      extentBytes: EXTENT,
      checksumBytes: CHECKSUM,
      exportBytesPerS: IMPORT,
      transitS: TRANSIT / SECOND,
      importBytesPerS: IMPORT,
    });
    if (!copy.ok) return { method, took: null, wire: 0, start: 0 };
    const { firstS, totalS, wireBytes } = copy.value;
    return { method, took: totalS === null ? null : totalS * SECOND, wire: wireBytes, start: firstS * SECOND };
  });
}

interface Chosen {
  subjects: ReplicationPlan['subjects'];
  lines: SiteLink[];
  of: ReplicationPlan['subjects'][number];
  volumes: readonly Volume[];
  line: SiteLink;
  /** What copies it over the line already, and what else goes over it. */
  own: Replication | null;
  beside: Replication[];
}

/** What is to be copied over which line: without a workload or a line the first that fit; null where there is none. */
function chosenOf(view: EstateView, of: string, link: string): Chosen | null {
  const subjects = allSubjects(view)
    .filter((subject) => subject.volumes.length > 0)
    .sort(byName)
    .map((subject) => ({
      id: subject.workload?.id ?? subject.volumes[0]!.id,
      name: subject.name,
      site: siteOf(view, arrayOf(view, subject.volumes[0]!)),
      volumes: subject.volumes,
      copied: subject.volumes.some((volume) => replicaOf(view, volume.id) !== null),
    }));
  const chosen = subjects.find(({ id }) => id === of) ?? subjects.find(({ copied }) => !copied) ?? subjects[0];
  if (!chosen) return null;
  const lines = [...view.table('siteLink').values()]
    .filter((line) => line.sites.includes(chosen.site.id))
    .sort((a, b) => lineRate(b).bytesPerS - lineRate(a).bytesPerS);
  const line = lines.find(({ id }) => id === link) ?? lines[0];
  if (!line) return null;
  const all = view.table('replication').by('link', line.id);
  const isOwn = (row: Replication) => chosen.volumes.some((volume) => row.primaries.includes(volume.id));
  const told = ({ site, id, name, copied }: (typeof subjects)[number]) => ({ id, name, site: site.name, copied });
  return {
    subjects: subjects.map(told),
    lines,
    of: told(chosen),
    volumes: chosen.volumes,
    line,
    own: all.find(isOwn) ?? null,
    beside: all.filter((row) => !isOwn(row)),
  };
}

/**
 * Which recovery points a line holds for a workload with its activity by the hour of the week, beside those that use the line, and what a first copy
 * costs each way. Without a workload or a line the first that fit are taken; null where there is none.
 */
export function replicationPlan(
  view: EstateView,
  of: string,
  link: string,
  wireRatio = USUAL_RATIO,
): ReplicationPlan | null {
  const chosen = chosenOf(view, of, link);
  if (!chosen) return null;
  const { subjects, lines, volumes, line, own, beside } = chosen;
  // Where it is copied to is not known before there is a replication: only its own arrays are asked.
  const arrays = own ? undefined : [...new Set(volumes.map(({ array }) => array))];
  const asked = [view, line, own?.weight ?? 1, own, arrays] as const;
  const shares = sharesOf(...asked).map(({ bytesPerS }) => bytesPerS);
  const { bytesPerS: share, array } = shareOf(...asked);
  const writing = writingOf(view, volumes);
  const points = POINTS.map((rpo) => plannedPoint(writing, rpo, wireRatio, shares));
  const others = beside.map((row) => needsByHour(writingOf(view, sidesOf(view, row).source), row) ?? week(() => 0));
  return {
    subjects,
    links: lines.map((one) => ({
      id: one.id,
      name: one.name,
      sites: one.sites.map((id) => view.table('site').get(id)!.name),
      through: lineRate(one).bytesPerS,
    })),
    of: chosen.of.id,
    link: line.id,
    share,
    heldBy: array === null ? null : view.table('array').get(array)!.name,
    shares,
    through: lineRate(line).bytesPerS,
    others: week((hour) => others.reduce((sum, needs) => sum + needs[hour]!, 0)),
    points,
    holds: points.find(({ breaks }) => breaks === 0)?.rpo ?? null,
    first: firstCopies(writing, share, wireRatio),
    bytes: volumes.reduce((sum, volume) => sum + shownBytes(volume), 0),
  };
}

/** The scarcest day of the line, were it copied with a recovery point, all together; null where there is nothing to plan. */
export function* plannedDay(
  view: EstateView,
  { of, link, rpo, now }: { of: string; link: string; rpo: Milliseconds; now: Milliseconds },
): InParts<LineDay | null> {
  const chosen = chosenOf(view, of, link);
  if (!chosen) return null;
  const { line, own, volumes } = chosen;
  const weighed = {
    name: chosen.of.name,
    writing: writingOf(view, volumes),
    weight: own?.weight ?? 1,
    cap: own?.cap ?? null,
    arrays: own ? arraysUnder(view, own) : [...new Set(volumes.map(({ array }) => array))],
    wireRatio: USUAL_RATIO,
    interval: rpo / 2,
    rpo,
  };
  return yield* lineDay(view, { line, weighed, own, now });
}
