import type { Sample } from '@/core/space/forecast';
import { dayOf, type UsageSample } from '@/core/space/history';
import { DAY } from '@/core/units/duration';
import type { Db } from './database';

/** How long hourly samples are kept; days are kept for ever. */
export const HOURS_KEPT_DAYS = 14;

/** Writes samples; each rolls up into its day, which keeps the last figures and the most that was used. */
export function writeUsage(
  db: Db,
  statements: Map<string, ReturnType<Db['prepare']>>,
  samples: readonly UsageSample[],
): void {
  const statement = (sql: string) => {
    let known = statements.get(sql);
    if (!known) statements.set(sql, (known = db.prepare(sql)));
    return known;
  };
  const hour = statement(
    'INSERT OR REPLACE INTO usage_hour (subject, at, size, promised, written, used) VALUES (?, ?, ?, ?, ?, ?)',
  );
  const day = statement(
    `INSERT INTO usage_day (subject, day, size, promised, written, used, most) VALUES (?, ?, ?, ?, ?, ?, ?)
     ON CONFLICT (subject, day) DO UPDATE SET size = excluded.size, promised = excluded.promised, written = excluded.written,
       used = excluded.used, most = max(most, excluded.most)`,
  );
  for (const { subject, at, size, promised, written, used } of samples) {
    hour.run([subject, at, size, promised, written, used]);
    // A sample at midnight is the last of the day that ends.
    day.run([subject, dayOf(at - 1), size, promised, written, used, used]);
  }
  const [first] = samples;
  if (first) statement('DELETE FROM usage_hour WHERE at < ?').run(first.at - HOURS_KEPT_DAYS * DAY);
}

export interface UsageDay {
  subject: string;
  day: number;
  size: number;
  promised: number;
  written: number;
  used: number;
  most: number;
}

/** Days of some subjects, in their order. */
export function readDays(db: Db, subjects: readonly string[], from: number): UsageDay[] {
  const read = db.prepare(
    'SELECT subject, day, size, promised, written, used, most FROM usage_day WHERE subject = ? AND day >= ? ORDER BY day',
  );
  return subjects.flatMap((subject) => read.all(subject, from) as UsageDay[]);
}

/** What pools (or volumes) used together, day by day; `like` is the prefix of their ids. */
export function readSums(db: Db, like: 'pool_' | 'vol_', from: number): Omit<UsageDay, 'subject'>[] {
  return db
    .prepare(
      `SELECT day, sum(size) AS size, sum(promised) AS promised, sum(written) AS written, sum(used) AS used, sum(most) AS most
       FROM usage_day INDEXED BY usage_day_day WHERE subject >= ? AND subject < ? AND day >= ? GROUP BY day ORDER BY day`,
    )
    .all(like, `${like}~`, from) as Omit<UsageDay, 'subject'>[];
}

/** A subject's last figures of each day. */
export const readSeries = (db: Db, subject: string, from = 0): Sample[] =>
  db
    .prepare('SELECT day, used AS bytes FROM usage_day WHERE subject = ? AND day >= ? ORDER BY day')
    .all(subject, from) as Sample[];

export const readHours = (db: Db, subject: string, from: number) =>
  db
    .prepare('SELECT at, size, promised, written, used FROM usage_hour WHERE subject = ? AND at >= ? ORDER BY at')
    .all(subject, from) as Omit<UsageSample, 'subject'>[];
