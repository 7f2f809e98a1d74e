import { Book } from '@/core/performance/book';
import { SLOT } from '@/core/performance/choices';
import { addRow, emptyRow, figuresOfRow, mergedRows, unpackRow, type LoadRow } from '@/core/performance/row';
import { slotOf } from '@/core/performance/profile';
import { type LoadSummary } from '@/core/performance/top';
import type { LoadKind, LoadPoint } from '@/core/performance/answers';
import { DAY, HOUR, type Milliseconds } from '@/core/units/duration';
import { readAllRows, readHoursOf } from '@/store/load-rows';
import type { Plant } from './plant';
import { Problem } from './problem';

/** Spans up to this are worked out again five seconds by five seconds; longer ones are read from hours. */
export const CLOSELY = 2 * DAY;

/** Points of a chart. */
export const POINTS = 240;

export const unknown = (id: string) =>
  new Problem(404, 'subject-unknown', `There is no volume, workload, array or host ${id}.`, 'Name it by its id.');

/** The span that ends now and is looked at in whole slots. */
export function spanOf(
  { lab }: Plant,
  seconds: number,
  until: Milliseconds | null,
): { from: Milliseconds; to: Milliseconds } {
  const to = slotOf(Math.min(lab.now, until ?? lab.now)) * SLOT;
  return { from: to - seconds * 1000, to };
}

/** All rows of a span, by volume and resource. */
export function rowsOf(plant: Plant, from: Milliseconds, to: Milliseconds): Map<string, LoadRow> {
  const found = new Map<string, LoadRow>();
  if (to - from <= CLOSELY / 8) {
    const book = new Book(slotOf(from), slotOf(to) - slotOf(from), 1);
    plant.telemetry.again(from, to, book);
    for (const { subject, parts } of book.all()) found.set(subject, parts[0]!);
    return found;
  }
  const into = (subject: string): LoadRow => {
    let row = found.get(subject);
    if (!row) found.set(subject, (row = emptyRow()));
    return row;
  };
  for (const { subject, data } of readAllRows(plant.store.db, from - HOUR + 1, to))
    addRow(into(subject), unpackRow(data));
  // The hour under way belongs to spans that reach into it.
  const { underWay } = plant.telemetry;
  if (to > underWay.start * SLOT)
    for (const { subject, parts } of underWay.all()) addRow(into(subject), mergedRows(parts));
  return found;
}

export const summaryOf = (id: string, name: string, of: string, fullness: number | null, row: LoadRow): LoadSummary => {
  const f = figuresOfRow(row);
  return {
    id,
    name,
    of,
    fullness,
    iops: f.iops,
    mostIops: row.mostIops,
    mostIopsAt: row.mostIopsAt * SLOT,
    latencyS: f.latencyS,
    p95S: f.p95S,
    mostLatencyS: row.mostLatency,
    mostLatencyAt: row.mostLatencyAt * SLOT,
    bytesPerS: f.bytesPerS,
    mostBytesPerS: row.mostBytesPerS,
    unserved: f.unservedIops,
    mostUnserved: row.mostRefused,
    mostQueue: row.mostQueue,
    held: row.served > 0 ? row.held / row.served : 0,
  };
};

/** Volumes of a workload, an array or a host; of a volume itself. */
export function volumesOf(
  { estate }: Plant,
  id: string,
): { kind: LoadKind; name: string; array: string | null; volumes: string[] } | null {
  const volume = estate.table('volume').get(id);
  if (volume) return { kind: 'volume', name: volume.name, array: volume.array, volumes: [id] };
  const workload = estate.table('workload').get(id);
  if (workload)
    return {
      kind: 'workload',
      name: workload.name,
      array: null,
      volumes: estate
        .table('volume')
        .by('workload', id)
        .map((one) => one.id),
    };
  const pool = estate.table('pool').get(id);
  if (pool)
    return {
      kind: 'pool',
      name: `${estate.table('array').get(pool.array)!.name} ${pool.name}`,
      array: pool.array,
      volumes: estate
        .table('volume')
        .by('pool', id)
        .map((one) => one.id),
    };
  const array = estate.table('array').get(id);
  if (array)
    return {
      kind: 'array',
      name: array.name,
      array: id,
      volumes: estate
        .table('volume')
        .by('array', id)
        .map((one) => one.id),
    };
  const host = estate.table('host').get(id);
  if (host)
    return {
      kind: 'host',
      name: host.name,
      array: null,
      volumes: estate
        .table('hostDevice')
        .by('host', id)
        .map((one) => one.volume),
    };
  return null;
}

export const pointOf = (at: Milliseconds, row: LoadRow): LoadPoint => {
  const f = figuresOfRow(row);
  return {
    at,
    seconds: f.seconds,
    asked: f.askedIops,
    iops: f.iops,
    mostIops: row.mostIops,
    held: f.seconds > 0 ? row.held / f.seconds : 0,
    unserved: f.unservedIops,
    bytesPerS: f.bytesPerS,
    latencyS: f.latencyS,
    mostLatencyS: row.mostLatency,
    mostLatencyAt: row.mostLatencyAt * SLOT,
    p50S: f.p50S,
    p95S: f.p95S,
    p99S: f.p99S,
  };
};

/** Rows of several volumes side by side as one. */
export function together(rows: readonly LoadRow[]): LoadRow {
  const sum = mergedRows(rows);
  sum.slots = Math.max(0, ...rows.map(({ slots }) => slots));
  return sum;
}

/** Some volumes together over a span, as points of a chart. */
export function pointsOf(
  plant: Plant,
  volumes: ReadonlySet<string>,
  from: Milliseconds,
  to: Milliseconds,
): LoadPoint[] {
  if (to - from <= CLOSELY) {
    const slots = Math.max(1, Math.ceil((slotOf(to) - slotOf(from)) / POINTS));
    const count = Math.ceil((slotOf(to) - slotOf(from)) / slots);
    const book = new Book(slotOf(from), slots, count, (id) => volumes.has(id));
    plant.telemetry.again(from, to, book);
    const all = [...book.all()];
    return Array.from({ length: count }, (_, k) =>
      pointOf(from + k * slots * SLOT, together(all.map(({ parts }) => parts[k]!))),
    );
  }
  const hours = new Map<Milliseconds, LoadRow[]>();
  for (const id of volumes)
    for (const { at, row } of readHoursOf(plant.store.db, id, from, to)) hours.set(at, [...(hours.get(at) ?? []), row]);
  return [...hours].sort(([a], [b]) => a - b).map(([at, rows]) => pointOf(at, together(rows)));
}

/** Rows one after the other as points of a chart. */
export function chartOf(from: Milliseconds, rows: readonly LoadRow[]): LoadPoint[] {
  let at = from;
  return rows.map((row) => {
    const point = pointOf(at, row);
    at += row.slots * SLOT;
    return point;
  });
}
