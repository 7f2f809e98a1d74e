import { contextFor, planChange, planUnit } from '@/core/change/plan';
import { readOperation } from '@/core/change/registry';
import { undoStep } from '@/core/change/undo';
import type { Refusal } from '@/core/operation/refusal';
import { execute } from '@/devices/stand-ins';
import { readChange, readChangesIn, readOperations, readSteps } from '@/store/change-rows';
import type { ChangeRow, StepRow } from '@/core/change/record';
import type { Plant } from './plant';

interface Running {
  change: ChangeRow;
  steps: StepRow[];
  direction: 'run' | 'undo';
  /** Place of the step at work, and when it ends in the lab's time. */
  at: number;
  endsAt: number;
}

/**
 * Carries changes out step by step in the lab's time. A step takes its time, then it is planned once more on the estate as it now stands,
 * handed to its stand-in, and committed together with its record: what the record shows is what was done.
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
        steps: steps
          .filter((step) => step.state === 'running')
          .map((step) => ({ ...step, state: 'waiting' as const, startedLab: null })),
        log: [this.plant.logRow(problem.message, { change: change.id, level: 'problem' })],
      });
    }
  }

  isRunning(id: string): boolean {
    return this.running.has(id);
  }

  /** Starts a draft, or goes on with a stopped change. The plan has been found free of refusals. */
  start(change: ChangeRow): void {
    const { store } = this.plant;
    const operations = readOperations(store.db, change.id);
    let steps = readSteps(store.db, change.id);
    const fresh = change.state === 'draft' || steps.length === 0;
    if (fresh)
      steps = planChange(this.plant.estate, operations, this.plant.basis(change.id)).steps.map((step, n) => ({
        n,
        operation: step.operation,
        unit: step.unit,
        title: step.title,
        device: step.device.name,
        takes: step.takes,
        state: 'waiting',
        startedLab: null,
        finishedLab: null,
        effects: [],
        notes: step.notes,
        destroys: step.destroys,
      }));
    const next: ChangeRow = {
      ...change,
      state: 'running',
      startedLab: change.startedLab ?? this.plant.lab.now,
      finishedLab: null,
      problem: null,
    };
    this.plant.commit({
      change: next,
      ...(fresh ? { freshSteps: true, steps } : {}),
      log: [this.plant.logRow(fresh ? 'Run' : 'Retry', { change: change.id })],
    });
    const running: Running = { change: next, steps, direction: 'run', at: -1, endsAt: 0 };
    this.running.set(change.id, running);
    this.begin(
      running,
      steps.findIndex((step) => step.state !== 'done'),
    );
  }

  /** Takes the done steps back, last first. */
  undo(change: ChangeRow): void {
    const steps = readSteps(this.plant.store.db, change.id);
    const next: ChangeRow = { ...change, state: 'undoing', problem: null };
    this.plant.commit({ change: next, log: [this.plant.logRow('Undo', { change: change.id })] });
    const running: Running = { change: next, steps, direction: 'undo', at: -1, endsAt: 0 };
    this.running.set(change.id, running);
    this.begin(
      running,
      steps.findLastIndex((step) => step.state === 'done'),
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

  /** Finishes every step that is due. */
  finishDue(): void {
    for (const running of [...this.running.values()]) {
      if (!this.running.has(running.change.id) || running.endsAt > this.plant.lab.now) continue;
      if (running.direction === 'run') this.finishStep(running);
      else this.finishUndo(running);
    }
  }

  private begin(running: Running, at: number): void {
    const step = running.steps[at];
    if (!step) return this.complete(running);
    running.at = at;
    running.endsAt = this.plant.lab.now + step.takes;
    if (running.direction === 'run') {
      const begun = { ...step, state: 'running' as const, startedLab: this.plant.lab.now };
      running.steps[at] = begun;
      this.plant.commit({ change: running.change, steps: [begun] });
    }
    this.tell(running);
  }

  private finishStep(running: Running): void {
    const { plant } = this;
    const step = running.steps[running.at]!;
    const document = readOperations(plant.store.db, running.change.id)[step.operation]!;
    const read = readOperation(document);
    if (!read.ok) return this.stop(running, read.refusals[0]!);
    const unit = read.type.units(read.params)[step.unit];
    const planned = planUnit(
      plant.estate,
      read.type,
      unit,
      contextFor(plant.basis(running.change.id), step.operation, step.unit),
    );
    if (!planned.ok) return this.stop(running, planned.refusals[0]!);
    const answer = execute(plant.estate, planned.step);
    if (!answer.ok) return this.stop(running, answer.refusal);
    const done: StepRow = {
      ...step,
      title: planned.step.title,
      notes: planned.step.notes,
      destroys: planned.step.destroys,
      state: 'done',
      finishedLab: plant.lab.now,
      effects: planned.step.effects,
    };
    plant.commit({
      effects: planned.step.effects,
      change: running.change,
      steps: [done],
      lab: plant.lab,
      log: [plant.logRow(done.title, { change: running.change.id, step: step.n })],
    });
    running.steps[running.at] = done;
    this.begin(running, running.at + 1);
  }

  private finishUndo(running: Running): void {
    const { plant } = this;
    const step = running.steps[running.at]!;
    const result = undoStep(plant.estate, step);
    if (!result.ok) return this.stop(running, result.refusals[0]!);
    const undone: StepRow = { ...step, state: 'undone', effects: [] };
    plant.commit({
      effects: result.effects,
      change: running.change,
      steps: [undone],
      lab: plant.lab,
      log: [plant.logRow(`Undone: ${step.title}`, { change: running.change.id, step: step.n })],
    });
    running.steps[running.at] = undone;
    this.begin(running, running.at - 1);
  }

  private complete(running: Running): void {
    this.running.delete(running.change.id);
    const state = running.direction === 'run' ? 'done' : 'undone';
    running.change = { ...running.change, state, finishedLab: this.plant.lab.now };
    this.plant.commit({
      change: running.change,
      log: [this.plant.logRow(state === 'done' ? 'Done' : 'Undone', { change: running.change.id })],
    });
    this.tell(running);
  }

  private stop(running: Running, problem: Refusal): void {
    this.running.delete(running.change.id);
    const current = running.steps[running.at];
    const steps = current?.state === 'running' ? [{ ...current, state: 'waiting' as const, startedLab: null }] : [];
    running.change = { ...running.change, state: 'stopped', problem };
    this.plant.commit({
      change: running.change,
      steps,
      log: [
        this.plant.logRow(`${problem.message} ${problem.mend}`, {
          change: running.change.id,
          level: 'problem',
          ...(current ? { step: current.n } : {}),
        }),
      ],
    });
    this.tell(running);
  }

  private tell({ change, steps }: Running): void {
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
