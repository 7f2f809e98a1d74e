import { z } from 'zod';
import type { RequestRule } from '../classes/rules';
import type { KeptRequest } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { keepings, type Keeping } from '../kinds/kept-request';
import { draftFlag, draftList, draftNumber, draftText, namedChoices, orNone } from '../operation/draft';
import { folded, pick, such } from '../operation/form';
import { lookUp, type Inquiry } from '../operation/inquiry';
import type { Choice, Draft, Foretold } from '../operation/operation';
import { flag } from '../operation/params';
import type { Subject } from '../operation/refusal';
import { readRule, ruleText } from '../classes/rule-text';
import { exactBytes, formatBytes, parseBytes } from '../units/bytes';
import { formatCount } from '../units/figures';
import { headroomsOf } from '../performance/pool-headroom';
import { askRules, rulesForm, rulesParam } from './rule-ask';
import { keepingWords, placesOf, severalWords } from './several';

/** What may be asked of a place. */
export const requestParams = {
  size: z.string().optional().describe('Of each volume, with its unit, such as 2 TiB'),
  volumes: z.coerce.number().int().min(1, 'ask for at least 1').max(1000).optional().describe('How many alike'),
  iops: z.coerce.number().min(0).max(1e9).optional().describe('I/O a second of each volume; 0 for any'),
  keeping: z
    .enum(keepings)
    .optional()
    .describe('Where most is left, into as few pools as hold them, together in one, or each in a pool of its own'),
  class: z.string().optional().describe('A service class whose rules count beside its own; - for none'),
  rules: rulesParam,
  replica: flag.optional().describe('With a copy at an array that its own is introduced to'),
  notes: z.string().max(1000).optional(),
};

export const requestForm = {
  size: such('Size of each', '2 TiB'),
  volumes: 'How many',
  iops: 'IO/s of each',
  keeping: pick('They go'),
  class: pick('Service class'),
  rules: rulesForm,
  replica: { label: 'With a copy', control: 'switch' },
  notes: folded('Notes'),
} as const;

/** What is asked for, without the name it is kept under. */
export type RequestFigures = Omit<KeptRequest, 'id' | 'name'>;
export const nothingAsked: RequestFigures = {
  bytes: 0,
  volumes: 1,
  iops: 0,
  keeping: 'spread',
  serviceClass: null,
  rules: [],
  replica: false,
  notes: '',
};

/** Forms leave out what is empty: none is said with a dash there. */
const NONE = '-';
const isNone = (ref: string): boolean => ref.trim() === '' || ref.trim() === NONE;

/** What is asked for over what was before, with what is wrong about it said. */
export function readRequest(
  asks: Inquiry,
  before: RequestFigures,
  p: z.output<z.ZodObject<typeof requestParams>>,
  subject: Subject,
): RequestFigures {
  const serviceClass =
    p.class === undefined
      ? before.serviceClass
      : isNone(p.class)
        ? null
        : (asks.find('serviceClass', p.class, 'class')?.id ?? null);
  return {
    bytes: p.size === undefined ? before.bytes : (asks.value(parseBytes(p.size), 'size', subject) ?? 0),
    volumes: p.volumes ?? before.volumes,
    iops: p.iops ?? before.iops,
    keeping: p.keeping ?? before.keeping,
    serviceClass,
    rules: p.rules === undefined ? before.rules : askRules(asks, p.rules, subject),
    replica: p.replica ?? before.replica,
    notes: p.notes ?? before.notes,
  };
}

/** The rules of its class before its own. */
export const rulesOf = (view: EstateView, { serviceClass, rules }: RequestFigures): RequestRule[] => [
  ...(serviceClass ? view.table('serviceClass').get(serviceClass)!.rules : []),
  ...rules,
];

/** A request as people say it. */
export function requestWords(view: EstateView, asked: RequestFigures): string {
  const own = asked.serviceClass && view.table('serviceClass').get(asked.serviceClass);
  return [
    severalWords(asked.volumes, exactBytes(asked.bytes)),
    ...(asked.volumes > 1 ? [keepingWords[asked.keeping].toLowerCase()] : []),
    ...(asked.iops > 0 ? [`${formatCount(asked.iops)} IO/s${asked.volumes > 1 ? ' each' : ''}`] : []),
    ...(own ? [own.name] : []),
    ...asked.rules.map(ruleText),
    ...(asked.replica ? ['with a copy'] : []),
  ].join('; ');
}

/** Where it would find a place as things stand. */
export function requestNote(view: EstateView, asked: RequestFigures): string {
  return placesOf(view, { ...asked, rules: rulesOf(view, asked) }, headroomsOf(view)).says;
}

/** A draft as far as it can be read, over what it begins from. */
export function draftRequest(view: EstateView, draft: Draft, before: RequestFigures = nothingAsked): RequestFigures {
  const size = parseBytes(draftText(draft, 'size'));
  const keeping = keepings.find((one) => one === draftText(draft, 'keeping'));
  const named = draftText(draft, 'class');
  const own = lookUp(view, 'serviceClass', named);
  const rules = draftList(draft, 'rules').flatMap((line) => {
    const rule = readRule(line);
    return rule.ok ? [rule.value] : [];
  });
  return {
    ...before,
    bytes: size.ok ? size.value : before.bytes,
    volumes: Math.min(1000, Math.max(1, Math.floor(draftNumber(draft, 'volumes', before.volumes)))),
    iops: Math.max(0, draftNumber(draft, 'iops', before.iops)),
    keeping: keeping ?? before.keeping,
    serviceClass: named === NONE ? null : (own?.id ?? before.serviceClass),
    rules: rules.length > 0 ? rules : before.rules,
    replica: 'replica' in draft ? draftFlag(draft, 'replica') : before.replica,
  };
}

export const keepingChoices = keepings.map((value: Keeping) => ({ value, label: keepingWords[value] }));

/** Where something was asked before, nothing chosen leaves its class as it is. */
const classesToAsk = (view: EstateView, before: RequestFigures | undefined): Choice[] =>
  before?.serviceClass
    ? [
        { value: '', label: `As it is: ${view.table('serviceClass').get(before.serviceClass)!.name}` },
        { value: NONE, label: 'None' },
        ...namedChoices(view, 'serviceClass'),
      ]
    : orNone(namedChoices(view, 'serviceClass'));

/** Words beside the fields of a request. */
export function requestSays(view: EstateView, draft: Draft, before?: RequestFigures): Foretold['fields'] {
  const asked = draftRequest(view, draft, before);
  return {
    size: {
      says:
        asked.bytes === 0
          ? 'Of each volume.'
          : asked.volumes === 1
            ? `${formatBytes(asked.bytes)}.`
            : `${formatBytes(asked.bytes * asked.volumes)} in all.`,
    },
    volumes: { suggested: String(before?.volumes ?? 1), says: 'All of them alike.' },
    iops: {
      ...(before ? { suggested: String(before.iops) } : {}),
      says: 'At the busiest hour; room for it is kept with one part failed.',
    },
    keeping: {
      suggested: before?.keeping ?? 'spread',
      choices: keepingChoices,
      says: asked.volumes === 1 ? 'Where there are several.' : '',
    },
    class: { choices: classesToAsk(view, before), says: 'Its rules count beside those below.' },
    rules: {
      says: asked.bytes > 0 ? requestNote(view, asked) : 'A size first; then where it finds a place is said here.',
    },
    replica: { suggested: String(before?.replica ?? false), says: 'At an array that its own is introduced to.' },
    notes: { says: 'For those who come after.' },
  };
}
