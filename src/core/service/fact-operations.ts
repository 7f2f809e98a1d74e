import { z } from 'zod';
import { readValue } from '../classes/rule-text';
import { changed, created, deleted, type Effect } from '../estate/effects';
import { rowOf, type DeclaredFact } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayChoices, byName, draftArray, draftText } from '../operation/draft';
import { folded, pick, several, such, the } from '../operation/form';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { record } from '../operation/record';
import { subjectOf } from '../operation/refusal';
import { askPool, realPools } from '../pool/direct';
import { someOf } from '../units/counted';
import { SECOND } from '../units/duration';
import { askVolume } from '../volume/ask';
import { derivedFacts, isDerived, keyWords } from './facts';

const key = z
  .string()
  .trim()
  .regex(/^[A-Za-z][A-Za-z0-9-]{0,39}$/, 'A key is one word of letters, digits and hyphens.');

const declareSchema = z.object({
  array: z.string(),
  pool: z.string().optional().describe('Of which pool it is said'),
  volumes: z.array(z.string()).default([]).describe('Or of volumes, against what their pool says'),
  key: key.describe('What is said of it, such as cost, place or hours'),
  value: z.string().trim().min(1).max(200).describe('A number, a word, yes or no; several words with commas'),
  reason: z.string().max(300).optional().describe('Why a volume differs from its pool'),
});

/** Keys that people have declared anything of, and how often. */
export const declaredKeys = (view: EstateView): string[] =>
  [...new Set([...view.table('declaredFact').values()].map((one) => one.key))].sort();

const standing = (view: EstateView, by: 'pool' | 'volume', id: string, wanted: string): DeclaredFact | undefined =>
  view
    .table('declaredFact')
    .by(by, id)
    .find((one) => one.key === wanted);

export const factDeclare: OperationType<z.output<typeof declareSchema>> = {
  kind: 'fact.declare',
  verb: 'Declare a fact',
  summary:
    'What nobody can read from a device: cost, place, hours, any key of your own. Volumes have what their pool has.',
  schema: declareSchema,
  form: {
    columns: [2, 3, 4],
    fields: {
      array: the.array,
      pool: pick('Pool'),
      key: such('Key', 'cost'),
      value: such('Is', '52'),
      volumes: folded(several('Or of volumes')),
      reason: folded('Why they differ'),
    },
  },
  title: (p) => `Declare ${p.key} of ${p.pool ?? (someOf(p.volumes) || 'nothing')} on ${p.array}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    if (!array) return refused(asks.refusals);
    const pool = p.pool ? askPool(asks, p.pool, 'pool', array) : undefined;
    const volumes = [...new Set(p.volumes)].flatMap((ref) => askVolume(asks, array, ref) ?? []);
    const subject = pool ? subjectOf('pool', pool) : { kind: 'pool' as const, name: p.pool ?? '' };
    if (!p.pool && p.volumes.length === 0)
      asks.refuse({
        code: 'fact-of-nothing',
        field: 'pool',
        subject,
        message: 'A fact is said of something.',
        mend: 'Choose a pool, or volumes.',
      });
    if (volumes.length > 0 && isDerived(p.key))
      asks.refuse({
        code: 'fact-derived',
        field: 'key',
        subject: subjectOf('volume', volumes[0]!),
        message: `${p.key} is read from the devices; nobody's word changes it.`,
        mend: 'Change the pool, or move the volume to one that has it.',
      });
    if (volumes.length > 0 && !p.reason?.trim())
      asks.refuse({
        code: 'fact-without-reason',
        field: 'reason',
        subject: subjectOf('volume', volumes[0]!),
        message: `${volumes[0]!.name} has what its pool has; whoever reads this later wants to know why not.`,
        mend: 'Say why it differs.',
      });
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const put = (by: 'pool' | 'volume', id: string): Effect => {
      const had = standing(view, by, id, p.key);
      const fields = { value: p.value, reason: p.reason ?? '', declaredAt: context.now };
      return had
        ? changed('declaredFact', had, fields)
        : created(
            'declaredFact',
            rowOf('declaredFact', { id: context.newId('declaredFact'), [by]: id, key: p.key, ...fields }),
          );
    };
    const read = pool && derivedFacts(view, pool)[p.key];
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `${pool ? pool.name : someOf(volumes.map(({ name }) => name))}: ${p.key} is ${p.value}`,
      takes: SECOND,
      effects: [...(pool ? [put('pool', pool.id)] : []), ...volumes.map(({ id }) => put('volume', id))],
      notes:
        read && String(read.value) !== String(readValue(p.value)) ? [`${p.key} is read too: what is read counts.`] : [],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const keys = declaredKeys(view);
    const wanted = draftText(draft, 'key');
    const fields: Foretold['fields'] = {
      array: { choices: arrayChoices(view) },
      key: {
        says: isDerived(wanted)
          ? `It is read (${keyWords[wanted].says}), and what is read counts.`
          : `One word. ${keys.length > 0 ? `So far: ${keys.join(', ')}.` : 'Such as cost, place, hours.'}`,
      },
      value: { says: 'A number, a word, yes or no; several words with commas are a set.' },
      reason: { says: 'Volumes have what their pool has; say why these do not.' },
    };
    if (!array) return { fields };
    fields.pool = {
      choices: [
        { value: '', label: 'None' },
        ...realPools(view, array.id).map(({ name }) => ({ value: name, label: name })),
      ],
    };
    const pool = lookUp(view, 'pool', draftText(draft, 'pool'), array.id);
    const had = pool && standing(view, 'pool', pool.id, wanted);
    if (had) fields.value!.says = `${had.value} now.`;
    fields.volumes = {
      choices: [...view.table('volume').by('array', array.id)]
        .filter(({ deletedAt }) => deletedAt === null)
        .sort(byName)
        .map(({ name }) => ({ value: name, label: name })),
    };
    return { fields };
  },
};

const withdrawSchema = z.object({
  array: z.string(),
  pool: z.string().optional(),
  volumes: z.array(z.string()).default([]),
  key,
});

export const factWithdraw: OperationType<z.output<typeof withdrawSchema>> = {
  kind: 'fact.withdraw',
  verb: 'Withdraw a declared fact',
  summary: 'From then on nothing is known of it, or what is read, or what the pool says.',
  schema: withdrawSchema,
  form: {
    columns: [2, 3, 4],
    fields: { array: the.array, pool: pick('Pool'), key: pick('Key'), volumes: folded(several('Or of volumes')) },
  },
  title: (p) => `Withdraw ${p.key} of ${p.pool ?? (someOf(p.volumes) || 'nothing')} on ${p.array}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    if (!array) return refused(asks.refusals);
    const pool = p.pool ? askPool(asks, p.pool, 'pool', array) : undefined;
    const volumes = [...new Set(p.volumes)].flatMap((ref) => askVolume(asks, array, ref) ?? []);
    const going = [
      ...(pool ? [['pool', pool] as const] : []),
      ...volumes.map((volume) => ['volume', volume] as const),
    ].flatMap(([by, row]) => {
      const had = standing(view, by, row.id, p.key);
      if (!had) unsaid(asks, by, row, p.key);
      return had ?? [];
    });
    if (going.length === 0 && asks.refusals.length === 0) unsaid(asks, 'pool', { id: '', name: 'nothing' }, p.key);
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Nobody says ${p.key} of ${pool ? pool.name : someOf(volumes.map(({ name }) => name))} any more`,
      takes: SECOND,
      effects: going.map((one) => deleted('declaredFact', one)),
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const fields: Foretold['fields'] = { array: { choices: arrayChoices(view) }, key: {} };
    if (!array) return { fields };
    fields.pool = {
      choices: [
        { value: '', label: 'None' },
        ...realPools(view, array.id).map(({ name }) => ({ value: name, label: name })),
      ],
    };
    const pool = lookUp(view, 'pool', draftText(draft, 'pool'), array.id);
    fields.key!.choices = (
      pool
        ? view
            .table('declaredFact')
            .by('pool', pool.id)
            .map((one) => one.key)
        : declaredKeys(view)
    ).map((value) => ({ value, label: value }));
    fields.volumes = {
      choices: view
        .table('volume')
        .by('array', array.id)
        .filter(({ id }) => view.table('declaredFact').countBy('volume', id) > 0)
        .map(({ name }) => ({ value: name, label: name })),
    };
    return { fields };
  },
};

const unsaid = (asks: Inquiry, kind: 'pool' | 'volume', row: { id: string; name: string }, wanted: string): void =>
  asks.refuse({
    code: 'fact-not-declared',
    field: 'key',
    subject: { kind, ...(row.id ? { id: row.id } : {}), name: row.name },
    message: `Nobody has declared ${wanted} of ${row.name}.`,
    mend: 'Choose what is declared.',
  });

const orderSchema = z.object({
  key: key.describe('Whose words they are'),
  words: z.array(z.string().trim()).describe('From low to high; none to forget the order'),
});

export const factOrderSet: OperationType<z.output<typeof orderSchema>> = {
  kind: 'fact-order.set',
  verb: 'Order the words of a key',
  summary: 'From low to high, so that requests can ask for at least or between.',
  schema: orderSchema,
  form: {
    columns: [2],
    fields: {
      key: such('Key', 'availability'),
      words: { label: 'From low to high', control: 'lines', placeholder: 'one-box', keepEmpty: true },
    },
  },
  title: (p) => `Order the words of ${p.key}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const words = p.words.filter((one) => one !== '');
    const had = lookUp(view, 'factOrder', p.key);
    const subject = { kind: 'factOrder' as const, ...(had ? { id: had.id } : {}), name: p.key };
    if (p.key.toLowerCase() === 'media')
      asks.refuse({
        code: 'order-is-known',
        field: 'key',
        subject,
        message: 'The order of media classes is their speed.',
        mend: 'Order the words of a key of your own.',
      });
    else if (new Set(words).size !== words.length)
      asks.refuse({
        code: 'order-word-twice',
        field: 'words',
        subject,
        message: 'A word cannot stand at two places.',
        mend: 'Leave it once.',
      });
    else if (words.length === 1 || (words.length === 0 && !had))
      asks.refuse({
        code: 'order-too-short',
        field: 'words',
        subject,
        message: 'An order has two words or more.',
        mend: 'Write each on a line of its own, the lowest first.',
      });
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: record,
      title: words.length === 0 ? `Words of ${p.key} have no order` : `${p.key}: ${words.join(' < ')}`,
      takes: SECOND,
      effects:
        words.length === 0
          ? [deleted('factOrder', had!)]
          : had
            ? [changed('factOrder', had, { words })]
            : [created('factOrder', rowOf('factOrder', { id: context.newId('factOrder'), name: p.key, words }))],
    });
  },
  foretell(view, draft) {
    const had = lookUp(view, 'factOrder', draftText(draft, 'key'));
    return {
      fields: {
        key: { says: 'One word, as facts are declared under it.' },
        words: { says: had ? `Now ${had.words.join(' < ')}.` : 'One word a line, the lowest first.' },
      },
    };
  },
};
