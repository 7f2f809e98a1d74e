import { randomUUID } from 'node:crypto';
import { previewingChange, type Preview } from '@/core/change/preview';
import { planningChange, unfolded, unfolding } from '@/core/change/plan';
import { readOperation, readRecipe, type OperationDocument } from '@/core/change/registry';
import { planningUndo } from '@/core/change/undo';
import { revisedWords } from '@/core/change/revised';
import type { Refusal } from '@/core/operation/refusal';
import { execute } from '@/devices/stand-ins';
import {
  readChange,
  countChanges,
  countOperations,
  readChanges,
  readLog,
  readOperations,
  readRevisions,
  readStepCounts,
  readSteps,
} from '@/store/change-rows';
import type { ChangeRow, ChangeSummary, ChangeView } from '@/core/change/record';
import type { Plant } from './plant';
import { Problem, refusedProblem } from './problem';
import type { Runner } from './runner';
import { ofOneMoment, type Watching } from './slices';
import { ByNight } from './by-night';
import { TRAY, type Drafts, type ReadyDraft, type Seen } from './drafts';

const NO_UNDO = { possible: false, steps: [], refusals: [], figures: [], takes: 0 };

/** Changes from the first idea to the record: prepared, previewed, run, undone. */
export class Changes implements Drafts {
  constructor(
    private readonly plant: Plant,
    private readonly runner: Runner,
  ) {
    this.night = new ByNight(plant, runner, this);
  }

  readonly night: ByNight;

  /** Newest first: all, or those that are not over, which wait however old they are. */
  list(limit = 100, offset = 0, open = false): ChangeSummary[] {
    const { db } = this.plant.store;
    return readChanges(db, limit, offset, open).map((change) => ({
      ...change,
      operations: countOperations(db, change.id),
      ...readStepCounts(db, change.id),
    }));
  }

  /** How many there are in all, or that are not over. */
  count(open = false): number {
    return countChanges(this.plant.store.db, open);
  }

  async view(id: string, watching?: Watching): Promise<ChangeView> {
    const { db } = this.plant.store;
    const preview = this.find(id).state === 'draft' ? await this.previewOf(readOperations(db, id), id, watching) : null;
    const undo = await this.undoPlan(id, watching);
    const ahead = await this.night.ahead(this.find(id), watching);
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
      ahead: change.state === 'approved' || change.state === 'paused' ? ahead : [],
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

  /**
   * A draft as it would run now: recipes unfolded, secrets sealed, planned on the estate as it stands.
   * @throws Problem where it holds nothing, is refused, or is another than the one that was looked at.
   */
  async ready(id: string, seen: Seen, watching?: Watching): Promise<ReadyDraft> {
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
    return { change, operations, plan };
  }

  async run(id: string, seen: Seen = null, watching?: Watching): Promise<ChangeView> {
    const { change, operations, plan } = await this.ready(id, seen, watching);
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

  withdraw = (id: string): Promise<ChangeView> => this.night.withdraw(id);

  /** Lays the operations of a change once more as a draft, which is how one that was undone is done again. */
  async again(id: string, _seen: Seen = null, watching?: Watching): Promise<ChangeView> {
    const { title } = this.find(id, 'done', 'stopped', 'undone');
    return this.prepare(title, readOperations(this.plant.store.db, id), `"${title}"`, watching);
  }

  /** @throws Problem where the draft is another than the one that was looked at, with what became of it. */
  refuseUnseen(id: string, seen: Seen): void {
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

  find(id: string, ...states: ChangeRow['state'][]): ChangeRow {
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
