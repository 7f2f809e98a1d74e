import Papa from 'papaparse';
import { MAX_BYTES, type Bytes } from '@/core/units/bytes';

/** One I/O of a trace: seconds since its beginning, bytes. */
export interface TraceRow {
  line: number;
  atS: number;
  /** As the trace names it: a name, `array/name`, or a device number. */
  volume: string;
  offset: Bytes;
  size: Bytes;
  write: boolean;
}

export interface TraceProblem {
  line: number;
  message: string;
  mend: string;
}

export type ReadTrace =
  { ok: true; rows: TraceRow[]; problems: TraceProblem[] } | { ok: false; message: string; mend: string };

const SECTOR = 512;
const names: Record<string, readonly string[]> = {
  at: ['time', 'at', 'timestamp', 'seconds'],
  volume: ['volume', 'device', 'disk', 'lun'],
  offset: ['offset', 'start', 'byte'],
  size: ['size', 'bytes', 'length'],
  kind: ['type', 'op', 'operation', 'read or write', 'rw'],
};

/** `dev cpu seq time pid action rwbs sector + sectors`, as block layers print what is queued. */
const BLOCK_LINE = /^\s*(\d+,\d+)\s+\d+\s+\d+\s+(-?[\d.]+)\s+\d+\s+([A-Z])\s+([A-Z]+)\s+(\d+)\s*\+\s*(\d+)/;

/**
 * Reads a trace of block I/O: CSV with time (s), volume, offset, size (bytes) and read or write, or the text of a block layer, of which what is
 * queued (Q) counts; there `# volume NAME` says which volume a device is. Times that run back or lie before 0 are refused with their line.
 */
export function readTrace(text: string): ReadTrace {
  const first = text.split(/\r?\n/).find((line) => line.trim() !== '' && !line.startsWith('#'));
  if (first === undefined) return { ok: false, message: 'The trace is empty.', mend: 'Give it at least one I/O.' };
  return BLOCK_LINE.test(first) ? readBlockLines(text) : readCsv(text);
}

/** Takes rows in their order and says what is wrong with the others. */
function gathered(): {
  rows: TraceRow[];
  problems: TraceProblem[];
  put: (row: Omit<TraceRow, 'write'> & { kind: string }) => void;
  wrong: (line: number, what: string) => void;
} {
  const rows: TraceRow[] = [];
  const problems: TraceProblem[] = [];
  let last = 0;
  const wrong = (line: number, what: string) => {
    problems.push({ line, message: `Line ${line}: ${what}.`, mend: 'Correct it, or leave it out.' });
  };
  return {
    rows,
    problems,
    wrong,
    put({ line, atS, volume, offset, size, kind }) {
      const write = /^[rw]/i.test(kind) ? /^w/i.test(kind) : null;
      if (!Number.isFinite(atS)) return wrong(line, 'its time is no number');
      if (atS < 0) return wrong(line, `its time ${atS} lies before the beginning`);
      if (atS < last) return wrong(line, `its time ${atS} lies before that of the line above, ${last}`);
      if (write === null) return wrong(line, `${kind || 'nothing'} is neither read nor write`);
      if (!Number.isSafeInteger(size) || size <= 0 || size > MAX_BYTES)
        return wrong(line, 'its size is no number of bytes above 0');
      if (!Number.isSafeInteger(offset) || offset < 0 || offset > MAX_BYTES)
        return wrong(line, 'its offset is no number of bytes');
      if (volume === '') return wrong(line, 'it names no volume');
      last = atS;
      rows.push({ line, atS, volume, offset, size, write });
    },
  };
}

function readCsv(text: string): ReadTrace {
  const parsed = Papa.parse<string[]>(text.trimEnd(), { skipEmptyLines: false, comments: '#' });
  const [head, ...lines] = parsed.data;
  const columns = (head ?? []).map((one) => one.trim().toLowerCase());
  const places = Object.fromEntries(
    Object.entries(names).map(([field, words]) => [field, columns.findIndex((one) => words.includes(one))]),
  );
  const missing = Object.entries(places).flatMap(([field, place]) => (place < 0 ? [names[field]![0]!] : []));
  if (missing.length > 0)
    return {
      ok: false,
      message: `The trace has no column ${missing.join(', ')}.`,
      mend: 'Its first line names the columns time, volume, offset, size and type.',
    };
  const { rows, problems, put } = gathered();
  lines.forEach((cells, k) => {
    if (cells.length === 1 && cells[0]!.trim() === '') return;
    const cell = (field: string) => (cells[places[field]!] ?? '').trim();
    const number = (field: string) => (cell(field) === '' ? NaN : Number(cell(field)));
    put({
      line: k + 2,
      atS: number('at'),
      volume: cell('volume'),
      offset: number('offset'),
      size: number('size'),
      kind: cell('kind'),
    });
  });
  return { ok: true, rows, problems };
}

function readBlockLines(text: string): ReadTrace {
  const { rows, problems, put, wrong } = gathered();
  let called = '';
  text.split(/\r?\n/).forEach((line, k) => {
    const named = /^#\s*volume[:\s]+(\S+)/i.exec(line);
    if (named) {
      called = named[1]!;
      return;
    }
    if (line.trim() === '' || line.startsWith('#')) return;
    const match = BLOCK_LINE.exec(line);
    if (!match) {
      wrong(k + 1, 'it is no line of a block trace');
      return;
    }
    const [, device, at, action, kind, sector, sectors] = match;
    if (action !== 'Q') return;
    put({
      line: k + 1,
      atS: Number(at),
      volume: called || device!,
      offset: Number(sector) * SECTOR,
      size: Number(sectors) * SECTOR,
      kind: kind!,
    });
  });
  return { ok: true, rows, problems };
}

/** What a volume is seen to be asked in a trace, on the mean of its time. */
export interface TracedActivity {
  line: number;
  volume: string;
  seconds: number;
  reads: number;
  writes: number;
  ioBytes: Bytes;
  sequential: boolean;
  /** The greatest second over the mean. */
  burst: number;
}

export function activityOf(rows: readonly TraceRow[]): TracedActivity[] {
  const seconds = Math.max(1, (rows.at(-1)?.atS ?? 0) - (rows[0]?.atS ?? 0));
  const byVolume = new Map<string, TraceRow[]>();
  for (const row of rows) {
    const some = byVolume.get(row.volume);
    if (some) some.push(row);
    else byVolume.set(row.volume, [row]);
  }
  return [...byVolume].map(([volume, some]) => {
    const perSecond = new Map<number, number>();
    let [bytes, follows, writes, end] = [0, 0, 0, -1];
    for (const { atS, offset, size, write } of some) {
      perSecond.set(Math.floor(atS), (perSecond.get(Math.floor(atS)) ?? 0) + 1);
      bytes += size;
      if (offset === end) follows += 1;
      if (write) writes += 1;
      end = offset + size;
    }
    const mean = some.length / seconds;
    return {
      line: some[0]!.line,
      volume,
      seconds,
      reads: (some.length - writes) / seconds,
      writes: writes / seconds,
      ioBytes: Math.max(SECTOR, Math.round(bytes / some.length / SECTOR) * SECTOR),
      sequential: follows > some.length / 2,
      burst: Math.min(1000, Math.max(1, [...perSecond.values()].reduce((most, n) => Math.max(most, n), 0) / mean)),
    };
  });
}
