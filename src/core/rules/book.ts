import { changedFields, rowName, type Effect } from '../estate/effects';
import { kindWords, kinds, type Kind, type Rows } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { ExtentTaken } from '../estate/occupancy';
import { references, rowsReferring } from '../estate/references';
import type { Refusal } from '../operation/refusal';
import { capital } from '../units/counted';
import { attachRules } from './attach-rules';
import { lineageRules } from './lineage-rules';
import { referenceRules, shapeRules } from './reference-rules';
import type { Broken, Rule, Wrong } from './rule';
import { storageRules } from './storage-rules';
import { stretchRules } from './stretch-rules';
import { uniqueRules } from './unique';

/** Rules on which the others rest: they follow references without asking whether somebody is there. */
const firm: readonly Rule[] = [...shapeRules, ...referenceRules, ...lineageRules];
const resting: readonly Rule[] = [...uniqueRules, ...storageRules, ...attachRules, ...stretchRules];
const isFirm: ReadonlySet<Rule> = new Set(firm);

/**
 * The rule book: what must hold of every estate, each rule once. Every commit, undo, stand-in and import asks it, and the property tests. A
 * rule of a row is asked when the row is touched, or when a row is that can break it.
 */
export const rules: readonly Rule[] = [...firm, ...resting];

const rulesOf = new Map<Kind, Rule[]>(kinds.map((kind) => [kind, rules.filter((one) => one.of === kind)]));
/** Rules of other kinds that a row of a kind may break. */
const askedBy = new Map<Kind, [Rule, (row: Rows[Kind], view: EstateView) => readonly string[]][]>(
  kinds.map((kind) => [
    kind,
    rules.flatMap((one) => {
      const ask = one.asks?.[kind] as ((row: Rows[Kind], view: EstateView) => readonly string[]) | undefined;
      return ask ? [[one, ask]] : [];
    }),
  ]),
);
const referredBy = new Map(kinds.map((kind) => [kind, references.filter((one) => one.to === kind)]));

const told = (one: Rule, row: Rows[Kind], wrongs: readonly Wrong[]): Broken[] =>
  wrongs.map((wrong) => ({ ...wrong, code: one.code, kind: one.of, id: row.id, name: rowName(one.of, row) }));

/** Whatever of a whole estate breaks a rule, and whether what is counted of its extents agrees with its rows. */
export function brokenRules(view: EstateView): Broken[] {
  return [...rowsInTurn(view)].flat();
}

/** The same row by row, so that a large estate can be looked at in slices; what rests on others is asked once those hold. */
export function* rowsInTurn(view: EstateView): Generator<Broken[]> {
  for (const asked of [true, false]) {
    let held = true;
    for (const kind of kinds) {
      const due = rulesOf.get(kind)!.filter((one) => isFirm.has(one) === asked);
      for (const row of view.table(kind).values()) {
        const broken = due.flatMap((one) => told(one, row, one.broken(view, row)));
        if (broken.length > 0) held = false;
        yield broken;
      }
    }
    if (asked && !held) return;
  }
  yield miscounted(view);
}

/** What the occupancy counts against what the rows say. */
function miscounted(view: EstateView): Broken[] {
  const used = new Map<string, number>();
  const broken: Broken[] = [];
  for (const run of view.table('extent').values()) used.set(run.raidGroup, (used.get(run.raidGroup) ?? 0) + run.count);
  const say = (kind: Kind, row: { id: string; name: string }, message: string) =>
    broken.push({ code: 'miscounted', kind, id: row.id, name: row.name, message, mend: 'Start the server anew.' });
  for (const group of view.table('raidGroup').values())
    if ((used.get(group.id) ?? 0) !== view.occupancy.used(group.id))
      say(
        'raidGroup',
        group,
        `${group.name} counts ${view.occupancy.used(group.id)} used extents; ${used.get(group.id) ?? 0} are held.`,
      );
  for (const pool of view.table('pool').values()) {
    const promised = view
      .table('volume')
      .by('pool', pool.id)
      .reduce((sum, volume) => sum + (volume.deletedAt === null ? volume.size : 0), 0);
    if (promised !== view.occupancy.promised(pool.id))
      say('pool', pool, `Pool ${pool.name} counts another sum of promised sizes than its volumes have.`);
  }
  return broken;
}

/**
 * What effects that are laid over an estate already break: rules of the rows they touch, of rows that may rest on those, and references to
 * rows that went. What was broken before and is no worse is not held against them.
 */
export function brokenBy(after: EstateView, effects: readonly Effect[], asked: Asked = 'all'): Broken[] {
  /** By rule the rows it is asked of, with the fields in which they changed; undefined for all. */
  const due = new Map<Rule, Map<string, readonly string[] | undefined>>();
  const ask = (one: Rule, id: string, fields?: readonly string[]) => {
    let ids = due.get(one);
    if (!ids) due.set(one, (ids = new Map<string, readonly string[] | undefined>()));
    const known = ids.get(id);
    ids.set(id, ids.has(id) ? known && fields && [...known, ...fields] : fields);
  };
  const broken: Broken[] = [];
  for (const effect of effects) {
    const { kind, id } = effect;
    if (after.table(kind).get(id)) {
      const fields = effect.before && effect.after ? changedFields(kind, effect.before, effect.after) : undefined;
      for (const one of rulesOf.get(kind)!)
        if ((asked === 'all' || one.code !== 'misshapen') && reads(one, fields)) ask(one, id, fields);
    } else if (effect.before) broken.push(...stillNeeded(after, kind, effect.before));
    for (const [one, of] of askedBy.get(kind)!)
      for (const row of [effect.before, effect.after]) if (row) for (const other of of(row, after)) ask(one, other);
  }
  const found = (asked: boolean): Broken[] => {
    for (const [one, ids] of due)
      for (const [id, fields] of ids) {
        const row = isFirm.has(one) === asked && after.table(one.of).get(id);
        if (!row) continue;
        const wrongs = one.broken(after, row, fields);
        if (wrongs.length > 0) broken.push(...told(one, row, wrongs));
      }
    return broken.length === 0 ? broken : worse(after, effects, broken);
  };
  const unfirm = found(true);
  return unfirm.length > 0 ? unfirm : found(false);
}

/** Whether a rule looks at any of the fields in which a row changed. */
const reads = (one: Rule, fields: readonly string[] | undefined): boolean =>
  fields === undefined || one.reads === undefined || one.reads.some((field) => fields.includes(field));

/** Rows that refer to one that went. */
function stillNeeded(view: EstateView, kind: Kind, row: Rows[Kind]): Broken[] {
  const broken: Broken[] = [];
  for (const reference of referredBy.get(kind)!)
    for (const other of rowsReferring(view, reference, row.id))
      broken.push({
        code: 'still-needed',
        kind,
        id: row.id,
        name: rowName(kind, row),
        message: `${kindWords[kind]} ${rowName(kind, row)} is used by ${kindWords[reference.from]} ${rowName(reference.from, other)}.`,
        mend: `Take ${kindWords[reference.from]} ${rowName(reference.from, other)} away first.`,
      });
  return broken;
}

/** Those that were not broken in the same way before the effects. */
function worse(after: EstateView, effects: readonly Effect[], broken: readonly Broken[]): Broken[] {
  const before = new Overlay(after);
  before.apply(effects.map((one) => ({ ...one, before: one.after, after: one.before }) as Effect).reverse());
  return broken.filter(({ code, kind, id, message }) => {
    if (code === 'still-needed') return true;
    const row = before.table(kind).get(id);
    if (!row) return true;
    return !rulesOf
      .get(kind)!
      .some((one) => one.code === code && one.broken(before, row).some((was) => was.message === message));
  });
}

/** All rules, or all but whether each row is as its schema says, which a plan's rows are by their types. */
type Asked = 'all' | 'between rows';

/** Lays effects over an estate and asks the book. Extents that are taken twice are a broken rule as any other. */
export function tried(
  view: EstateView,
  effects: readonly Effect[],
  asked: Asked = 'all',
): { overlay: Overlay; broken: Broken[] } {
  const overlay = new Overlay(view);
  try {
    overlay.apply(effects);
  } catch (error) {
    if (!ExtentTaken.is(error)) throw error;
    return { overlay: new Overlay(view), broken: [takenTwice(view, error)] };
  }
  return { overlay, broken: [...madeTwice(view, effects), ...brokenBy(overlay, effects, asked)] };
}

/** Rows that effects make though one of that id is there: it would be lost under the new one. */
export function madeTwice(view: EstateView, effects: readonly Effect[]): Broken[] {
  const gone = new Set<string>();
  return effects.flatMap(({ kind, id, before, after }): Broken[] => {
    if (!after) gone.add(id);
    const there = before === null && after && !gone.has(id) ? view.table(kind).get(id) : undefined;
    if (!there) return [];
    const name = rowName(kind, there);
    return [
      {
        code: 'made-twice',
        kind,
        id,
        name,
        message: `${capital(kindWords[kind])} ${name} would be written over by another.`,
        mend: 'Leave it as it is, and report this.',
      },
    ];
  });
}

function takenTwice(view: EstateView, { run }: ExtentTaken): Broken {
  const group = view.table('raidGroup').get(run.raidGroup);
  const holder = view
    .table('extent')
    .by('raidGroup', run.raidGroup)
    .find(
      (other) => other.id !== run.id && other.start < run.start + run.count && run.start < other.start + other.count,
    );
  const who = holder?.volume ? `volume ${view.table('volume').get(holder.volume)?.name}` : 'another';
  return {
    code: 'extent-taken',
    kind: 'raidGroup',
    id: run.raidGroup,
    name: group?.name ?? run.raidGroup,
    message: `Extents ${run.start} to ${run.start + run.count - 1} of ${group?.name ?? run.raidGroup} would be taken twice: ${who} has them by now.`,
    mend: 'Leave it as it is, or carve anew: the room was given to others.',
  };
}

/** A broken rule as a refusal. */
export const refusalOf = ({ code, kind, id, name, message, mend, offer }: Broken): Refusal => ({
  code: `breaks-${code}`,
  subject: { kind, id, name },
  message,
  mend,
  ...(offer ? { offer } : {}),
});
