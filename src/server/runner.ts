import { contextFor, planUnit, type ChangePlan } from '@/core/change/plan';
import { readOperation } from '@/core/change/registry';
import { undoStep } from '@/core/change/undo';
import type { Effect } from '@/core/estate/effects';
import type { Refusal } from '@/core/operation/refusal';
import { execute } from '@/devices/stand-ins';
import { readChange, readChangesIn, readOperations, readSteps } from '@/store/change-rows';
import { isDiskFull } from '@/store/database';
import type { ChangeRow, StepRow } from '@/core/change/record';
import { startOf, type Pause } from '@/core/change/terms';
import { momentText } from '@/core/units/date';
import { ended, letter } from './letters';
import type { Plant } from './plant';
import { Problem } from './problem';
import { stopped } from '@/core/units/counted';

interface Running {
  change: ChangeRow;
  steps: StepRow[];
  direction: 'run' | 'undo';
  /** Place of the step at work, and when it ends in the lab's time. */
  at: number;
  endsAt: number;
}

type Outcome = { ok: true; step: StepRow; effects: Effect[]; says: string } | { ok: false; problem: Refusal };

/**
 * Carries changes out step by step in the lab's time. A step takes its time, then it is planned once more on the estate as it now stands,
 * handed to its stand-in, and committed together with its record and the beginning of the next: what the record shows is what was done.
 * Whatever goes wrong inside a change stops that change with its problem, and no other.
 */
export class Runner {
  private readonly running = new Map<string, Running>();

  constructor(private readonly plant: Plant) {
    this.stopInterrupted();
  }

  /** Changes that were at work when the process ended: what was committed stands, the rest waits for a retry or an undo. */
  private stopInterrupted(): void {
    for (const change of readChangesIn(this.plant.store.db, ['running', 'undoing'])) {
      const steps = readSteps(this.plant.store.db, change.id);
      const done = steps.filter((step) => step.state === 'done').length;
      if (change.run && change.state === 'running') {
        // One that runs by itself goes on by itself, at the first step without an end.
        const step = steps.find((one) => one.state !== 'done')?.n ?? 0;
        const { now } = this.plant.lab;
        this.plant.commit({
          change: {
            ...change,
            state: 'paused',
            run: { ...change.run, pause: { why: 'away', until: now, step, since: now } },
          },
          steps: steps.filter((one) => one.state === 'running').map(waiting),
          log: [this.plant.logRow('The server was away; it goes on.', { change: change.id })],
        });
        continue;
      }
      const problem: Refusal = {
        code: 'interrupted',
        subject: { kind: 'change', id: change.id, name: change.title },
        message: `The server stopped while this change was at work; ${done} of ${steps.length} steps stand.`,
        mend: 'Retry the rest or undo what was done.',
      };
      this.plant.commit({
        change: { ...change, state: 'stopped', problem },
        steps: steps.filter((step) => step.state === 'running').map(waiting),
        log: [this.plant.logRow(problem.message, { change: change.id, level: 'problem' })],
      });
    }
  }

  isRunning(id: string): boolean {
    return this.running.has(id);
  }

  /** Starts a draft as it was planned, or goes on with a stopped change. The plan has been found free of refusals. */
  start(change: ChangeRow, plan: ChangePlan | null): void {
    this.plant.troubles.clear(troubleOf(change.id));
    const known = plan ? [] : readSteps(this.plant.store.db, change.id);
    const fresh = plan?.steps.map((step, n): StepRow => ({
      n,
      operation: step.operation,
      unit: step.unit,
      title: step.title,
      device: step.device,
      takes: step.takes,
      state: 'waiting',
      startedLab: null,
      finishedLab: null,
      effects: [],
      notes: step.notes,
      destroys: step.destroys,
    }));
    const steps = fresh ?? known;
    const next: ChangeRow = {
      ...change,
      state: 'running',
      startedLab: change.startedLab ?? this.plant.lab.now,
      finishedLab: null,
      problem: null,
      run: change.run && { ...change.run, pause: null, needsUndo: [] },
    };
    const first = steps.findIndex((step) => step.state !== 'done');
    const again = change.state === 'paused' ? 'Goes on' : 'Retry';
    this.move({ change: next, steps, direction: 'run', at: first, endsAt: 0 }, first, {
      ...(fresh ? { freshSteps: true, steps: fresh } : {}),
      log: [this.plant.logRow(fresh ? 'Run' : again, { change: change.id })],
    });
  }

  /** Takes the done steps back, last first. */
  undo(change: ChangeRow): void {
    this.plant.troubles.clear(troubleOf(change.id));
    const steps = readSteps(this.plant.store.db, change.id);
    const last = steps.findLastIndex((step) => step.state === 'done');
    this.move(
      { change: { ...change, state: 'undoing', problem: null }, steps, direction: 'undo', at: last, endsAt: 0 },
      last,
      { log: [this.plant.logRow('Undo', { change: change.id })] },
    );
  }

  /** Stops before the next commit; the step at work is left undone. */
  cancel(id: string): void {
    const running = this.running.get(id);
    if (!running) return;
    const done = running.steps.filter((step) => step.state === 'done').length;
    this.stop(running, {
      code: 'cancelled',
      subject: { kind: 'change', id, name: running.change.title },
      message: `Stopped by hand; ${done} of ${running.steps.length} steps stand.`,
      mend: 'Retry the rest or undo what was done.',
    });
  }

  /** A paused run fails where it stands: somebody said no, or nobody said anything. */
  fail(change: ChangeRow, problem: Refusal): void {
    const steps = readSteps(this.plant.store.db, change.id);
    const at = change.run?.pause?.step ?? 0;
    const run = change.run && { ...change.run, pause: null };
    this.stop({ change: { ...change, run }, steps, direction: 'run', at, endsAt: 0 }, problem);
  }

  /** Whether something that is at work was worked out from one of these rows too: one run a thing at a time. */
  isBusyWith(facts: readonly { kind: string; id: string }[]): boolean {
    const wanted = new Set(facts.map(({ kind, id }) => `${kind} ${id}`));
    return [...this.running.values()].some(({ change }) =>
      (change.run?.approval.facts ?? []).some(({ kind, id }) => oneAtATime.has(kind) && wanted.has(`${kind} ${id}`)),
    );
  }

  /** When the next step ends, or null when nothing runs. */
  nextEnd(): number | null {
    let next: number | null = null;
    for (const { endsAt } of this.running.values()) if (next === null || endsAt < next) next = endsAt;
    return next;
  }

  /**
   * Finishes every step that is due. What is thrown stops the change it was thrown in.
   * @throws where the disk is full: the step waits until there is room.
   */
  finishDue(): void {
    for (const running of [...this.running.values()]) {
      if (!this.running.has(running.change.id) || running.endsAt > this.plant.lab.now) continue;
      try {
        this.finish(running);
      } catch (error) {
        if (isDiskFull(error)) throw error;
        const problem = problemOf(error, running);
        this.stopFailed(running, problem);
        if (problem.code === 'defect')
          this.plant.troubles.set(troubleOf(running.change.id), problem.message, problem.mend);
      }
    }
  }

  /** Stops a change that failed. Where not even that can be written it is let go, so that all others go on. */
  private stopFailed(running: Running, problem: Refusal): void {
    try {
      this.stop(running, problem);
    } catch (error) {
      if (isDiskFull(error)) throw error;
      this.running.delete(running.change.id);
    }
  }

  private finish(running: Running): void {
    const outcome = running.direction === 'run' ? this.doStep(running) : this.undoStep(running);
    if (!outcome.ok) return this.stop(running, outcome.problem);
    const { step, effects, says } = outcome;
    const steps = running.steps.map((one) => (one.n === step.n ? step : one));
    this.move({ ...running, steps }, running.at + (running.direction === 'run' ? 1 : -1), {
      effects,
      steps: [step],
      lab: this.plant.lab,
      log: [this.plant.logRow(says, { change: running.change.id, step: step.n })],
    });
  }

  private doStep(running: Running): Outcome {
    const { plant } = this;
    const step = running.steps[running.at]!;
    const document = readOperations(plant.store.db, running.change.id)[step.operation]!;
    const read = readOperation(document);
    if (!read.ok) return { ok: false, problem: read.refusals[0]! };
    const unit = read.type.units(read.params)[step.unit];
    const planned = planUnit(
      plant.estate,
      read.type,
      unit,
      contextFor(plant.basis(running.change.id), step.operation, step.unit),
    );
    if (!planned.ok) return { ok: false, problem: planned.refusals[0]! };
    const answer = execute(plant.estate, planned.step);
    if (!answer.ok) return { ok: false, problem: answer.refusal };
    const { title, notes, destroys, effects, device } = planned.step;
    return {
      ok: true,
      step: { ...step, title, notes, destroys, effects, device, state: 'done', finishedLab: plant.lab.now },
      effects,
      says: title,
    };
  }

  private undoStep(running: Running): Outcome {
    const step = running.steps[running.at]!;
    const undone = undoStep(this.plant.estate, step, execute);
    if (!undone.ok) return { ok: false, problem: undone.refusals[0]! };
    return {
      ok: true,
      step: { ...step, state: 'undone', effects: [] },
      effects: undone.step.effects,
      says: `Undone: ${step.title}`,
    };
  }

  /** Commits what was done together with the beginning of the step at `at`, or with the end of the change; memory follows. */
  private move(running: Running, at: number, done: Parameters<Plant['commit']>[0]): void {
    const { plant } = this;
    const step = running.steps[at];
    const log = [...(done.log ?? [])];
    let { change, steps } = running;
    const written = [...(done.steps ?? [])];
    if (!step) {
      const state = running.direction === 'run' ? 'done' : 'undone';
      change = { ...change, state, finishedLab: plant.lab.now };
      log.push(plant.logRow(state === 'done' ? 'Done' : 'Undone', { change: change.id }));
    } else if (running.direction === 'run') {
      const gate = this.gate(change, step);
      if (gate && !('until' in gate)) {
        plant.commit({ ...done, change, steps: written, log });
        return this.stop({ ...running, change, steps, at }, gate);
      }
      if (gate) return this.paused({ ...running, change, steps, at }, gate, { ...done, steps: written, log });
      const begun: StepRow = { ...step, state: 'running', startedLab: plant.lab.now };
      steps = steps.map((one) => (one.n === step.n ? begun : one));
      written.push(begun);
    }
    const mail = step ? [] : ended(change, plant.lab.now);
    plant.commit({ ...done, change, steps: written, log, mail });
    if (step) this.running.set(change.id, { ...running, change, steps, at, endsAt: plant.lab.now + step.takes });
    else this.running.delete(change.id);
    this.tell({ change, steps });
  }

  /** Why a step does not begin now: it waits for its window or for a person, or no window will ever be long enough. */
  private gate({ run }: ChangeRow, step: StepRow): Pause | Refusal | null {
    if (!run) return null;
    const { now } = this.plant.lab;
    if (run.confirm.includes(step.operation) && !run.confirmed.includes(step.operation))
      return { why: 'person', until: now + run.waits, step: step.n, since: now };
    const start = startOf(run, step, now);
    if (!start.ok)
      return {
        code: start.reason,
        subject: { kind: 'change', name: step.title },
        message: start.message,
        mend: 'Approve it again with a longer window.',
      };
    return start.value > now ? { why: 'window', until: start.value, step: step.n, since: now } : null;
  }

  private paused(running: Running, pause: Pause, done: Parameters<Plant['commit']>[0]): void {
    const { plant } = this;
    const run = { ...running.change.run!, pause };
    const change: ChangeRow = { ...running.change, state: 'paused', run };
    const step = running.steps[running.at]!;
    const says =
      pause.why === 'person'
        ? `Waits for a person before "${step.title}"; no answer until ${momentText(pause.until)} counts as no.`
        : `Waits for its window: "${step.title}" begins ${momentText(pause.until)}.`;
    plant.commit({
      ...done,
      change,
      log: [...(done.log ?? []), plant.logRow(says, { change: change.id, step: step.n })],
      mail: pause.why === 'person' ? [letter(change, plant.lab.now, `${change.title} waits for you`, says)] : [],
    });
    this.running.delete(change.id);
    this.tell({ change, steps: running.steps });
  }

  private stop(running: Running, problem: Refusal): void {
    const current = running.steps[running.at];
    if (this.takesBack(running, problem)) return;
    const steps = current?.state === 'running' ? [waiting(current)] : [];
    const stuck = running.direction === 'undo' && running.change.run !== null;
    const left = stuck ? running.steps.slice(0, running.at + 1).filter(({ state }) => state === 'done') : [];
    const needsUndo = left.map(({ title }) => title).reverse();
    const change: ChangeRow = {
      ...running.change,
      state: stuck ? 'stuck' : 'stopped',
      problem,
      run: running.change.run && { ...running.change.run, needsUndo },
    };
    this.plant.commit({
      change,
      steps,
      mail: change.run
        ? [
            letter(
              change,
              this.plant.lab.now,
              stuck ? `${change.title} needs hands` : `${change.title} stopped`,
              `${problem.message} ${problem.mend}`,
            ),
          ]
        : [],
      log: [
        this.plant.logRow(`${problem.message} ${problem.mend}`, {
          change: change.id,
          level: 'problem',
          ...(current ? { step: current.n } : {}),
        }),
      ],
    });
    this.running.delete(change.id);
    this.tell({ change, steps: running.steps });
  }

  /** A run that is to leave nothing behind takes back what it did when a step fails; whether it does. */
  private takesBack(running: Running, problem: Refusal): boolean {
    const { change, steps, direction } = running;
    const last = steps.findLastIndex((step) => step.state === 'done');
    const final = steps.some((step) => step.state === 'done' && step.destroys !== null);
    if (change.run?.onFailure !== 'undo' || direction === 'undo' || last < 0 || final || problem.code === 'cancelled')
      return false;
    const current = steps[running.at];
    const reset = current?.state === 'running' ? waiting(current) : null;
    this.move(
      {
        change: { ...change, state: 'undoing', problem },
        steps: steps.map((one) => (one.n === reset?.n ? reset : one)),
        direction: 'undo',
        at: last,
        endsAt: 0,
      },
      last,
      {
        steps: reset ? [reset] : [],
        log: [
          this.plant.logRow(`${problem.message} What was done is taken back.`, {
            change: change.id,
            level: 'problem',
            ...(current ? { step: current.n } : {}),
          }),
        ],
      },
    );
    return true;
  }

  private tell({ change, steps }: Pick<Running, 'change' | 'steps'>): void {
    this.plant.events.emit({
      type: 'change',
      id: change.id,
      state: change.state,
      done: steps.filter((step) => step.state === 'done').length,
      of: steps.length,
    });
  }

  /** The change as it is on record. */
  read(id: string): ChangeRow | undefined {
    return readChange(this.plant.store.db, id);
  }
}

/** Things that two runs do not work with at once. */
const oneAtATime: ReadonlySet<string> = new Set(['volume', 'raidGroup', 'host', 'mapping', 'move', 'replication']);

/** A change that failed is told until somebody goes on with it, or takes it back. */
const troubleOf = (id: string): string => `change ${id}`;

const waiting = (step: StepRow): StepRow => ({ ...step, state: 'waiting', startedLab: null });

/** Why a change stopped that did not refuse, but failed. */
function problemOf(error: unknown, { change, steps, at }: Running): Refusal {
  if (Problem.is(error) && error.refusals[0]) return error.refusals[0];
  const message = error instanceof Error ? error.message : String(error);
  return {
    code: 'defect',
    subject: { kind: 'change', id: change.id, name: change.title },
    message: `"${steps[at]?.title ?? change.title}" failed inside the server: ${stopped(message)}`,
    mend: 'Undo what was done, or prepare the rest in another way; please report this.',
  };
}
