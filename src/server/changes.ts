import { randomUUID } from 'node:crypto';
import { previewChange, type Preview } from '@/core/change/preview';
import { planChange, unfolded } from '@/core/change/plan';
import type { OperationDocument } from '@/core/change/registry';
import { planUndo } from '@/core/change/undo';
import { readChange, readChanges, readLog, readOperations, readSteps } from '@/store/change-rows';
import type { ChangeRow, ChangeSummary, ChangeView } from '@/core/change/record';
import type { Plant } from './plant';
import { Problem, refusedProblem } from './problem';
import type { Runner } from './runner';

const TRAY = 'tray';

/** Changes from the first idea to the record: prepared, previewed, run, undone. */
export class Changes {
  constructor(
    private readonly plant: Plant,
    private readonly runner: Runner,
  ) {}

  /** Newest first. */
  list(limit = 100, offset = 0): ChangeSummary[] {
    return readChanges(this.plant.store.db, limit, offset).map((change) => {
      const steps = readSteps(this.plant.store.db, change.id);
      return {
        ...change,
        operations: readOperations(this.plant.store.db, change.id).length,
        done: steps.filter((step) => step.state === 'done').length,
        of: steps.length,
      };
    });
  }

  view(id: string): ChangeView {
    const change = this.find(id);
    const { db } = this.plant.store;
    const operations = readOperations(db, id);
    const steps = readSteps(db, id);
    const done = steps.filter((step) => step.state === 'done');
    const settled = change.state === 'done' || change.state === 'stopped';
    const undo = settled && done.length > 0 ? planUndo(this.plant.estate, done) : null;
    return {
      ...change,
      operations,
      preview: change.state === 'draft' ? this.preview(operations, id) : null,
      steps: steps.map(({ effects: _effects, ...step }) => step),
      log: readLog(db, id),
      undo: { possible: undo !== null && undo.refusals.length === 0, refusals: undo?.refusals ?? [] },
    };
  }

  preview(operations: readonly OperationDocument[], seed = 'preview'): Preview {
    return previewChange(this.plant.estate, this.plant.vault.sealedOperations(operations), this.plant.basis(seed));
  }

  /** Secrets sealed, and recipes unfolded where they can be: every step of a draft can be seen and changed. */
  private kept(operations: readonly OperationDocument[], seed: string): OperationDocument[] {
    return unfolded(this.plant.estate, this.plant.vault.sealedOperations(operations), this.plant.basis(seed));
  }

  /** Keeps operations as a draft and puts it into the tray. Operations that are refused are kept too, so that they can be mended. */
  prepare(title: string, operations: readonly OperationDocument[], origin: string): ChangeView {
    const id = `chg_${randomUUID().replace(/-/g, '').slice(0, 12)}`;
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
    };
    this.plant.commit({
      change,
      operations: this.kept(operations, id),
      log: [this.plant.logRow('Prepared', { change: id })],
      settings: { [TRAY]: id },
    });
    this.plant.events.emit({ type: 'tray', change: id });
    return this.view(id);
  }

  /** Another title or other operations for a draft. */
  revise(
    id: string,
    revised: { title?: string | undefined; operations?: readonly OperationDocument[] | undefined },
  ): ChangeView {
    const change = this.find(id, 'draft');
    this.plant.commit({
      change: { ...change, title: revised.title ?? change.title },
      ...(revised.operations ? { operations: this.kept(revised.operations, id) } : {}),
    });
    this.plant.events.emit({ type: 'change', id, state: 'draft', done: 0, of: 0 });
    return this.view(id);
  }

  discard(id: string): void {
    this.find(id, 'draft');
    this.plant.commit({ removeChange: id, ...(this.tray() === id ? { settings: { [TRAY]: '' } } : {}) });
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

  run(id: string): ChangeView {
    const change = this.find(id, 'draft');
    const operations = this.kept(readOperations(this.plant.store.db, id), id);
    this.plant.commit({ change, operations });
    if (operations.length === 0)
      throw new Problem(422, 'empty-change', `"${change.title}" holds no operation.`, 'Add one first.');
    const plan = planChange(this.plant.estate, operations, this.plant.basis(id));
    if (plan.refusals.length > 0) throw refusedProblem(plan.refusals);
    this.runner.start(change);
    return this.view(id);
  }

  retry(id: string): ChangeView {
    this.runner.start(this.find(id, 'stopped'));
    return this.view(id);
  }

  undo(id: string): ChangeView {
    const change = this.find(id, 'done', 'stopped');
    const done = readSteps(this.plant.store.db, id).filter((step) => step.state === 'done');
    if (done.length === 0)
      throw new Problem(409, 'nothing-to-undo', `No step of "${change.title}" stands.`, 'Leave it as it is.');
    const { refusals } = planUndo(this.plant.estate, done);
    if (refusals.length > 0) throw refusedProblem(refusals, 409);
    this.runner.undo(change);
    return this.view(id);
  }

  cancel(id: string): ChangeView {
    this.find(id, 'running', 'undoing');
    this.runner.cancel(id);
    return this.view(id);
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
