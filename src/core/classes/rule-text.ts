import { notParsed, parsed, type Parsed } from '../units/parsed';
import { ruleFailure, type FactValue, type RequestRule } from './rules';

type Single = number | string | boolean;

/** One value as it is written: `yes`, `52`, `Nordkai`. */
function readSingle(text: string): Single {
  const plain = text.trim();
  if (/^(yes|true)$/i.test(plain)) return true;
  if (/^(no|false)$/i.test(plain)) return false;
  return plain !== '' && Number.isFinite(Number(plain)) ? Number(plain) : plain;
}

const listed = (text: string): string[] =>
  text
    .split(',')
    .map((one) => one.trim())
    .filter((one) => one !== '');

/** A value as it is written; with a comma it is a set of words. */
export const readValue = (text: string): FactValue => (text.includes(',') ? listed(text) : readSingle(text));

export function valueText(value: FactValue): string {
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return typeof value === 'object' ? value.join(', ') : String(value);
}

/** How a rule is written; what stands for a value is read as one. */
const forms: readonly [RegExp, (key: string, a: string, b: string) => RequestRule][] = [
  [/^(\S+) (?:is )?between (.+) and (.+)$/i, (key, a, b) => ({ op: 'range', key, min: end(a), max: end(b) })],
  [/^(\S+) (?:is )?at least (.+)$/i, (key, a) => ({ op: 'atLeast', key, value: readSingle(a) })],
  [/^(\S+) (?:is )?at most (.+)$/i, (key, a) => ({ op: 'range', key, min: null, max: end(a) })],
  [/^(\S+) (?:is )?one of (.+)$/i, (key, a) => ({ op: 'in', key, values: listed(a).map(readSingle) })],
  [
    /^(\S+) (?:is )?none of (.+)$/i,
    (key, a) => ({ op: 'not', rule: { op: 'in', key, values: listed(a).map(readSingle) } }),
  ],
  [/^(\S+) is not (.+)$/i, (key, a) => ({ op: 'not', rule: { op: 'equals', key, value: readValue(a) } })],
  [/^(\S+) is (.+)$/i, (key, a) => ({ op: 'equals', key, value: readValue(a) })],
];

const end = (text: string): number | string => {
  const value = readSingle(text);
  return typeof value === 'boolean' ? text.trim() : value;
};

/** A rule of a request as a line of text. Reasons: rule-unread, and those of `matchRules`. */
export function readRule(line: string): Parsed<RequestRule> {
  const plain = line.trim().replace(/\s+/g, ' ');
  const inner = /^not: (.+)$/i.exec(plain);
  if (inner) {
    const rule = readRule(inner[1]!);
    return rule.ok ? parsed({ op: 'not', rule: rule.value }) : rule;
  }
  for (const [form, made] of forms) {
    const match = form.exec(plain);
    if (!match) continue;
    const rule = made(match[1]!, match[2] ?? '', match[3] ?? '');
    return ruleFailure(rule) ?? parsed(rule);
  }
  return notParsed(
    'rule-unread',
    `'${plain}' is no rule. Write such as: media at least ssd-sata, cost between 40 and 60, place one of Nordkai, hours is not office.`,
  );
}

/** A rule as it is written; read again it asks the same. */
export function ruleText(rule: RequestRule): string {
  if (rule.op === 'not') {
    if (rule.rule.op === 'in') return `${rule.rule.key} none of ${rule.rule.values.map(valueText).join(', ')}`;
    if (rule.rule.op === 'equals') return `${rule.rule.key} is not ${valueText(rule.rule.value)}`;
    return `not: ${ruleText(rule.rule)}`;
  }
  if (rule.op === 'equals') return `${rule.key} is ${valueText(rule.value)}`;
  if (rule.op === 'atLeast') return `${rule.key} at least ${valueText(rule.value)}`;
  if (rule.op === 'in') return `${rule.key} one of ${rule.values.map(valueText).join(', ')}`;
  const [min, max] = [rule.min ?? null, rule.max ?? null];
  if (min === null) return `${rule.key} at most ${max}`;
  return max === null ? `${rule.key} at least ${min}` : `${rule.key} between ${min} and ${max}`;
}
