import { approvalOf, staleSince } from '@/core/change/approval';
import { planChange, planningChange, type ChangePlan } from '@/core/change/plan';
import { samePerson, startOf, waitsForSecond, type Pause, type RunTerms } from '@/core/change/terms';
import { capital } from '@/core/units/counted';
import { formatDuration, MINUTE } from '@/core/units/duration';
import { writeEvents } from '@/formats/icalendar';
import { type OperationDocument } from '@/core/change/registry';
import type { Refusal } from '@/core/operation/refusal';
import { readChangesAt, readMail, readOperations, readSteps } from '@/store/change-rows';
import type { ChangeRow, ChangeView, MailRow } from '@/core/change/record';
import type { Plant } from './plant';
import { Problem, refusedProblem } from './problem';
import { askedBegin } from './begins';
import { letter } from './letters';
import type { Runner } from './runner';
import { ofOneMoment, type Watching } from './slices';

import { TRAY, type Drafts, type Seen } from './drafts';

/** How somebody wants an approved change to run. */
export type ApproveTerms = Pick<
  RunTerms,
  'approvedBy' | 'second' | 'startAt' | 'fromHour' | 'untilHour' | 'days' | 'onFailure' | 'confirm' | 'waits' | 'mail'
>;

/** The same as it is asked for: `begins` is a day or a rhythm by the clock of `zone`, of which the next time counts where no moment is named. */
export type ApproveAsked = ApproveTerms & { begins?: string; zone?: string };

/** How an approved change would run now. */
interface PlannedNow {
  plan: ChangePlan;
  /** It would not run at all. */
  refused: boolean;
  /** What is otherwise than when it was approved; null for nothing. */
  stale: string | null;
}

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

  /** What an approved change, or a run that waits for a person, would do next, worked out on the estate as it stands. */
  async ahead({ id, state, run }: ChangeRow, watching?: Watching): Promise<ChangeView['ahead']> {
    if (state !== 'approved' && (state !== 'paused' || run?.pause?.why !== 'person')) return [];
    const operations = readOperations(this.plant.store.db, id);
    const steps = readSteps(this.plant.store.db, id);
    const from = steps.find(({ n }) => n === run?.pause?.step)?.operation ?? 0;
    const plan = await ofOneMoment(
      this.plant,
      () => planningChange(this.plant.estate, operations.slice(from), this.plant.basis(id)),
      watching,
    );
    return [
      ...plan.steps.map(({ title, device, notes, destroys }) => ({
        title,
        device: device.name,
        notes,
        destroys,
        refusal: null,
      })),
      ...plan.refusals.map((refusal) => ({ title: refusal.message, device: null, notes: [], destroys: null, refusal })),
    ];
  }

  /**
   * Somebody says that a draft may run as it is, by itself: the approval is bound to its plan and to what that was worked out from.
   * @throws Problem where a step is refused, or no window is long enough for one.
   */
  async approve(id: string, asked: ApproveAsked, seen: Seen = null, watching?: Watching): Promise<ChangeView> {
    const { begins = '', zone = 'UTC', ...terms } = asked;
    const { change, operations, plan } = await this.changes.ready(id, seen, watching);
    const wanted: ApproveTerms = { ...terms, startAt: terms.startAt ?? askedBegin(this.plant, begins, zone) };
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
      secondBy: null,
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
      log: [
        this.plant.logRow(`Approved by ${wanted.approvedBy}${wanted.second ? '; a second person is asked' : ''}`, {
          change: id,
        }),
      ],
      mail: wanted.second
        ? [
            letter(
              { ...change, run },
              this.plant.lab.now,
              `${change.title} waits for a second person`,
              `${wanted.approvedBy} approved it; somebody else must too before it begins.`,
            ),
          ]
        : [],
      ...(this.changes.tray() === id ? { settings: { [TRAY]: '' } } : {}),
    });
    this.told(id, 'approved');
    this.plant.events.emit({ type: 'tray', change: this.changes.tray() });
  }

  /**
   * A second person approves what the first did: the same plan, worked out from the same things.
   * @throws Problem where both are one person, none is asked for, or it is another plan by now.
   */
  async second(id: string, { by, plan }: { by: string; plan: string }): Promise<ChangeView> {
    const change = this.changes.find(id, 'approved');
    const { run } = change;
    if (!run || !waitsForSecond(run))
      throw new Problem(409, 'nobody-asked', `"${change.title}" waits for no second person.`, 'Leave it as it is.');
    if (samePerson(by, run.approvedBy))
      throw new Problem(
        422,
        'change-same-person',
        `${run.approvedBy} approved "${change.title}" already; a second person is somebody else.`,
        'Let somebody else look at it.',
      );
    const now = this.planned(change, run);
    if (now.stale !== null) {
      const message = this.sendBack(change, run, now);
      throw new Problem(412, 'change-approval-stale', message, 'Look at it as it stands, and approve it again.');
    }
    if (plan !== run.approval.plan)
      throw new Problem(
        412,
        'change-approval-stale',
        `"${change.title}" was approved anew since you looked.`,
        'Look at it once more, then approve it.',
      );
    this.plant.commit({
      change: { ...change, run: { ...run, secondBy: by } },
      log: [this.plant.logRow(`Approved by ${by} too`, { change: id })],
    });
    this.told(id, 'approved');
    return this.changes.view(id);
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
    const asked = this.asked(id);
    const ahead = yes ? await this.ahead(asked) : [];
    // What was worked out may have taken a while: it holds for the very step that was asked about.
    const change = this.asked(id);
    const { run } = change;
    if (!yes)
      this.runner.fail(change, {
        code: 'change-refused',
        subject: { kind: 'change', id, name: change.title },
        message: `${by} said no.`,
        mend: 'Lay it again as a draft, or leave it.',
      });
    else {
      const refused = ahead.flatMap(({ refusal }) => refusal ?? []);
      if (refused.length > 0) throw refusedProblem(refused, 409);
      if (
        run.pause.step !== asked.run.pause.step ||
        JSON.stringify(ahead.map(({ title }) => title)) !== JSON.stringify(seen)
      )
        throw new Problem(
          412,
          'change-approval-stale',
          `What comes next in "${change.title}" changed since you looked.`,
          'Look at the values once more, then say yes or no.',
        );
      const step = readSteps(this.plant.store.db, id).find(({ n }) => n === run.pause.step);
      this.plant.commit({ change, log: [this.plant.logRow(`${by} said yes`, { change: id })] });
      this.runner.start({ ...change, run: { ...run, confirmed: [...run.confirmed, step?.operation ?? 0] } }, null);
    }
    return this.changes.view(id);
  }

  /** A change that waits for a person's answer. */
  private asked(id: string): ChangeRow & { run: RunTerms & { pause: Pause } } {
    const change = this.changes.find(id, 'paused');
    const { run } = change;
    if (run?.pause?.why !== 'person')
      throw new Problem(409, 'nobody-asked', `"${change.title}" does not wait for a person.`, 'Leave it as it is.');
    return { ...change, run: { ...run, pause: run.pause } };
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

  /** When an approved change begins; null before a second person has approved it, where one is asked for, while something else works with the same things, or where no window is long enough any more. */
  private beginsAt(run: RunTerms, now: number): number | null {
    if (waitsForSecond(run)) return null;
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

  /** An approved change as it would run now, and what of it is otherwise than when it was approved; null where all is as it was. */
  private planned(change: ChangeRow, run: RunTerms): PlannedNow {
    const { plant } = this;
    const plan = planChange(plant.estate, readOperations(plant.store.db, change.id), plant.basis(change.id));
    const [refusal] = plan.refusals;
    if (refusal) return { plan, refused: true, stale: refusal.message };
    const is = approvalOf(
      plant.estate,
      plan.steps.flatMap((step) => step.effects),
    );
    return { plan, refused: false, stale: staleSince(run.approval, is) };
  }

  /** Starts what was approved, if that is still what would happen; else it goes back to be looked at. */
  private begin(change: ChangeRow, run: RunTerms): void {
    const now = this.planned(change, run);
    if (now.stale === null) this.runner.start(change, now.plan);
    else this.sendBack(change, run, now);
  }

  /** What was approved is a draft again, with why in words. */
  private sendBack(change: ChangeRow, run: RunTerms, { stale, refused }: PlannedNow): string {
    const { plant } = this;
    const why = stale ?? 'it is another change';
    const message = refused ? why : `${capital(why)} since ${run.approvedBy} approved it.`;
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
    return message;
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
