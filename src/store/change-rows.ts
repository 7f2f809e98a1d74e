import type { ChangeRow, ChangeState, LogRow, MailRow, StepRow } from '@/core/change/record';
import type { RunTerms } from '@/core/change/terms';
import type { OperationDocument } from '@/core/change/registry';
import { effectsBroughtUp } from '@/core/estate/brought-up';
import type { Effect } from '@/core/estate/effects';
import type { Refusal } from '@/core/operation/refusal';
import type { Db } from './database';

interface ChangeColumns extends Omit<ChangeRow, 'problem' | 'run'> {
  problem: string | null;
  run: string | null;
  stage: Stage | null;
}
/** States that came later; in the column beside them stands what they are to whoever knows nothing of them. */
type Stage = 'approved' | 'paused' | 'stuck';
const bases: Record<Stage, ChangeState> = { approved: 'draft', paused: 'stopped', stuck: 'stopped' };
const isStage = (state: ChangeState): state is Stage => state in bases;
interface StepColumns extends Omit<StepRow, 'effects' | 'notes' | 'device'> {
  effects: string;
  notes: string;
  device: string;
  deviceKind: StepRow['device']['kind'];
  deviceId: string;
}

const CHANGE = `SELECT id, title, state, origin, created_real AS createdReal, created_lab AS createdLab, started_lab AS startedLab,
  finished_lab AS finishedLab, problem, revision, stage, run FROM change`;
const STEP = `SELECT n, operation, unit, title, device, device_kind AS deviceKind, device_id AS deviceId, takes, state, started_lab AS startedLab, finished_lab AS finishedLab, effects, notes,
  destroys FROM change_step`;
const LOG = 'SELECT change, step, at_real AS atReal, at_lab AS atLab, level, message FROM log';

/** Terms from before a second person could be asked for know of none. */
type KeptTerms = Omit<RunTerms, 'second' | 'secondBy'> & Partial<Pick<RunTerms, 'second' | 'secondBy'>>;
const toTerms = (kept: KeptTerms): RunTerms => ({ second: false, secondBy: null, ...kept });

const toChange = ({ stage, run, ...row }: ChangeColumns): ChangeRow => ({
  ...row,
  state: stage ?? row.state,
  run: run ? toTerms(JSON.parse(run) as KeptTerms) : null,
  problem: row.problem ? (JSON.parse(row.problem) as Refusal) : null,
});
const toStep = ({ device, deviceKind, deviceId, ...row }: StepColumns): StepRow => ({
  ...row,
  device: { kind: deviceKind, id: deviceId, name: device },
  effects: effectsBroughtUp(JSON.parse(row.effects) as Effect[]),
  notes: JSON.parse(row.notes) as string[],
});

export function readChange(db: Db, id: string): ChangeRow | undefined {
  const row = db.prepare(`${CHANGE} WHERE id = ?`).get(id) as ChangeColumns | undefined;
  return row && toChange(row);
}

/** Those that are not over: drafts, at work, waiting or stopped. */
const OPEN = "WHERE (stage IS NOT NULL OR state NOT IN ('done', 'undone'))";

/** Newest first; all, or those that are not over. */
export const readChanges = (db: Db, limit: number, offset: number, open: boolean): ChangeRow[] =>
  (
    db
      .prepare(`${CHANGE} ${open ? OPEN : ''} ORDER BY created_real DESC, id DESC LIMIT ? OFFSET ?`)
      .all(limit, offset) as ChangeColumns[]
  ).map(toChange);

export const countChanges = (db: Db, open: boolean): number =>
  db
    .prepare(`SELECT count(*) FROM change ${open ? OPEN : ''}`)
    .pluck()
    .get() as number;

export const readChangesIn = (db: Db, states: readonly ChangeState[]): ChangeRow[] =>
  (
    db
      .prepare(`${CHANGE} WHERE stage IS NULL AND state IN (${states.map(() => '?').join(', ')}) ORDER BY created_real`)
      .all(...states) as ChangeColumns[]
  ).map(toChange);

/** Changes that wait: for their window, or for a person. */
export const readChangesAt = (db: Db, ...stages: readonly Stage[]): ChangeRow[] =>
  (
    db
      .prepare(`${CHANGE} WHERE stage IN (${stages.map(() => '?').join(', ')}) ORDER BY created_real`)
      .all(...stages) as ChangeColumns[]
  ).map(toChange);

export const writeMail = (db: Db, { atLab, recipient, subject, body, link }: MailRow): void =>
  void db
    .prepare('INSERT INTO mail (at_lab, recipient, subject, body, link) VALUES (?, ?, ?, ?, ?)')
    .run(atLab, recipient, subject, body, link);

/** Newest first. */
export const readMail = (db: Db, limit: number): MailRow[] =>
  db
    .prepare('SELECT at_lab AS atLab, recipient, subject, body, link FROM mail ORDER BY id DESC LIMIT ?')
    .all(limit) as MailRow[];

export const countOperations = (db: Db, change: string): number =>
  db.prepare('SELECT count(*) FROM change_operation WHERE change = ?').pluck().get(change) as number;

export const readOperations = (db: Db, change: string): OperationDocument[] =>
  (
    db.prepare('SELECT document FROM change_operation WHERE change = ? ORDER BY n').all(change) as {
      document: string;
    }[]
  ).map((row) => JSON.parse(row.document) as OperationDocument);

export const readSteps = (db: Db, change: string): StepRow[] =>
  (db.prepare(`${STEP} WHERE change = ? ORDER BY n`).all(change) as StepColumns[]).map(toStep);

/** How many steps a change has, and how many of them stand. */
export function readStepCounts(db: Db, change: string): { done: number; of: number } {
  const row = db
    .prepare(
      "SELECT count(*) AS 'of', count(*) FILTER (WHERE state = 'done') AS done FROM change_step WHERE change = ?",
    )
    .get(change) as { done: number; of: number };
  return { done: row.done, of: row.of };
}

export const readLog = (db: Db, change: string): LogRow[] =>
  db.prepare(`${LOG} WHERE change = ? ORDER BY id`).all(change) as LogRow[];

/** What the lab itself did, newest first. */
export const readLabLog = (db: Db, limit: number): LogRow[] =>
  db.prepare(`${LOG} WHERE change IS NULL ORDER BY id DESC LIMIT ?`).all(limit) as LogRow[];

export function writeChange(db: Db, change: ChangeRow): void {
  db.prepare(
    `INSERT INTO change (id, title, state, origin, created_real, created_lab, started_lab, finished_lab, problem, revision, stage, run)
       VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
     ON CONFLICT (id) DO UPDATE SET title = excluded.title, state = excluded.state, started_lab = excluded.started_lab,
       finished_lab = excluded.finished_lab, problem = excluded.problem, revision = excluded.revision, stage = excluded.stage,
       run = excluded.run`,
  ).run(
    change.id,
    change.title,
    isStage(change.state) ? bases[change.state] : change.state,
    change.origin,
    change.createdReal,
    change.createdLab,
    change.startedLab,
    change.finishedLab,
    change.problem && JSON.stringify(change.problem),
    change.revision,
    isStage(change.state) ? change.state : null,
    change.run && JSON.stringify(change.run),
  );
}

export function writeOperations(db: Db, change: string, operations: readonly OperationDocument[]): void {
  db.prepare('DELETE FROM change_operation WHERE change = ?').run(change);
  const insert = db.prepare('INSERT INTO change_operation (change, n, document) VALUES (?, ?, ?)');
  operations.forEach((operation, n) => insert.run(change, n, JSON.stringify(operation)));
}

export function writeStep(db: Db, change: string, step: StepRow): void {
  db.prepare(
    `INSERT INTO change_step (change, n, operation, unit, title, device, device_kind, device_id, takes, state, started_lab, finished_lab,
       effects, notes, destroys)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
     ON CONFLICT (change, n) DO UPDATE SET title = excluded.title, takes = excluded.takes, state = excluded.state, started_lab = excluded.started_lab,
       finished_lab = excluded.finished_lab, effects = excluded.effects, notes = excluded.notes, destroys = excluded.destroys`,
  ).run(
    change,
    step.n,
    step.operation,
    step.unit,
    step.title,
    step.device.name,
    step.device.kind,
    step.device.id,
    step.takes,
    step.state,
    step.startedLab,
    step.finishedLab,
    JSON.stringify(step.effects),
    JSON.stringify(step.notes),
    step.destroys,
  );
}

/** What was done to a draft after the given revision, in sentences. */
export const readRevisions = (db: Db, change: string, after = 0): { revision: number; said: string }[] =>
  db
    .prepare('SELECT revision, said FROM change_revision WHERE change = ? AND revision > ? ORDER BY revision')
    .all(change, after) as { revision: number; said: string }[];

export const writeRevision = (db: Db, change: string, revision: number, said: string): void =>
  void db
    .prepare('INSERT INTO change_revision (change, revision, said) VALUES (?, ?, ?) ON CONFLICT DO NOTHING')
    .run(change, revision, said);

export const removeSteps = (db: Db, change: string): void =>
  void db.prepare('DELETE FROM change_step WHERE change = ?').run(change);
export const removeChange = (db: Db, change: string): void =>
  void db.prepare('DELETE FROM change WHERE id = ?').run(change);

export function writeLog(db: Db, row: LogRow): void {
  db.prepare('INSERT INTO log (change, step, at_real, at_lab, level, message) VALUES (?, ?, ?, ?, ?, ?)').run(
    row.change,
    row.step,
    row.atReal,
    row.atLab,
    row.level,
    row.message,
  );
}
