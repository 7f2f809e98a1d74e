import { figuresOfRow, quantileOf, type LoadRow } from '@/core/performance/row';
import type { Beside, LoadPoint, SubjectLoad } from '@/core/performance/answers';
import { DAY, MINUTE, type Milliseconds } from '@/core/units/duration';
import { formatCount, formatWait } from '@/core/units/figures';
import { readHoursOf } from '@/store/load-rows';
import type { Plant } from './plant';

import { pointsOf, rowsOf, spanOf, summaryOf, together, unknown, volumesOf } from './load-spans';
import { limitsOn } from './load-limits';

/** What the log tells of the minute around a moment. */
function besideOf(plant: Plant, at: Milliseconds): Beside[] {
  return (
    plant.store.db
      .prepare('SELECT at_lab AS at, level, message FROM log WHERE at_lab BETWEEN ? AND ? ORDER BY at_lab LIMIT 6')
      .all(at - MINUTE, at + MINUTE) as { at: number; level: string; message: string }[]
  ).map(({ at: when, level, message }) => ({ at: when, says: message, problem: level === 'problem' }));
}

/** A volume, a workload, an array or a host over a span. */
export function subjectLoad(plant: Plant, id: string, seconds: number, until: Milliseconds | null): SubjectLoad {
  const of = volumesOf(plant, id);
  if (!of) throw unknown(id);
  const { from, to } = spanOf(plant, seconds, until);
  const { estate } = plant;
  const ids = new Set(of.volumes);
  const points = pointsOf(plant, ids, from, to);
  const rows = rowsOf(plant, from, to);
  const hours = new Map<Milliseconds, LoadRow[]>();
  for (const volume of ids)
    for (const { at, row } of readHoursOf(plant.store.db, volume, from, to))
      hours.set(at, [...(hours.get(at) ?? []), row]);
  const spikes = worstOf(points).map(({ mostLatencyAt: at, mostLatencyS, mostIops }) => ({
    at,
    latencyS: mostLatencyS,
    iops: mostIops,
    beside: besideOf(plant, at),
  }));
  return {
    id,
    kind: of.kind,
    name: of.name,
    array: of.array,
    arrayName: of.array === null ? null : (estate.table('array').get(of.array)?.name ?? null),
    from,
    to,
    points,
    hours: [...hours]
      .sort(([a], [b]) => a - b)
      .map(([at, some]) => {
        const { iops, latencyS } = figuresOfRow(together(some));
        return { at, iops, latencyS };
      }),
    limits: of.kind === 'volume' ? limitsOn(plant, id) : [],
    volumes: of.volumes.flatMap((one) => {
      const row = rows.get(one);
      const volume = estate.table('volume').get(one);
      if (!row || !volume) return [];
      return [
        summaryOf(
          one,
          volume.name,
          estate.table('pool').get(volume.pool)!.name,
          volume.size > 0 ? volume.written / volume.size : null,
          row,
        ),
      ];
    }),
    spikes,
    unusual: unusualHours(plant, ids),
  };
}

/** The points at which the wait was far from usual, the worst first. */
function worstOf(points: readonly LoadPoint[]): LoadPoint[] {
  const busy = points.filter(({ latencyS }) => latencyS !== null);
  const sorted = [...busy].sort((a, b) => a.mostLatencyS - b.mostLatencyS);
  const usual = sorted[Math.floor(sorted.length / 2)]?.mostLatencyS ?? 0;
  return sorted
    .filter(({ mostLatencyS }) => mostLatencyS > 3 * usual)
    .reverse()
    .slice(0, 3);
}

/** Hours of the last day that are unlike the same hours of the week before. */
function unusualHours(plant: Plant, ids: ReadonlySet<string>): { at: Milliseconds; says: string }[] {
  const { now } = plant.lab;
  const hours = new Map<Milliseconds, LoadRow[]>();
  for (const id of ids)
    for (const { at, row } of readHoursOf(plant.store.db, id, now - 8 * DAY, now))
      hours.set(at, [...(hours.get(at) ?? []), row]);
  const found: { at: Milliseconds; says: string }[] = [];
  for (const [at, rows] of hours) {
    const before = hours.get(at - 7 * DAY);
    if (at < now - DAY || !before) continue;
    const [is, was] = [together(rows), together(before)];
    const [p, q] = [quantileOf(is, 0.95), quantileOf(was, 0.95)];
    if (p !== null && q !== null && (p > 2 * q || p < q / 2))
      found.push({ at, says: `p95 ${formatWait(p)}, a week before ${formatWait(q)}` });
    else if (was.served > 0 && (is.served > 2 * was.served || is.served < was.served / 2))
      found.push({
        at,
        says: `${formatCount(is.served / 3600)} I/O/s, a week before ${formatCount(was.served / 3600)}`,
      });
  }
  return found.sort((a, b) => b.at - a.at).slice(0, 4);
}
