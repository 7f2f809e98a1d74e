import { barredByMoves } from '../moving/bar';
import { barredByMachines } from '../machine/bar';
import { barredByOutside } from '../outside/bar';
import { pathKinds } from '../attach/sessions';
import { pathFinder } from '../attach/paths';
import { kindWords, type Kind, type Rows } from '../estate/entities';
import { dropped } from '../copies/drop';
import { newIds } from '../estate/new-ids';
import { compacted, rowName, type Effect } from '../estate/effects';
import { reverse } from '../estate/reverse';
import { Overlay, type EstateView } from '../estate/estate';
import { hostOf, volumeOf } from '../estate/relations';
import { nextStep } from '../operation/next-step';
import type { PlannedStep, StepDevice } from '../operation/operation';
import type { Refusal } from '../operation/refusal';
import { refusalOf, tried } from '../rules/book';
import type { Milliseconds } from '../units/duration';
import { whole, type InParts } from '../units/in-parts';
import { figures, type Figure } from './preview';
import { capital } from '../units/counted';

/** A step that was committed, as the record keeps it. */
export interface CommittedStep {
  title: string;
  effects: readonly Effect[];
  destroys: string | null;
  /** Who carried it out, and so takes it back. */
  device: StepDevice;
  takes: Milliseconds;
}

/** Asks the stand-in of a step whether it would carry it out. */
export type AskDevice = (view: EstateView, step: PlannedStep) => { ok: true } | { ok: false; refusal: Refusal };

/** For where there are no stand-ins to ask. */
export const noDevices: AskDevice = () => ({ ok: true });

export type UndoneStep = { ok: true; step: PlannedStep } | { ok: false; refusals: Refusal[] };

const no = (refusals: Refusal[]): UndoneStep => ({ ok: false, refusals });

/**
 * Plans taking one committed step back as the estate now stands: its effects turned round, asked of the rule book, of what hosts have mounted
 * and of the stand-in, as strictly as it was done.
 */
export function undoStep(view: EstateView, step: CommittedStep, ask: AskDevice = noDevices): UndoneStep {
  if (step.destroys)
    return no([
      {
        code: 'destroyed',
        subject: { kind: 'change', name: step.title },
        message: `"${step.title}" destroyed ${step.destroys}.`,
        mend: 'Restore it from a copy; this step cannot be undone.',
      },
    ]);
  const kept = barredCopies(view, step.effects);
  if (kept.length > 0) return no(kept);
  const { effects, conflicts } = withoutCopies(view, step);
  if (conflicts.length > 0)
    return no(
      conflicts.map((conflict) => ({
        code: 'undo-conflict',
        subject: { kind: conflict.kind, id: conflict.id, name: conflict.name },
        message: capital(`${kindWords[conflict.kind]} ${conflict.name} ${conflict.why}.`),
        mend: `Take that back first, or change ${conflict.name} by hand.`,
      })),
    );
  const barred = [
    ...barredByMoves(view, effects, step.effects),
    ...barredByOutside(view, effects, step.effects),
    ...barredByMachines(view, effects),
  ];
  if (barred.length > 0) return no(barred);
  const { overlay, broken } = tried(view, effects);
  if (broken.length > 0) return no(broken.map(refusalOf));
  const cut = cutOff(view, overlay, effects);
  if (cut.length > 0) return no(cut);
  const planned: PlannedStep = {
    device: step.device,
    title: `Undo: ${step.title}`,
    takes: step.takes,
    effects,
    notes: takenBack(effects),
    destroys: null,
    next: [],
  };
  const answer = ask(view, planned);
  return answer.ok ? { ok: true, step: planned } : no([answer.refusal]);
}

const isCopy = (effect: Effect): boolean => effect.kind === 'snapshot' && effect.before === null;

/** Copies that a step made and that somebody has locked or held since: they cannot be taken back. */
function barredCopies(view: EstateView, effects: readonly Effect[]): Refusal[] {
  return effects.filter(isCopy).flatMap(({ id }): Refusal[] => {
    const copy = view.table('snapshot').get(id);
    if (!copy || (copy.hold === '' && copy.lockedUntil === null)) return [];
    return [
      {
        code: copy.hold === '' ? 'snapshot-locked' : 'snapshot-held',
        subject: { kind: 'snapshot', id, name: copy.name },
        message: `Copy ${copy.name} of ${volumeOf(view, copy).name} is ${copy.hold === '' ? 'locked' : `held: ${copy.hold}`}.`,
        mend: copy.hold === '' ? 'It stays until its lock ends.' : 'Release it first.',
      },
    ];
  });
}

/** Whether nothing was written over and nothing else copied, or its copies deleted, since a step: then turning it round is exact. */
const standsAsCut = (view: EstateView, step: CommittedStep): boolean =>
  step.effects.every(({ kind, id, after }) => {
    if (kind === 'snapshot' && after) return view.table('snapshot').get(id)?.parent === after.parent;
    if (kind !== 'volume' || !after) return true;
    const { base, stands, parts, copiesBytes } = after;
    const present = view.table('volume').get(id);
    return (
      present !== undefined &&
      JSON.stringify([present.base, present.stands, present.parts, present.copiesBytes]) ===
        JSON.stringify([base, stands, parts, copiesBytes])
    );
  });

/**
 * Effects turned round, with the copies among them deleted as anybody would delete them: what hosts have written over since is shared out
 * anew, and what nobody shows any more returns to the pool.
 */
function withoutCopies(view: EstateView, step: CommittedStep): ReturnType<typeof reverse> {
  const copies = step.effects.filter(isCopy).flatMap(({ id }) => view.table('snapshot').get(id) ?? []);
  if (copies.length === 0 || standsAsCut(view, step)) return reverse(view, step.effects);
  const own = new Set(copies.map((copy) => copy.volume));
  const others = step.effects.flatMap((effect): Effect[] => {
    if (isCopy(effect)) return [];
    if (effect.kind !== 'volume' || !effect.before || !effect.after || !own.has(effect.id)) return [effect];
    const { base, stands, parts, copiesBytes } = effect.after;
    return [{ ...effect, before: { ...effect.before, base, stands, parts, copiesBytes } }];
  });
  const { effects, conflicts } = reverse(view, others);
  const overlay = new Overlay(view);
  overlay.apply(effects);
  return {
    effects: compacted([...effects, ...dropped(overlay, copies, newIds(`undo ${step.title}`, view)).effects]),
    conflicts,
  };
}

/** Kinds whose rows concern the paths of one host alone, with the host. */
const hostsOf: { [K in Kind]?: (row: Rows[K]) => string | null } = {
  host: (row) => row.id,
  mapping: (row) => row.host,
  initiator: (row) => row.host,
  interface: (row) => row.host,
  login: (row) => row.host,
};

/** Mounted volumes that would lose their last path. */
function cutOff(view: EstateView, after: EstateView, effects: readonly Effect[]): Refusal[] {
  const touching = effects.filter((effect) => pathKinds.has(effect.kind));
  if (touching.length === 0) return [];
  const hosts = new Set<string>();
  let everybody = false;
  for (const effect of touching) {
    const of = hostsOf[effect.kind] as ((row: Rows[Kind]) => string | null) | undefined;
    if (!of) everybody = true;
    else
      for (const row of [effect.before, effect.after]) {
        const host = row && of(row);
        if (host) hosts.add(host);
      }
  }
  const table = view.table('hostDevice');
  const devices = everybody ? [...table.values()] : [...hosts].flatMap((host) => table.by('host', host));
  const mounted = devices.filter((device) => device.mountPoint !== null);
  if (mounted.length === 0) return [];
  const [old, now] = [pathFinder(view), pathFinder(after)];
  return mounted.flatMap((device): Refusal[] => {
    if (!old.reaches(device) || now.reaches(device)) return [];
    const host = hostOf(view, device);
    const volume = volumeOf(view, device);
    return [
      {
        code: 'in-use',
        subject: { kind: 'host', id: host.id, name: host.name },
        message: `${host.name} would lose its last path to ${volume?.name ?? device.name}, which is mounted at ${device.mountPoint}.`,
        mend: `Unmount ${device.name} at ${host.name} first.`,
        offer: nextStep(`Unmount ${device.name}`, 'host-device.unmount', { host: host.name, device: device.name }),
      },
    ];
  });
}

/** Rows that are the business of others in the list, and say nothing by themselves. */
const silent: ReadonlySet<Kind> = new Set(['extent', 'login', 'access']);
const MOST_NAMES = 6;

/** What taking back does, in a sentence each: what goes, what returns, which fields are as before. */
function takenBack(effects: readonly Effect[]): string[] {
  const goes: string[] = [];
  const returns: string[] = [];
  const changes: string[] = [];
  for (const { kind, before, after } of effects) {
    if (silent.has(kind)) continue;
    const name = (row: Rows[Kind]) =>
      kind === 'job' ? 'the work it began' : `${kindWords[kind]} ${rowName(kind, row)}`;
    if (before && after) {
      const fields = (Object.keys(after) as (keyof typeof after)[])
        .filter((field) => JSON.stringify(before[field]) !== JSON.stringify(after[field]))
        .map((field) => String(field).replace(/[A-Z]/g, (letter) => ` ${letter.toLowerCase()}`));
      if (fields.length > 0) changes.push(`${name(after)} (${fields.join(', ')})`);
    } else if (before) goes.push(name(before));
    else if (after) returns.push(name(after));
  }
  const listed = (words: string, names: readonly string[]) =>
    names.length === 0
      ? []
      : [
          `${words} ${names.slice(0, MOST_NAMES).join(', ')}${names.length > MOST_NAMES ? ` and ${names.length - MOST_NAMES} more` : ''}.`,
        ];
  return [...listed('Goes:', goes), ...listed('Returns:', returns), ...listed('As before:', changes)];
}

/** What taking committed steps back would do. */
export interface UndoPlan {
  /** Steps in the order in which they are taken back, the last first. */
  steps: { title: string; says: string[] }[];
  refusals: Refusal[];
  figures: Figure[];
  /** Simulated time of all steps together. */
  takes: Milliseconds;
}

/** Plans to take back steps, given in the order they were done, from the last on; stops at the first that cannot be taken back. */
export const planUndo = (view: EstateView, steps: readonly CommittedStep[], ask: AskDevice = noDevices): UndoPlanned =>
  whole(planningUndo(view, steps, ask));

export type UndoPlanned = UndoPlan & { overlay: Overlay; effects: Effect[][] };

/** The same in parts, a step each. */
export function* planningUndo(
  view: EstateView,
  steps: readonly CommittedStep[],
  ask: AskDevice = noDevices,
): InParts<UndoPlanned> {
  const overlay = new Overlay(view);
  const effects: Effect[][] = [];
  const plan: UndoPlan = { steps: [], refusals: [], figures: [], takes: 0 };
  for (const step of [...steps].reverse()) {
    const undone = undoStep(overlay, step, ask);
    if (!undone.ok) return { ...plan, refusals: undone.refusals, overlay, effects };
    overlay.apply(undone.step.effects);
    effects.push(undone.step.effects);
    plan.steps.push({ title: step.title, says: undone.step.notes });
    plan.takes += step.takes;
    yield { done: plan.steps.length, of: steps.length };
  }
  return { ...plan, figures: figures(view, overlay, effects.flat()), overlay, effects };
}
