import { z } from 'zod';
import { readRule, valueText } from '../classes/rule-text';
import type { RequestRule } from '../classes/rules';
import type { EstateView } from '../estate/estate';
import { ownPools } from '../estate/own';
import { arrayOf } from '../estate/relations';
import type { Inquiry } from '../operation/inquiry';
import type { Draft } from '../operation/operation';
import type { Subject } from '../operation/refusal';
import { someOf } from '../units/counted';
import { headroomsOf } from '../performance/pool-headroom';
import { asksHeadroom, derivedKeys, judged, keyWords, poolFacts } from './facts';

export const rulesParam = z
  .array(z.string())
  .optional()
  .describe('One a line, such as `media at least ssd-sata`, `cost between 40 and 60`, `place one of Nordkai`');

export const rulesForm = {
  label: 'Rules',
  control: 'lines',
  placeholder: 'media at least ssd-sata',
  keepEmpty: true,
} as const;

/** Rules as they are written; what cannot be read or asked is refused with its line. */
export function askRules(asks: Inquiry, lines: readonly string[], subject: Subject, field = 'rules'): RequestRule[] {
  const rules: RequestRule[] = [];
  for (const line of lines) {
    if (line.trim() === '') continue;
    const rule = readRule(line);
    if (rule.ok) rules.push(rule.value);
    else
      asks.refuse({
        code: rule.reason,
        field,
        subject,
        message: rule.reason === 'rule-unread' ? rule.message.split('. ')[0] + '.' : `${line.trim()}: ${rule.message}`,
        mend:
          rule.reason === 'rule-unread'
            ? 'Write a key, a comparison and a value, such as media at least ssd-sata.'
            : 'Correct the rule.',
      });
  }
  contradictory(asks, rules, subject, field);
  return rules;
}

/** Refuses rules of one key that no value could meet together. */
function contradictory(asks: Inquiry, rules: readonly RequestRule[], subject: Subject, field: string): void {
  const is = new Map<string, string>();
  const low = new Map<string, number>();
  const high = new Map<string, number>();
  for (const rule of rules) {
    if (rule.op === 'equals') {
      const value = valueText(rule.value);
      const before = is.get(rule.key);
      if (before !== undefined && before !== value) {
        refuseContradiction(asks, subject, field, `${rule.key} cannot be ${before} and ${value} at once.`);
        return;
      }
      is.set(rule.key, value);
    }
    const [min, max] =
      rule.op === 'atLeast'
        ? [rule.value, null]
        : rule.op === 'range'
          ? [rule.min ?? null, rule.max ?? null]
          : [null, null];
    if (rule.op !== 'atLeast' && rule.op !== 'range') continue;
    if (typeof min === 'number') low.set(rule.key, Math.max(min, low.get(rule.key) ?? -Infinity));
    if (typeof max === 'number') high.set(rule.key, Math.min(max, high.get(rule.key) ?? Infinity));
  }
  for (const [key, least] of low) {
    const most = high.get(key);
    if (most !== undefined && least > most)
      return refuseContradiction(asks, subject, field, `${key} cannot be at least ${least} and at most ${most}.`);
  }
}

const refuseContradiction = (asks: Inquiry, subject: Subject, field: string, message: string): void =>
  asks.refuse({ code: 'rules-contradict', field, subject, message, mend: 'Drop one of the two rules.' });

/** Pools that fit rules, by name. */
function fitting(view: EstateView, rules: readonly RequestRule[]): string[] {
  const headroom = asksHeadroom(rules) ? headroomsOf(view) : undefined;
  return ownPools(view)
    .filter((pool) => judged(view, rules, poolFacts(view, pool, headroom)).every(({ outcome }) => outcome === 'pass'))
    .map((pool) => `${arrayOf(view, pool).name} ${pool.name}`)
    .sort();
}

export const fitNote = (view: EstateView, rules: readonly RequestRule[]): string => {
  const pools = fitting(view, rules);
  return pools.length === 0
    ? 'No pool fits it as things stand.'
    : `${someOf(pools)} ${pools.length === 1 ? 'fits' : 'fit'} it.`;
};

const keysSaid = `Keys that are read: ${derivedKeys.map((key) => `${key} (${keyWords[key].says})`).join(', ')}; and what is declared.`;

/** What rules of a draft come to: which pools fit them, or what can be asked for. */
export function saysOfRules(view: EstateView, draft: Draft): string {
  const lines = Array.isArray(draft.rules) ? draft.rules.filter((one): one is string => typeof one === 'string') : [];
  const rules = lines.flatMap((line) => {
    const rule = readRule(line);
    return rule.ok ? [rule.value] : [];
  });
  return rules.length > 0 ? fitNote(view, rules) : keysSaid;
}
