import { randomUUID } from 'node:crypto';
import { previewingChange, type Preview } from '@/core/change/preview';
import { approvalOf, staleSince } from '@/core/change/approval';
import { planChange, planningChange, unfolded, unfolding, type ChangePlan } from '@/core/change/plan';
import { startOf, type RunTerms } from '@/core/change/terms';
import { capital } from '@/core/units/counted';
import { formatDuration, MINUTE } from '@/core/units/duration';
import { writeEvents } from '@/formats/icalendar';
import { readOperation, readRecipe, type OperationDocument } from '@/core/change/registry';
import { planningUndo } from '@/core/change/undo';
import { revisedWords } from '@/core/change/revised';
import type { Refusal } from '@/core/operation/refusal';
import { execute } from '@/devices/stand-ins';
import {
  readChange,
  readChanges,
  readChangesAt,
  readLog,
  readMail,
  readOperations,
  readRevisions,
  readStepCounts,
  readSteps,
} from '@/store/change-rows';
import type { ChangeRow, ChangeSummary, ChangeView, MailRow } from '@/core/change/record';
import type { Plant } from './plant';
import { Problem, refusedProblem } from './problem';
import { letter, type Runner } from './runner';
import { ofOneMoment, type Watching } from './slices';

const TRAY = 'tray';

/** The revision of a draft that somebody has looked at; null where it does not matter. */
export type Seen = number | null;

const NO_UNDO = { possible: false, steps: [], refusals: [], figures: [], takes: 0 };

/** How somebody wants an approved change to run. */
export type ApproveTerms = Pick<
  RunTerms,
  'approvedBy' | 'startAt' | 'fromHour' | 'untilHour' | 'days' | 'onFailure' | 'confirm' | 'waits' | 'mail'
>;

/** Changes from the first idea to the record: prepared, previewed, run, undone. */
export class Changes {
  constructor(
    private readonly plant: Plant,
    private readonly runner: Runner,
  ) {}

  /** Newest first. */
  list(limit = 100, offset = 0): ChangeSummary[] {
    const { db } = this.plant.store;
    return readChanges(db, limit, offset).map((change) => ({
      ...change,
      operations: readOperations(db, change.id).length,
      ...readStepCounts(db, change.id),
    }));
  }

  async view(id: string, watching?: Watching): Promise<ChangeView> {
    const { db } = this.plant.store;
    const preview = this.find(id).state === 'draft' ? await this.previewOf(readOperations(db, id), id, watching) : null;
    const undo = await this.undoPlan(id, watching);
    // What was worked out may have taken a while: the record is read as it stands at the end.
    const change = this.find(id);
    return {
      ...change,
      operations: this.plant.vault.veiled(readOperations(db, id), id),
      preview: change.state === 'draft' ? preview : null,
      steps: readSteps(db, id).map(({ effects: _effects, ...step }) => step),
      log: readLog(db, id),
      revisions: readRevisions(db, id),
      undo,
      ahead: this.ahead(change),
    };
  }

  private async undoPlan(id: string, watching?: Watching): Promise<ChangeView['undo']> {
    const { state } = this.find(id);
    const done = readSteps(this.plant.store.db, id).filter((step) => step.state === 'done');
    if (!['done', 'stopped', 'stuck'].includes(state) || done.length === 0) return NO_UNDO;
    const { steps, refusals, figures, takes } = await ofOneMoment(
      this.plant,
      () => planningUndo(this.plant.estate, done, execute),
      watching,
    );
    return { possible: refusals.length === 0, steps, refusals, figures, takes };
  }

  /** What operations would do now; nothing of them is kept. */
  preview(operations: readonly OperationDocument[], seed = 'preview', watching?: Watching): Promise<Preview> {
    return this.previewOf(this.plant.vault.printed(operations), seed, watching);
  }

  private previewOf(operations: readonly OperationDocument[], seed: string, watching?: Watching): Promise<Preview> {
    return ofOneMoment(
      this.plant,
      () => previewingChange(this.plant.estate, operations, this.plant.basis(seed)),
      watching,
    );
  }

  /**
   * Secrets sealed, and recipes unfolded where they can be: every step of a draft can be seen and changed.
   * @throws Problem where an operation has parameters that it does not take: they could hold anything, and nothing of them is kept.
   */
  private async kept(
    operations: readonly OperationDocument[],
    seed: string,
    watching?: Watching,
  ): Promise<OperationDocument[]> {
    refuseStrange(operations);
    const printed = this.plant.vault.printed(operations);
    const flat = await ofOneMoment(
      this.plant,
      () => unfolding(this.plant.estate, printed, this.plant.basis(seed)),
      watching,
    );
    // Sealed last, in the same turn as the commit that refers to it: what nothing refers to is forgotten.
    this.plant.vault.sealed(operations);
    return flat;
  }

  /** Keeps operations as a draft and puts it into the tray. Operations that are refused are kept too, so that they can be mended. */
  async prepare(
    title: string,
    operations: readonly OperationDocument[],
    origin: string,
    watching?: Watching,
  ): Promise<ChangeView> {
    const id = newId();
    this.keep(id, title, await this.kept(operations, id, watching), origin);
    return this.view(id, watching);
  }

  /** The same at once, while the server begins. */
  prepareNow(title: string, operations: readonly OperationDocument[], origin: string): string {
    const id = newId();
    this.keep(id, title, unfolded(this.plant.estate, operations, this.plant.basis(id)), origin);
    return id;
  }

  /** Approves a draft at once, while the server begins. */
  approveNow(id: string, terms: ApproveTerms): void {
    const operations = readOperations(this.plant.store.db, id);
    const plan = planChange(this.plant.estate, operations, this.plant.basis(id));
    if (plan.refusals.length > 0) throw refusedProblem(plan.refusals);
    this.keepApproved(this.find(id, 'draft'), operations, plan, terms);
  }

  private keep(id: string, title: string, operations: readonly OperationDocument[], origin: string): void {
    const change: ChangeRow = {
      id,
      title,
      state: 'draft',
      origin,
      createdReal: Date.now(),
      createdLab: this.plant.lab.now,
      startedLab: null,
      finishedLab: null,
      problem: null,
      revision: 1,
      run: null,
    };
    this.plant.commit({
      change,
      operations,
      log: [this.plant.logRow('Prepared', { change: id })],
      settings: { [TRAY]: id },
    });
    this.plant.events.emit({ type: 'tray', change: id });
  }

  /** Another title or other operations for a draft. */
  async revise(
    id: string,
    revised: { title?: string | undefined; operations?: readonly OperationDocument[] | undefined },
    seen: Seen = null,
    watching?: Watching,
  ): Promise<ChangeView> {
    this.find(id, 'draft');
    this.refuseUnseen(id, seen);
    const operations = revised.operations && (await this.kept(revised.operations, id, watching));
    const change = this.find(id, 'draft');
    this.refuseUnseen(id, seen);
    const said = revisedWords(
      { title: change.title, operations: readOperations(this.plant.store.db, id) },
      { title: revised.title ?? change.title, operations: operations ?? null },
    );
    this.plant.commit({
      change: { ...change, title: revised.title ?? change.title, revision: change.revision + 1 },
      revised: said,
      ...(operations ? { operations } : {}),
    });
    this.plant.vault.forgetUnused();
    this.plant.events.emit({ type: 'change', id, state: 'draft', done: 0, of: 0 });
    return this.view(id, watching);
  }

  discard(id: string, seen: Seen = null): void {
    this.find(id, 'draft');
    this.refuseUnseen(id, seen);
    this.plant.commit({ removeChange: id, ...(this.tray() === id ? { settings: { [TRAY]: '' } } : {}) });
    this.plant.vault.forgetUnused();
    this.plant.events.emit({ type: 'tray', change: this.tray() });
  }

  /** The draft that lies in the tray, if there is one. */
  tray(): string | null {
    const id = this.plant.store.setting(TRAY);
    return id && readChange(this.plant.store.db, id) ? id : null;
  }

  setTray(id: string | null): void {
    if (id) this.find(id);
    this.plant.commit({ settings: { [TRAY]: id ?? '' } });
    this.plant.events.emit({ type: 'tray', change: id });
  }

  async run(id: string, seen: Seen = null, watching?: Watching): Promise<ChangeView> {
    const { title, revision } = this.find(id, 'draft');
    this.refuseUnseen(id, seen);
    const operations = await this.kept(readOperations(this.plant.store.db, id), id, watching);
    if (operations.length === 0)
      throw new Problem(422, 'empty-change', `"${title}" holds no operation.`, 'Add one first.');
    const plan = await ofOneMoment(
      this.plant,
      () => planningChange(this.plant.estate, operations, this.plant.basis(id)),
      watching,
    );
    if (plan.refusals.length > 0) throw refusedProblem(plan.refusals);
    const change = this.find(id, 'draft');
    this.refuseUnseen(id, seen ?? revision);
    this.plant.commit({ change, operations });
    this.runner.start(change, plan);
    return this.view(id, watching);
  }

  async retry(id: string): Promise<ChangeView> {
    this.runner.start(this.find(id, 'stopped', 'stuck'), null);
    return this.view(id);
  }

  async undo(id: string, _seen: Seen = null, watching?: Watching): Promise<ChangeView> {
    const { title } = this.find(id, 'done', 'stopped', 'stuck');
    const done = readSteps(this.plant.store.db, id).filter((step) => step.state === 'done');
    if (done.length === 0)
      throw new Problem(409, 'nothing-to-undo', `No step of "${title}" stands.`, 'Leave it as it is.');
    const { refusals } = await this.undoPlan(id, watching);
    if (refusals.length > 0) throw refusedProblem(refusals, 409);
    this.runner.undo(this.find(id, 'done', 'stopped', 'stuck'));
    return this.view(id, watching);
  }

  async cancel(id: string): Promise<ChangeView> {
    this.find(id, 'running', 'undoing');
    this.runner.cancel(id);
    return this.view(id);
  }

  /** What a run that waits for a person would do next, worked out on the estate as it stands. */
  private ahead({ id, state, run }: ChangeRow): ChangeView['ahead'] {
    if (state !== 'paused' || run?.pause?.why !== 'person') return [];
    const operations = readOperations(this.plant.store.db, id);
    const steps = readSteps(this.plant.store.db, id);
    const from = steps.find(({ n }) => n === run.pause!.step)?.operation ?? 0;
    const plan = planChange(this.plant.estate, operations.slice(from), this.plant.basis(id));
    return [
      ...plan.steps.map(({ title, notes, destroys }) => ({ title, notes, destroys, refusal: null })),
      ...plan.refusals.map((refusal) => ({ title: refusal.message, notes: [], destroys: null, refusal })),
    ];
  }

  /**
   * Somebody says that a draft may run as it is, by itself: the approval is bound to its plan and to what that was worked out from.
   * @throws Problem where a step is refused, or no window is long enough for one.
   */
  async approve(id: string, wanted: ApproveTerms, seen: Seen = null, watching?: Watching): Promise<ChangeView> {
    const { title, revision } = this.find(id, 'draft');
    this.refuseUnseen(id, seen);
    const operations = readOperations(this.plant.store.db, id);
    if (operations.length === 0)
      throw new Problem(422, 'empty-change', `"${title}" holds no operation.`, 'Add one first.');
    const plan = await ofOneMoment(
      this.plant,
      () => planningChange(this.plant.estate, operations, this.plant.basis(id)),
      watching,
    );
    if (plan.refusals.length > 0) throw refusedProblem(plan.refusals);
    const { now } = this.plant.lab;
    const hours = { fromHour: wanted.fromHour, untilHour: wanted.untilHour, days: wanted.days };
    if ((hours.fromHour === null) !== (hours.untilHour === null))
      throw new Problem(
        422,
        'change-window-half',
        'A window has a beginning and an end.',
        'Name both hours, or neither.',
      );
    for (const step of plan.steps) {
      const start = startOf(hours, step, Math.max(now, wanted.startAt ?? now));
      if (!start.ok) throw new Problem(422, start.reason, start.message, 'Open a longer window, or more of them.');
    }
    const change = this.find(id, 'draft');
    this.refuseUnseen(id, seen ?? revision);
    this.keepApproved(change, operations, plan, wanted);
    return this.view(id, watching);
  }

  private keepApproved(
    change: ChangeRow,
    operations: readonly OperationDocument[],
    plan: Pick<ChangePlan, 'steps'>,
    wanted: ApproveTerms,
  ): void {
    const { id } = change;
    const [first] = plan.steps;
    const run: RunTerms = {
      ...wanted,
      confirm: [...new Set(wanted.confirm)].filter((k) => k < operations.length).sort((a, b) => a - b),
      approvedAt: this.plant.lab.now,
      approval: approvalOf(
        this.plant.estate,
        plan.steps.flatMap((step) => step.effects),
      ),
      first: { title: first!.title, takes: first!.takes },
      confirmed: [],
      pause: null,
      needsUndo: [],
    };
    this.plant.commit({
      change: { ...change, state: 'approved', problem: null, run },
      log: [this.plant.logRow(`Approved by ${wanted.approvedBy}`, { change: id })],
      ...(this.tray() === id ? { settings: { [TRAY]: '' } } : {}),
    });
    this.told(id, 'approved');
    this.plant.events.emit({ type: 'tray', change: this.tray() });
  }

  /** An approval is taken back: the change is a draft again. */
  async withdraw(id: string): Promise<ChangeView> {
    const change = this.find(id, 'approved');
    this.plant.commit({
      change: { ...change, state: 'draft', run: null },
      log: [this.plant.logRow('The approval was withdrawn', { change: id })],
    });
    this.told(id, 'draft');
    return this.view(id);
  }

  /** A person says yes or no to what comes next, having seen its values. */
  async answer(id: string, { by, yes, seen }: { by: string; yes: boolean; seen: string[] }): Promise<ChangeView> {
    const change = this.find(id, 'paused');
    const { run } = change;
    if (run?.pause?.why !== 'person')
      throw new Problem(409, 'nobody-asked', `"${change.title}" does not wait for a person.`, 'Leave it as it is.');
    if (!yes)
      this.runner.fail(change, {
        code: 'change-refused',
        subject: { kind: 'change', id, name: change.title },
        message: `${by} said no.`,
        mend: 'Lay it again as a draft, or leave it.',
      });
    else {
      const ahead = this.ahead(change);
      const refused = ahead.flatMap(({ refusal }) => refusal ?? []);
      if (refused.length > 0) throw refusedProblem(refused, 409);
      if (JSON.stringify(ahead.map(({ title }) => title)) !== JSON.stringify(seen))
        throw new Problem(
          412,
          'change-approval-stale',
          `What comes next in "${change.title}" changed since you looked.`,
          'Look at the values once more, then say yes or no.',
        );
      const step = readSteps(this.plant.store.db, id).find(({ n }) => n === run.pause!.step);
      this.plant.commit({ change, log: [this.plant.logRow(`${by} said yes`, { change: id })] });
      this.runner.start({ ...change, run: { ...run, confirmed: [...run.confirmed, step?.operation ?? 0] } }, null);
    }
    return this.view(id);
  }

  /** When a change that waits begins or goes on by itself next; null for never. */
  nextByItself(now: number): number | null {
    let first: number | null = null;
    for (const { run } of readChangesAt(this.plant.store.db, 'approved', 'paused')) {
      if (!run) continue;
      const at = run.pause ? run.pause.until : this.beginsAt(run, now);
      if (at !== null && (first === null || at < first)) first = Math.max(now, at);
    }
    return first;
  }

  /** When an approved change begins; null while something else works with the same things, or where no window is long enough any more. */
  private beginsAt(run: RunTerms, now: number): number | null {
    const start = startOf(run, run.first, Math.max(now, run.startAt ?? now));
    if (!start.ok) return null;
    return start.value <= now && this.runner.isBusyWith(run.approval.facts) ? null : start.value;
  }

  /** Begins and goes on with what is due by itself. */
  runByItself(now: number): void {
    for (const change of readChangesAt(this.plant.store.db, 'approved', 'paused')) {
      const { run } = change;
      if (!run) continue;
      if (run.pause) {
        if (run.pause.until > now) continue;
        if (run.pause.why === 'person')
          this.runner.fail(change, {
            code: 'change-unanswered',
            subject: { kind: 'change', id: change.id, name: change.title },
            message: `Nobody answered within ${formatDuration(run.waits)}, which counts as no.`,
            mend: 'Lay it again as a draft.',
          });
        else this.runner.start(change, null);
        continue;
      }
      const at = this.beginsAt(run, now);
      if (at !== null && at <= now) this.begin(change, run);
    }
  }

  /** Starts what was approved, if that is still what would happen; else it goes back to be looked at. */
  private begin(change: ChangeRow, run: RunTerms): void {
    const { plant } = this;
    const operations = readOperations(plant.store.db, change.id);
    const plan = planChange(plant.estate, operations, plant.basis(change.id));
    const [refusal] = plan.refusals;
    const why =
      refusal?.message ??
      staleSince(
        run.approval,
        approvalOf(
          plant.estate,
          plan.steps.flatMap((step) => step.effects),
        ),
      );
    if (why === null) return this.runner.start(change, plan);
    const message = refusal ? why : `${capital(why)} since ${run.approvedBy} approved it.`;
    const problem: Refusal = {
      code: 'change-approval-stale',
      subject: { kind: 'change', id: change.id, name: change.title },
      message,
      mend: 'Look at it as it stands, and approve it again.',
    };
    plant.commit({
      change: { ...change, state: 'draft', run: null, problem },
      log: [plant.logRow(`Not begun: ${message}`, { change: change.id, level: 'problem' })],
      mail: [letter(change, plant.lab.now, `${change.title} did not begin`, `${message} ${problem.mend}`)],
    });
    this.told(change.id, 'draft');
  }

  private told(id: string, state: ChangeRow['state']): void {
    this.plant.events.emit({ type: 'change', id, state, done: 0, of: 0 });
  }

  /** When approved changes begin and those that wait go on, as a calendar. */
  calendar(): string {
    const { now } = this.plant.lab;
    return writeEvents(
      readChangesAt(this.plant.store.db, 'approved', 'paused').flatMap(({ id, title, run }) => {
        const from = run && (run.pause?.until ?? this.beginsAt(run, now));
        return from === null ? [] : [{ uid: id, summary: title, from, to: from + Math.max(run!.first.takes, MINUTE) }];
      }),
      now,
    );
  }

  /** What would have been sent, the newest first. */
  mail = (limit = 100): MailRow[] => readMail(this.plant.store.db, limit);

  /** Lays the operations of a change once more as a draft, which is how one that was undone is done again. */
  async again(id: string, _seen: Seen = null, watching?: Watching): Promise<ChangeView> {
    const { title } = this.find(id, 'done', 'stopped', 'undone');
    return this.prepare(title, readOperations(this.plant.store.db, id), `"${title}"`, watching);
  }

  /** @throws Problem where the draft is another than the one that was looked at, with what became of it. */
  private refuseUnseen(id: string, seen: Seen): void {
    const change = this.find(id);
    if (seen === null || seen === change.revision) return;
    const said = readRevisions(this.plant.store.db, id, seen);
    throw new Problem(
      412,
      'changed-meanwhile',
      `"${change.title}" was changed meanwhile: ${said.map((one) => one.said).join(' ') || 'it is another draft now.'}`,
      'Look at it as it stands, then decide.',
    );
  }

  private find(id: string, ...states: ChangeRow['state'][]): ChangeRow {
    const change = readChange(this.plant.store.db, id);
    if (!change)
      throw new Problem(404, 'change-unknown', `There is no change ${id}.`, 'Look it up in the list of changes.');
    if (states.length > 0 && !states.includes(change.state))
      throw new Problem(
        409,
        'wrong-state',
        `"${change.title}" is ${change.state}; this takes one that is ${states.join(' or ')}.`,
        'Look at its state in the list of changes.',
      );
    return change;
  }
}

const newId = (): string => `chg_${randomUUID().replace(/-/g, '').slice(0, 12)}`;

/** Parameters that nobody knows are refused before anything of them is kept: a secret may stand in one. */
function refuseStrange(operations: readonly OperationDocument[]): void {
  const strange = operations.flatMap((document, operation): Refusal[] => {
    const read = readRecipe(document) ?? readOperation(document);
    if (read.ok) return [];
    return read.refusals
      .filter((refusal) => refusal.code === 'parameter-unknown' || refusal.code === 'operation-unknown')
      .map((refusal) => ({ ...refusal, operation }));
  });
  if (strange.length > 0) throw refusedProblem(strange);
}
