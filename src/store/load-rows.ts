import { deflateRawSync, inflateRawSync } from 'node:zlib';
import { packParts, partOf, unpackParts, type LoadPart } from '@/core/performance/parts';
import { addRow, emptyRow, mergedRows, packRow, unpackRow, type LoadRow } from '@/core/performance/row';
import type { CourseState } from '@/core/performance/course';
import type { LoadModel, TimedWork } from '@/core/performance/shape';
import { DAY, HOUR, type Milliseconds } from '@/core/units/duration';
import type { Db } from './database';

/** How long is kept what rows of each length are read from. */
export const KEPT = { closely: 14 * DAY, parts: 90 * DAY, hours: 730 * DAY, days: 1826 * DAY } as const;

export interface LoadMark {
  at: Milliseconds;
  model: number;
  state: CourseState;
  /** What replications carried from then on. */
  timed: readonly TimedWork[];
}

/** Keeps a model that is new, and where its course begins. */
export function writeModel(db: Db, at: Milliseconds, model: LoadModel): number {
  const data = deflateRawSync(JSON.stringify(model));
  return Number(db.prepare('INSERT INTO load_model (at, data) VALUES (?, ?)').run(at, data).lastInsertRowid);
}

export const writeMark = (db: Db, { at, model, state, timed }: LoadMark): void =>
  void db
    .prepare('INSERT OR REPLACE INTO load_mark (at, model, state, timed) VALUES (?, ?, ?, ?)')
    .run(at, model, JSON.stringify(state), timed.length === 0 ? null : JSON.stringify(timed));

export function readModel(db: Db, id: number): LoadModel {
  const { data } = db.prepare('SELECT data FROM load_model WHERE id = ?').get(id) as { data: Buffer };
  return JSON.parse(inflateRawSync(data).toString()) as LoadModel;
}

interface MarkRow {
  at: number;
  model: number;
  state: string;
  timed: string | null;
}

const marked = (row: MarkRow): LoadMark => ({
  ...row,
  state: JSON.parse(row.state) as CourseState,
  timed: row.timed === null ? [] : (JSON.parse(row.timed) as TimedWork[]),
});

/** The mark that a moment goes on from, and those after it up to another. */
export function readMarks(db: Db, from: Milliseconds, to: Milliseconds): LoadMark[] {
  const first = db.prepare('SELECT max(at) AS at FROM load_mark WHERE at <= ?').get(from) as { at: number | null };
  return (
    db
      .prepare('SELECT at, model, state, timed FROM load_mark WHERE at >= ? AND at < ? ORDER BY at')
      .all(first.at ?? from, Math.max(to, from + 1)) as MarkRow[]
  ).map(marked);
}

/** Takes away what lies ahead of a moment: its time was put back. */
export function forgetAhead(db: Db, now: Milliseconds): void {
  for (const table of ['load_mark', 'load_hour', 'load_day']) db.prepare(`DELETE FROM ${table} WHERE at > ?`).run(now);
}

export interface LoadHour {
  subject: string;
  at: Milliseconds;
  parts: LoadRow[];
  /** Of a resource. */
  capacity: number;
}

/** Writes the hours of many subjects, and adds them to their days. */
export function writeHours(db: Db, hours: Iterable<LoadHour>): void {
  const hour = db.prepare('INSERT OR REPLACE INTO load_hour (subject, at, data, parts) VALUES (?, ?, ?, ?)');
  for (const { subject, at, parts, capacity } of hours)
    hour.run(subject, at, packRow(mergedRows(parts)), packParts(parts.map((row) => partOf(row, capacity))));
}

/** Rolls the hours of a day that is over into one row a subject, and lets go what has been kept for long enough. */
export function closeDay(db: Db, day: Milliseconds): void {
  const sums = new Map<string, LoadRow>();
  for (const { subject, data } of db
    .prepare('SELECT subject, data FROM load_hour WHERE at >= ? AND at < ?')
    .iterate(day, day + DAY) as Iterable<{ subject: string; data: Buffer }>) {
    let sum = sums.get(subject);
    if (!sum) sums.set(subject, (sum = emptyRow()));
    addRow(sum, unpackRow(data));
  }
  const write = db.prepare('INSERT OR REPLACE INTO load_day (subject, at, data) VALUES (?, ?, ?)');
  for (const [subject, row] of sums) write.run(subject, day, packRow(row));
  const now = day + DAY;
  db.prepare('DELETE FROM load_mark WHERE at < ?').run(now - KEPT.closely);
  db.prepare(
    'DELETE FROM load_model WHERE id NOT IN (SELECT model FROM load_mark) AND id < (SELECT max(id) FROM load_model)',
  ).run();
  db.prepare('UPDATE load_hour SET parts = NULL WHERE at < ? AND parts IS NOT NULL').run(now - KEPT.parts);
  db.prepare('DELETE FROM load_hour WHERE at < ?').run(now - KEPT.hours);
  db.prepare('DELETE FROM load_day WHERE at < ?').run(now - KEPT.days);
}

/** Hours of one subject, in their order. */
export const readHoursOf = (
  db: Db,
  subject: string,
  from: Milliseconds,
  to: Milliseconds,
): { at: Milliseconds; row: LoadRow; parts: LoadPart[] }[] =>
  (
    db
      .prepare('SELECT at, data, parts FROM load_hour WHERE subject = ? AND at > ? AND at < ? ORDER BY at')
      .all(subject, from - HOUR, to) as { at: number; data: Buffer; parts: Buffer | null }[]
  ).map(({ at, data, parts }) => ({ at, row: unpackRow(data), parts: parts ? unpackParts(parts) : [] }));

/** All hours that lie in a span, subject by subject. */
export const readAllHours = (
  db: Db,
  from: Milliseconds,
  to: Milliseconds,
): Iterable<{ subject: string; at: Milliseconds; data: Buffer }> =>
  db.prepare('SELECT subject, at, data FROM load_hour WHERE at >= ? AND at < ?').iterate(from, to) as Iterable<{
    subject: string;
    at: number;
    data: Buffer;
  }>;

/** The same with their parts. */
export function* readAllParts(
  db: Db,
  from: Milliseconds,
  to: Milliseconds,
): Generator<{ subject: string; at: Milliseconds; row: LoadRow; parts: LoadPart[] }> {
  const rows = db
    .prepare(
      'SELECT subject, at, data, parts FROM load_hour WHERE at >= ? AND at < ? AND parts IS NOT NULL ORDER BY at',
    )
    .iterate(from, to) as Iterable<{ subject: string; at: number; data: Buffer; parts: Buffer }>;
  for (const { subject, at, data, parts } of rows)
    yield { subject, at, row: unpackRow(data), parts: unpackParts(parts) };
}

/** Rows that together cover a span: days that are over as one, and the hours around them. */
export function* readAllRows(
  db: Db,
  from: Milliseconds,
  to: Milliseconds,
): Generator<{ subject: string; data: Buffer }> {
  const { last } = db.prepare('SELECT max(at) AS last FROM load_day').get() as { last: number | null };
  const first = Math.ceil(from / DAY) * DAY;
  const end = last === null ? first : Math.max(first, Math.min(Math.floor(to / DAY) * DAY, last + DAY));
  yield* readAllHours(db, from, Math.min(first, to));
  yield* db.prepare('SELECT subject, data FROM load_day WHERE at >= ? AND at < ?').iterate(first, end) as Iterable<{
    subject: string;
    data: Buffer;
  }>;
  yield* readAllHours(db, end, to);
}

/** Days of one subject, in their order. */
export const readDaysOf = (db: Db, subject: string, from: Milliseconds): { at: Milliseconds; row: LoadRow }[] =>
  (
    db.prepare('SELECT at, data FROM load_day WHERE subject = ? AND at >= ? ORDER BY at').all(subject, from) as {
      at: Milliseconds;
      data: Uint8Array;
    }[]
  ).map(({ at, data }) => ({ at, row: unpackRow(data) }));
