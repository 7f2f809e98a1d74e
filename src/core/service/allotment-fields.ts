import { z } from 'zod';
import type { Allotment } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { draftText, namedChoices } from '../operation/draft';
import { folded, several, such } from '../operation/form';
import { lookUp, type Inquiry } from '../operation/inquiry';
import type { Draft } from '../operation/operation';
import type { Subject } from '../operation/refusal';
import { poolName, takenOf } from '../pool/allotments';
import { someOf } from '../units/counted';
import { formatBytes, parseBytes, type Bytes } from '../units/bytes';
import { saidOr } from '../operation/said';

/** What may be said of an allotment. */
export const allotmentParams = {
  contact: z.string().max(200).optional().describe('Who may give from it'),
  size: z.string().optional().describe('Provisioned in all, with its unit'),
  volumes: z
    .union([z.literal(''), z.coerce.number().int().min(1).max(100_000)])
    .optional()
    .describe('Most volumes; empty for any number'),
  pools: z.array(z.string()).optional().describe('At most of single pools, one a line: `lintel-1 quay 3 TiB`'),
  classes: z.array(z.string()).optional().describe('It takes only from pools that fit one of these classes'),
  notes: z.string().max(1000).optional(),
};
export const allotmentForm = {
  contact: such('Who may give', 'R. Visser'),
  size: such('Set aside', '6 TiB'),
  volumes: 'Most volumes',
  classes: several('Of classes'),
  pools: { label: 'At most of pools', control: 'lines', placeholder: 'lintel-1 quay 3 TiB' },
  notes: folded('Notes'),
} as const;

/** What is set aside, without whom for. */
export type Figures = Omit<Allotment, 'id' | 'name'>;
export const nothing: Figures = {
  contact: '',
  bytes: 0,
  volumes: null,
  pools: [],
  poolBytes: [],
  classes: [],
  notes: '',
};

/** The figures over those before, with what is wrong about them said. */
export function readFigures(
  view: EstateView,
  asks: Inquiry,
  before: Figures,
  p: z.output<z.ZodObject<typeof allotmentParams>>,
  subject: Subject,
): Figures {
  const bytes = p.size === undefined ? before.bytes : (asks.value(parseBytes(p.size), 'size', subject) ?? 0);
  if (bytes <= 0 && asks.refusals.length === 0)
    asks.refuse({
      code: 'allotment-empty',
      field: 'size',
      subject,
      message: 'Nothing would be set aside.',
      mend: 'Say how much, such as 6 TiB.',
    });
  const after: Figures = {
    contact: p.contact ?? before.contact,
    bytes,
    volumes: saidOr(p.volumes, before.volumes, ''),
    pools: before.pools,
    poolBytes: before.poolBytes,
    classes:
      p.classes === undefined
        ? before.classes
        : [...new Set(p.classes)].flatMap((ref) => asks.find('serviceClass', ref, 'classes')?.id ?? []),
    notes: p.notes ?? before.notes,
  };
  if (p.pools === undefined) return after;
  const rows = p.pools.map((line) => readPool(view, asks, line, subject)).filter((row) => row !== null);
  return { ...after, pools: rows.map(([pool]) => pool), poolBytes: rows.map(([, most]) => most) };
}

function readPool(view: EstateView, asks: Inquiry, line: string, subject: Subject): [string, Bytes] | null {
  if (line.trim() === '') return null;
  const match = /^(\S+)\s+(\S+)\s+(.+)$/.exec(line.trim());
  const array = match ? lookUp(view, 'array', match[1]!) : undefined;
  const pool = array && lookUp(view, 'pool', match![2]!, array.id);
  const most = match ? parseBytes(match[3]!) : null;
  if (pool && most?.ok) return [pool.id, most.value];
  asks.refuse({
    code: 'allotment-pool-unread',
    field: 'pools',
    subject,
    message: `'${line.trim()}' names no pool with a size.`,
    mend: 'Write the array, the pool and the size, such as lintel-1 quay 3 TiB.',
  });
  return null;
}

/** What is set aside, in words. */
export const figuresWords = (view: EstateView, one: Figures): string =>
  [
    `${formatBytes(one.bytes)} set aside`,
    ...(one.volumes === null ? [] : [`${one.volumes} volumes`]),
    ...one.pools.map((pool, k) => `at most ${formatBytes(one.poolBytes[k] ?? 0)} of ${poolName(view, pool)}`),
    ...(one.classes.length > 0
      ? [`of ${someOf(one.classes.map((id) => view.table('serviceClass').get(id)?.name ?? id))}`]
      : []),
  ].join(', ');

/** What is said beside the fields. */
export const saysOf = (view: EstateView) => ({
  contact: { says: 'Whom to ask, and who may give from it.' },
  size: { says: 'Provisioned in all pools together.' },
  volumes: { says: 'Empty for any number.' },
  classes: {
    choices: namedChoices(view, 'serviceClass'),
    says: 'It takes only from pools that fit one of them; none for any pool.',
  },
  pools: { says: 'One a line: array, pool, most. Of others as much as there is left.' },
  notes: { says: 'For those who come after.' },
});

export const draftAllotment = (view: EstateView, draft: Draft): Allotment | undefined =>
  lookUp(view, 'allotment', draftText(draft, 'allotment'));

/** What is taken of an allotment, in words. */
export const takenWords = (view: EstateView, row: Allotment): string => {
  const { bytes, volumes } = takenOf(view, row.id);
  return `${formatBytes(bytes, 'used')} of ${formatBytes(row.bytes)} taken by ${volumes}${row.volumes === null ? '' : ` of ${row.volumes}`} volumes.`;
};
