import { notParsed, parsed, type ParseFailure, type Parsed } from '../units/parsed';

/** What is known of a pool under one key: a number, a word, yes or no, or a set of words. */
export type FactValue = number | string | boolean | readonly string[];

export interface Fact {
  value: FactValue | null;
  /** Read from the devices, or a person's word. */
  origin: 'derived' | 'declared';
  /** Seconds since it was read. */
  ageS?: number | null;
}

export type RequestRule =
  | { op: 'equals'; key: string; value: FactValue }
  | { op: 'atLeast'; key: string; value: FactValue }
  | { op: 'range'; key: string; min?: number | string | null; max?: number | string | null }
  | { op: 'in'; key: string; values: readonly (number | string | boolean)[] }
  | { op: 'not'; rule: RequestRule };

/** `unknown`: nothing fresh is known; `type`: what is known cannot be compared with what is asked. */
export type RuleOutcome = 'pass' | 'fail' | 'unknown' | 'type';

/** Words of a key from low to high. */
export type Orders = Readonly<Record<string, readonly (string | number)[]>>;

const refuse = (reason: 'rule-operator' | 'rule-range-empty' | 'rule-range-inverted', message: string): ParseFailure =>
  notParsed(reason, message);

/** The rule that compares something: itself, or the one inside. */
export const innermost = (rule: RequestRule): Exclude<RequestRule, { op: 'not' }> =>
  rule.op === 'not' ? innermost(rule.rule) : rule;

/** Why a rule cannot be asked, or null. */
export function ruleFailure(rule: RequestRule): ParseFailure | null {
  if (rule.op === 'not') return ruleFailure(rule.rule);
  if (!['equals', 'atLeast', 'range', 'in'].includes(rule.op))
    return refuse('rule-operator', `Unknown comparison ${String((rule as { op: unknown }).op)}.`);
  if (rule.op !== 'range') return null;
  const [min, max] = [rule.min ?? null, rule.max ?? null];
  if (min === null && max === null) return refuse('rule-range-empty', 'Give a lower or an upper end.');
  if (typeof min === 'number' && typeof max === 'number' && min > max)
    return refuse('rule-range-inverted', `${min} is above ${max}.`);
  return null;
}

const isSet = (value: unknown): value is readonly string[] => Array.isArray(value);

/** Position among the words of its key; without an order a number is its own rank. Null has none. */
function rankOf(value: FactValue, order: readonly (string | number)[] | undefined): number | null {
  if (isSet(value) || typeof value === 'boolean') return null;
  if (order) {
    const at = order.indexOf(value);
    return at < 0 ? null : at;
  }
  return typeof value === 'number' ? value : null;
}

function equals(fact: FactValue, wanted: FactValue): RuleOutcome {
  if (isSet(fact) !== isSet(wanted)) return 'type';
  if (isSet(fact) && isSet(wanted)) {
    const [a, b] = [new Set(fact), new Set(wanted)];
    return a.size === b.size && [...a].every((one) => b.has(one)) ? 'pass' : 'fail';
  }
  if (typeof fact !== typeof wanted) return 'type';
  return fact === wanted ? 'pass' : 'fail';
}

function judge(
  rule: RequestRule,
  facts: Readonly<Record<string, Fact | null | undefined>>,
  orders: Orders,
  maxFactAgeS: number,
): RuleOutcome {
  if (rule.op === 'not') {
    const inner = judge(rule.rule, facts, orders, maxFactAgeS);
    if (inner === 'pass') return 'fail';
    return inner === 'fail' ? 'pass' : inner;
  }
  const fact = Object.hasOwn(facts, rule.key) ? facts[rule.key] : undefined;
  const value = fact?.value ?? null;
  if (!fact || value === null || (fact.origin === 'derived' && (fact.ageS ?? 0) > maxFactAgeS)) return 'unknown';
  const order = Object.hasOwn(orders, rule.key) ? orders[rule.key] : undefined;
  if (rule.op === 'equals') return equals(value, rule.value);
  if (rule.op === 'in') {
    const values: readonly unknown[] = rule.values;
    return (isSet(value) ? value.some((one) => values.includes(one)) : values.includes(value)) ? 'pass' : 'fail';
  }
  const rank = rankOf(value, order);
  if (rule.op === 'atLeast') {
    const wanted = rankOf(rule.value, order);
    if (rank === null || wanted === null) return 'type';
    return rank >= wanted ? 'pass' : 'fail';
  }
  const [min, max] = [rule.min ?? null, rule.max ?? null];
  const low = min === null ? -Infinity : rankOf(min, order);
  const high = max === null ? Infinity : rankOf(max, order);
  if (rank === null || low === null || high === null) return 'type';
  return low <= rank && rank <= high ? 'pass' : 'fail';
}

/** Judges sound rules; without the check of every rule that `matchRules` makes first. */
export const outcomes = (
  rules: readonly RequestRule[],
  facts: Readonly<Record<string, Fact | null | undefined>>,
  orders: Orders = {},
  maxFactAgeS = Infinity,
): RuleOutcome[] => rules.map((rule) => judge(rule, facts, orders, maxFactAgeS));

/**
 * Whether facts are what rules ask for, rule by rule (move.md E). `unknown` comes first: the fact is missing, null, or was read too long ago.
 * Reasons, before anything is judged: rule-operator, rule-range-empty, rule-range-inverted.
 */
export function matchRules({
  facts,
  rules,
  orders = {},
  maxFactAgeS,
}: {
  facts: Readonly<Record<string, Fact | null | undefined>>;
  rules: readonly RequestRule[];
  orders?: Orders;
  maxFactAgeS?: number | null;
}): Parsed<{ matches: boolean; results: { key: string; outcome: RuleOutcome }[] }> {
  for (const rule of rules) {
    const failure = ruleFailure(rule);
    if (failure) return failure;
  }
  const results = outcomes(rules, facts, orders, maxFactAgeS ?? Infinity).map((outcome, k) => ({
    key: innermost(rules[k]!).key,
    outcome,
  }));
  return parsed({ matches: results.every(({ outcome }) => outcome === 'pass'), results });
}
