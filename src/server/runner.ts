import { contextFor, planUnit, type ChangePlan } from '@/core/change/plan';
import { readOperation } from '@/core/change/registry';
import { undoStep } from '@/core/change/undo';
import type { Effect } from '@/core/estate/effects';
import type { Refusal } from '@/core/operation/refusal';
import { execute } from '@/devices/stand-ins';
import { readChange, readChangesIn, readOperations, readSteps } from '@/store/change-rows';
import { isDiskFull } from '@/store/database';
import type { ChangeRow, StepRow } from '@/core/change/record';
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
    };
    const first = steps.findIndex((step) => step.state !== 'done');
    this.move({ change: next, steps, direction: 'run', at: first, endsAt: 0 }, first, {
      ...(fresh ? { freshSteps: true, steps: fresh } : {}),
      log: [this.plant.logRow(fresh ? 'Run' : 'Retry', { change: change.id })],
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
      const begun: StepRow = { ...step, state: 'running', startedLab: plant.lab.now };
      steps = steps.map((one) => (one.n === step.n ? begun : one));
      written.push(begun);
    }
    plant.commit({ ...done, change, steps: written, log });
    if (step) this.running.set(change.id, { ...running, change, steps, at, endsAt: plant.lab.now + step.takes });
    else this.running.delete(change.id);
    this.tell({ change, steps });
  }

  private stop(running: Running, problem: Refusal): void {
    const current = running.steps[running.at];
    const steps = current?.state === 'running' ? [waiting(current)] : [];
    const change: ChangeRow = { ...running.change, state: 'stopped', problem };
    this.plant.commit({
      change,
      steps,
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
