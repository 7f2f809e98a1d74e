import { approvalOf, staleSince } from '@/core/change/approval';
import { planChange, type ChangePlan } from '@/core/change/plan';
import { startOf, type RunTerms } from '@/core/change/terms';
import { capital } from '@/core/units/counted';
import { formatDuration, MINUTE } from '@/core/units/duration';
import { writeEvents } from '@/formats/icalendar';
import { type OperationDocument } from '@/core/change/registry';
import type { Refusal } from '@/core/operation/refusal';
import { readChangesAt, readMail, readOperations, readSteps } from '@/store/change-rows';
import type { ChangeRow, ChangeView, MailRow } from '@/core/change/record';
import type { Plant } from './plant';
import { Problem, refusedProblem } from './problem';
import { letter, type Runner } from './runner';
import { type Watching } from './slices';

import { TRAY, type Drafts, type Seen } from './drafts';

/** How somebody wants an approved change to run. */
export type ApproveTerms = Pick<
  RunTerms,
  'approvedBy' | 'startAt' | 'fromHour' | 'untilHour' | 'days' | 'onFailure' | 'confirm' | 'waits' | 'mail'
>;

/** Changes that run by themselves: approved, begun within their window, asked about, and what would have been sent of it. */
export class ByNight {
  constructor(
    private readonly plant: Plant,
    private readonly runner: Runner,
    private readonly changes: Drafts,
  ) {}

  /** Approves a draft at once, while the server begins. */
  approveNow(id: string, terms: ApproveTerms): void {
    const operations = readOperations(this.plant.store.db, id);
    const plan = planChange(this.plant.estate, operations, this.plant.basis(id));
    if (plan.refusals.length > 0) throw refusedProblem(plan.refusals);
    this.keepApproved(this.changes.find(id, 'draft'), operations, plan, terms);
  }

  /** What a run that waits for a person would do next, worked out on the estate as it stands. */
  ahead({ id, state, run }: ChangeRow): ChangeView['ahead'] {
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
    const { change, operations, plan } = await this.changes.ready(id, seen, watching);
    const strange = wanted.confirm.find((k) => k >= operations.length);
    if (strange !== undefined)
      throw new Problem(
        422,
        'confirm-unknown',
        `There is no operation ${strange + 1} before which a person could be asked; the change has ${operations.length}.`,
        'Name operations of the change, counted from 0.',
      );
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
    this.keepApproved(change, operations, plan, wanted);
    return this.changes.view(id, watching);
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
      confirm: [...new Set(wanted.confirm)].sort((a, b) => a - b),
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
      operations,
      log: [this.plant.logRow(`Approved by ${wanted.approvedBy}`, { change: id })],
      ...(this.changes.tray() === id ? { settings: { [TRAY]: '' } } : {}),
    });
    this.told(id, 'approved');
    this.plant.events.emit({ type: 'tray', change: this.changes.tray() });
  }

  /** An approval is taken back: the change is a draft again. */
  async withdraw(id: string): Promise<ChangeView> {
    const change = this.changes.find(id, 'approved');
    this.plant.commit({
      change: { ...change, state: 'draft', run: null },
      log: [this.plant.logRow('The approval was withdrawn', { change: id })],
    });
    this.told(id, 'draft');
    return this.changes.view(id);
  }

  /** A person says yes or no to what comes next, having seen its values. */
  async answer(id: string, { by, yes, seen }: { by: string; yes: boolean; seen: string[] }): Promise<ChangeView> {
    const change = this.changes.find(id, 'paused');
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
    return this.changes.view(id);
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
}
