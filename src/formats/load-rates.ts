import Papa from 'papaparse';
import { hoursOfWeek } from '@/core/copies/activity';
import { weekShapes, type WeekShape } from '@/core/kinds/activity';
import { formatWeek, hourOfWeek } from '@/core/units/week';
import { HOUR, SECOND } from '@/core/units/duration';
import type { TraceProblem, TracedActivity } from './io-trace';

/** What was measured of a volume from a moment on, until its next row: rates a second. */
interface RateRow {
  line: number;
  /** Milliseconds since 1970, or since the beginning where times are plain seconds. */
  at: number;
  volume: string;
  reads: number;
  writes: number;
  bytes: number;
}

/** What measured rates say of a volume; its week only where so much was measured that it can be told. */
export interface MeasuredActivity extends Omit<TracedActivity, 'sequential'> {
  week: WeekShape | null;
}

export type ReadRates =
  { ok: true; activities: MeasuredActivity[]; problems: TraceProblem[] } | { ok: false; message: string; mend: string };

const names: Record<string, readonly string[]> = {
  at: ['time', 'at', 'timestamp', 'seconds'],
  volume: ['volume', 'device', 'disk', 'lun'],
  reads: ['reads', 'reads/s', 'read iops', 'reads_per_s'],
  writes: ['writes', 'writes/s', 'write iops', 'writes_per_s'],
  bytes: ['bytes', 'bytes/s', 'throughput', 'bytespers'],
};
const SECTOR = 512;
/** Hours of the week that must be seen before a shape is named. */
const HOURS_SEEN = 24;
const HOURS_A_WEEK = 168;
/** Mean square by which hours may differ from a usual shape, against the mean of the week (a choice). */
const GOOD_FIT = 0.01;

const columnsOf = (head: readonly string[]): Record<string, number> => {
  const columns = head.map((one) => one.trim().toLowerCase());
  return Object.fromEntries(
    Object.entries(names).map(([field, words]) => [field, columns.findIndex((one) => words.includes(one))]),
  );
};

/** Whether a text is measured rates rather than single I/Os: its head names reads and writes. */
export function holdsRates(text: string): boolean {
  const head = text.split(/\r?\n/).find((line) => line.trim() !== '' && !line.startsWith('#')) ?? '';
  const places = columnsOf(Papa.parse<string[]>(head).data[0] ?? []);
  return places.reads! >= 0 && places.writes! >= 0;
}

/**
 * Reads measured rates of volumes: CSV with time (seconds, or a date and time), volume, reads and writes a second, bytes a second. A row holds until
 * the next of its volume, the last for as long as the one before. Rows that cannot be read are told with their line, the others count.
 */
export function readRates(text: string): ReadRates {
  const parsed = Papa.parse<string[]>(text.trimEnd(), { skipEmptyLines: false, comments: '#' });
  const [head, ...lines] = parsed.data;
  const places = columnsOf(head ?? []);
  const missing = Object.entries(places).flatMap(([field, place]) => (place < 0 ? [names[field]![0]!] : []));
  if (missing.length > 0)
    return {
      ok: false,
      message: `The measurements have no column ${missing.join(', ')}.`,
      mend: 'The first line names the columns time, volume, reads, writes and bytes.',
    };
  const problems: TraceProblem[] = [];
  const rows: RateRow[] = [];
  const last = new Map<string, number>();
  let dated = false;
  lines.forEach((cells, k) => {
    if (cells.length === 1 && cells[0]!.trim() === '') return;
    const line = k + 2;
    const cell = (field: string) => (cells[places[field]!] ?? '').trim();
    const rate = (field: string) => (cell(field) === '' ? NaN : Number(cell(field)));
    const wrong = (what: string) =>
      void problems.push({ line, message: `Line ${line}: ${what}.`, mend: 'Correct it, or leave it out.' });
    const plain = Number(cell('at'));
    const moment = Number.isFinite(plain) ? plain * SECOND : Date.parse(cell('at'));
    const at = cell('at') === '' ? NaN : moment;
    const volume = cell('volume');
    if (!Number.isFinite(at)) return wrong('its time is neither seconds nor a date');
    if (volume === '') return wrong('it names no volume');
    const before = last.get(volume);
    if (before !== undefined && at <= before)
      return wrong(`its time does not lie after that of the row above of ${volume}`);
    const [reads, writes, bytes] = [rate('reads'), rate('writes'), rate('bytes')];
    const bad = Object.entries({ reads, writes, bytes }).find(([, value]) => !(Number.isFinite(value) && value >= 0));
    if (bad) return wrong(`its ${bad[0]} are no rate of 0 or more`);
    dated ||= !Number.isFinite(plain);
    last.set(volume, at);
    rows.push({ line, at, volume, reads, writes, bytes });
  });
  const byVolume = new Map<string, RateRow[]>();
  for (const row of rows) byVolume.set(row.volume, [...(byVolume.get(row.volume) ?? []), row]);
  return { ok: true, activities: [...byVolume.values()].map((some) => measured(some, dated)), problems };
}

function measured(rows: readonly RateRow[], dated: boolean): MeasuredActivity {
  const lasts = rows.map(({ at }, k) => {
    const next = rows[k + 1]?.at;
    if (next !== undefined) return next - at;
    return k > 0 ? at - rows[k - 1]!.at : SECOND;
  });
  const span = lasts.reduce((sum, one) => sum + one, 0);
  const mean = (of: (row: RateRow) => number) => rows.reduce((sum, row, k) => sum + of(row) * lasts[k]!, 0) / span;
  const [reads, writes, bytes] = [mean((one) => one.reads), mean((one) => one.writes), mean((one) => one.bytes)];
  const all = reads + writes;
  const most = Math.max(...rows.map((one) => one.reads + one.writes));
  return {
    line: rows[0]!.line,
    volume: rows[0]!.volume,
    seconds: span / SECOND,
    reads,
    writes,
    ioBytes: all > 0 ? Math.max(SECTOR, Math.round(bytes / all / SECTOR) * SECTOR) : SECTOR,
    burst: all > 0 ? Math.min(1000, Math.max(1, most / all)) : 1,
    week: dated && all > 0 ? weekOf(rows, lasts) : null,
  };
}

/**
 * The week that was seen: where all its hours were and no usual shape fits well, as they were; else the shape that fits best, by least squares of
 * what the hours ask against their mean.
 */
function weekOf(rows: readonly RateRow[], lasts: readonly number[]): WeekShape | null {
  const [asked, seen] = [new Float64Array(168), new Float64Array(168)];
  rows.forEach(({ at, reads, writes }, k) => {
    for (let from = at; from < at + lasts[k]!;) {
      const to = Math.min(at + lasts[k]!, (Math.floor(from / HOUR) + 1) * HOUR);
      asked[hourOfWeek(from)]! += (reads + writes) * (to - from);
      seen[hourOfWeek(from)]! += to - from;
      from = to;
    }
  });
  const hours = [...seen.keys()].filter((hour) => seen[hour]! > 0);
  if (hours.length < HOURS_SEEN) return null;
  const relative = (of: (hour: number) => number) => {
    const mean = hours.reduce((sum, hour) => sum + of(hour), 0) / hours.length;
    return hours.map((hour) => (mean > 0 ? of(hour) / mean : 1));
  };
  const own = relative((hour) => asked[hour]! / seen[hour]!);
  const off = (shape: WeekShape) => {
    const its = relative((hour) => hoursOfWeek(shape)[hour]!);
    return own.reduce((sum, one, k) => sum + (one - its[k]!) ** 2, 0);
  };
  const [best] = [...weekShapes].sort((a, b) => off(a) - off(b));
  const seenAll = hours.length === HOURS_A_WEEK;
  return seenAll && off(best!) / HOURS_A_WEEK > GOOD_FIT
    ? formatWeek(own.map((one) => Math.round(one * 100) / 100))
    : best!;
}
