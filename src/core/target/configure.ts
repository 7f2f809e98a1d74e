import { z } from 'zod';
import { pick, the } from '../operation/form';
import { lossNotes, mappingsOfArray, pathsAround, refuseCut } from '../attach/losses';
import { barredWrites } from '../attach/write-access';
import { changed, created, deleted } from '../estate/effects';
import { rowOf, type ArrayRow, type Target } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { volumeOf } from '../estate/relations';
import { mainTarget, portalsOf, portalText, targetsOf, targetText } from '../iscsi/target';
import { parseIscsiName } from '../naming/iscsi';
import { arrayChoices, draftArray, draftText, nextName } from '../operation/draft';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { movedWords } from '../operation/moved';
import { nextStep } from '../operation/next-step';
import { planned, refused, type Choice, type Draft, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';
import { applyPolicy, policyFields, policyForm, targetPolicy, targetWords } from './policy';

const base = z.object({ array: z.string() });
const createSchema = base
  .extend({ name: z.string().describe('Its alias'), iqn: z.string().optional().describe('Its iSCSI name') })
  .extend(targetPolicy.shape);
const configureSchema = base
  .extend({ name: z.string().optional().describe('Its alias; without it the array’s main target') })
  .extend(targetPolicy.shape);
const deleteSchema = base.extend({ name: z.string() });

/** The target that is meant: the one named, else the array's main one. */
function askTarget(
  view: EstateView,
  asks: Inquiry,
  array: ArrayRow | undefined,
  name: string | undefined,
): Target | undefined {
  if (!array) return undefined;
  if (name) return asks.find('target', name, 'name', array);
  const main = mainTarget(view, array.id);
  if (!main)
    asks.refuse({
      code: 'target-unknown',
      field: 'name',
      subject: subjectOf('array', array),
      message: `${array.name} has no iSCSI target.`,
      mend: 'Make one first.',
      offer: nextStep('Make a target', 'target.create', { array: array.name }),
    });
  return main;
}

const choicesOf = (view: EstateView, array: ArrayRow | undefined): Choice[] =>
  array
    ? targetsOf(view, array.id).map((row) => ({
        value: row.name,
        label: row.main ? `${row.name}, the array’s own` : row.name,
      }))
    : [];

const draftTarget = (view: EstateView, draft: Draft, array: ArrayRow | undefined): Target | undefined =>
  array &&
  (draftText(draft, 'name') ? lookUp(view, 'target', draftText(draft, 'name'), array.id) : mainTarget(view, array.id));

/** The name a target gets where none is written: the array's, with the alias behind it. */
const proposedIqn = (view: EstateView, array: ArrayRow, name: string): string => {
  const main = mainTarget(view, array.id)?.iqn ?? `iqn.2031-04.example.skarholt:${array.name}`;
  return `${main}.${name.toLowerCase().replace(/[^a-z0-9-.]+/g, '-')}`;
};

export const targetCreate: OperationType<z.output<typeof createSchema>> = {
  kind: 'target.create',
  verb: 'Make a target',
  summary:
    'Opens another iSCSI target on an array, for one volume or for many, with its own portals, guests and proof.',
  schema: createSchema,
  form: {
    columns: [5, 6, 7],
    fields: {
      array: the.array,
      name: 'Alias',
      iqn: 'iSCSI name',
      ...policyForm,
    },
  },
  title: (p) => `Target ${p.name} of ${p.array}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const notes: string[] = [];
    const array = asks.find('array', p.array, 'array');
    const name = array && asks.freeName('target', p.name, array);
    const iqn =
      array &&
      asks.value(parseIscsiName(p.iqn?.trim() || proposedIqn(view, array, p.name), context.month), 'iqn', {
        kind: 'target',
        name: p.name,
      });
    if (iqn && (view.table('target').by('iqn', iqn).length > 0 || view.table('initiator').by('iqn', iqn).length > 0))
      asks.refuse({
        code: 'name-taken',
        field: 'iqn',
        subject: { kind: 'target', name: p.name },
        message: `${iqn} names something else already.`,
        mend: 'Choose another name.',
      });
    if (asks.refusals.length > 0 || !array || !name || !iqn) return refused(asks.refusals);
    const bare = rowOf('target', {
      id: context.newId('target'),
      name,
      array: array.id,
      iqn,
      main: mainTarget(view, array.id) === undefined,
    });
    const row = applyPolicy(view, asks, array, bare, p, { month: context.month, notes });
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const portals = portalsOf(view, row);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Target ${name} of ${array.name}: ${portals.flatMap(({ port, tcp }) => port.addresses.map(({ ip }) => portalText(ip, tcp))).join(', ') || 'no portal yet'}`,
      takes: 2 * SECOND,
      effects: [created('target', row)],
      notes,
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const fields = policyFields(view, draft, array, undefined);
    const name = draftText(draft, 'name');
    fields.name = array
      ? { suggested: nextName('target', view.table('target').by('array', array.id)), says: 'Unique on its array.' }
      : {};
    fields.iqn = {
      suggested: array && name ? proposedIqn(view, array, name) : '',
      says: 'Initiators log in to this name.',
    };
    return { fields };
  },
};

export const targetConfigure: OperationType<z.output<typeof configureSchema>> = {
  kind: 'target.configure',
  verb: 'Set up a target',
  summary:
    'Says where an iSCSI target answers, who may log in and what they must prove, how it proves itself, and which digests it takes.',
  schema: configureSchema,
  form: {
    columns: [5, 6, 7],
    fields: {
      array: the.array,
      name: pick('Target'),
      ...policyForm,
    },
  },
  title: (p) => `Set up ${p.name ? `target ${p.name}` : 'the target'} of ${p.array}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const notes: string[] = [];
    const array = asks.find('array', p.array, 'array');
    const target = askTarget(view, asks, array, p.name);
    if (!array || !target) return refused(asks.refusals);
    const after = applyPolicy(view, asks, array, target, p, { month: context.month, notes });
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const effects = [changed('target', target, after)];
    const mappings = mappingsOfArray(view, array.id);
    const around = pathsAround(view, effects, mappings);
    refuseCut(asks, around, subjectOf('target', { ...target, name: targetText(view, target) }), cutBy(target, after));
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const overlay = new Overlay(view);
    overlay.apply(effects);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Target ${target.main ? 'of' : `${target.name} of`} ${array.name}: ${movedWords(target, after, targetWords(view))}`,
      takes: 2 * SECOND,
      effects,
      notes: [
        ...notes,
        ...lossNotes(around),
        ...barredWrites(
          view,
          overlay,
          mappings.map((mapping) => mapping.host),
        ),
      ],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const target = draftTarget(view, draft, array);
    const fields = policyFields(view, draft, array, target);
    fields.name = { choices: choicesOf(view, array), ...(target ? { says: target.iqn, suggested: target.name } : {}) };
    if (!array || !target) return { fields };
    const count = view.table('mapping').by('target', target.id).length;
    if (!target.main) fields.name.says += ` Shows ${count} ${count === 1 ? 'volume' : 'volumes'}.`;
    const auth = (draftText(draft, 'auth') || target.auth) as Target['auth'];
    const on =
      draft.enabled === undefined || draft.enabled === ''
        ? target.enabled
        : draft.enabled === true || draft.enabled === 'true';
    const mappings = mappingsOfArray(view, array.id);
    const says = (fields2: Partial<Target>): string => {
      const around = pathsAround(view, [changed('target', target, fields2)], mappings);
      const hosts = [...new Set(around.losses.map((loss) => loss.host))];
      return `Paths ${around.before} → ${around.after}${hosts.length > 0 ? `; ${hosts.slice(0, 3).join(', ')} could not log in` : ''}.`;
    };
    fields.auth!.says = says({ auth });
    if (!on) fields.enabled!.says = says({ enabled: false });
    return { fields };
  },
};

/** The field that takes paths away, as far as one alone does. */
function cutBy(before: Target, after: Target): string {
  if (before.enabled && !after.enabled) return 'enabled';
  if (JSON.stringify(before.portals) !== JSON.stringify(after.portals)) return 'portals';
  if (JSON.stringify(before.rules) !== JSON.stringify(after.rules)) return 'exceptions';
  return before.usual === after.usual ? 'auth' : 'usual';
}

export const targetDelete: OperationType<z.output<typeof deleteSchema>> = {
  kind: 'target.delete',
  verb: 'Drop a target',
  summary: 'Closes a target for good. Refused while it shows volumes; the array’s own target can only be switched off.',
  schema: deleteSchema,
  form: {
    columns: [5, 6, 7],
    fields: {
      array: the.array,
      name: pick('Target'),
    },
  },
  title: (p) => `Drop target ${p.name} of ${p.array}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const target = array && asks.find('target', p.name, 'name', array);
    if (array && target?.main)
      asks.refuse({
        code: 'target-is-main',
        field: 'name',
        subject: subjectOf('target', target),
        message: `${target.name} is the target of ${array.name} that shows whatever names no other.`,
        mend: 'Switch it off instead.',
        offer: nextStep(
          'Switch it off',
          'target.configure',
          { array: array.name, name: target.name, enabled: false },
          'enabled',
        ),
      });
    const shown = target ? view.table('mapping').by('target', target.id) : [];
    if (target && shown.length > 0)
      asks.refuse({
        code: 'still-mapped',
        field: 'name',
        subject: subjectOf('target', target),
        message: `${target.name} shows ${shown.length === 1 ? 'a volume' : `${shown.length} volumes`}: ${shown
          .slice(0, 3)
          .map((row) => volumeOf(view, row).name)
          .join(', ')}.`,
        mend: 'Take those mappings away first.',
      });
    const told = target ? view.table('login').by('target', target.id) : [];
    if (asks.refusals.length > 0 || !array || !target) return refused(asks.refusals);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Drop target ${target.name}`,
      takes: SECOND,
      effects: [...told.map((row) => deleted('login', row)), deleted('target', target)],
      notes:
        told.length > 0
          ? [`${told.length} ${told.length === 1 ? 'host was' : 'hosts were'} told to log in there.`]
          : [],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    return {
      fields: {
        array: { choices: arrayChoices(view) },
        name: {
          choices: choicesOf(view, array).map((choice) =>
            array && lookUp(view, 'target', choice.value, array.id)?.main
              ? { ...choice, unfit: 'can only be switched off' }
              : choice,
          ),
          says: 'Only one that shows no volumes.',
        },
      },
    };
  },
};
