import { ruleText, valueText } from '../classes/rule-text';
import { innermost, type Fact, type RequestRule, type RuleOutcome } from '../classes/rules';

/** How a fact answers a rule, in a person's words: `place is Molenhaven, wanted place one of Nordkai`. */
export function outcomeWords({
  rule,
  outcome,
  fact,
}: {
  rule: RequestRule;
  outcome: RuleOutcome;
  fact: Fact | null;
}): string {
  const { key } = innermost(rule);
  if (outcome === 'unknown') return `nothing is known of ${key}, wanted ${ruleText(rule)}`;
  const is = fact?.value === null || fact === null ? 'not known' : valueText(fact.value) || 'nothing';
  if (outcome === 'type') return `${key} is ${is}, which cannot be compared with ${ruleText(rule)}`;
  return `${key} is ${is}, wanted ${ruleText(rule)}`;
}
