import type { Fact, FactValue, Orders, RequestRule, RuleOutcome } from '../classes/rules';
import { innermost, outcomes } from '../classes/rules';
import { readValue, valueText } from '../classes/rule-text';
import type { Pool, ServiceClass, Volume } from '../estate/entities';
import { mediaClasses } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, siteOf } from '../estate/relations';
import type { PoolHeadroom } from '../performance/pool-headroom';
import { poolState, poolUsage, tiersOf } from '../pool/usage';
import { survivesOf } from '../raid/geometry';
import { TIB } from '../units/bytes';
import { arrayAnswers } from '../volume/health';

/** Keys that are read from the devices: no person's word counts against them. */
export const derivedKeys = [
  'media',
  'protection',
  'encryption',
  'reduction',
  'room',
  'headroom',
  'sector',
  'site',
  'copies',
] as const;
export type DerivedKey = (typeof derivedKeys)[number];
export const isDerived = (key: string): key is DerivedKey => (derivedKeys as readonly string[]).includes(key);

/** What derived keys mean, for those who write rules. */
export const keyWords: Readonly<Record<DerivedKey, { says: string; unit: string }>> = {
  media: { says: 'slowest class that holds its data', unit: '' },
  protection: { says: 'drives it survives at once', unit: 'drives' },
  encryption: { says: 'written encrypted', unit: '' },
  reduction: { says: 'what reduces its data', unit: '' },
  room: { says: 'left below its urgent mark', unit: 'TiB' },
  headroom: { says: 'left with one part failed, at the busiest hour', unit: 'IO/s' },
  sector: { says: 'smallest sector of its drives', unit: 'bytes' },
  site: { says: 'where its array stands', unit: '' },
  copies: { says: 'other arrays that take copies of it', unit: 'arrays' },
};

/** Whether rules ask for headroom, which takes the whole model of the load. */
export const asksHeadroom = (rules: readonly RequestRule[]): boolean =>
  rules.some((rule) => innermost(rule).key === 'headroom');

/** Facts after which nothing fresh is known, seconds. */
export const MAX_FACT_AGE_S = 3600;

export type Facts = Record<string, Fact>;
export type Headrooms = ReadonlyMap<string, PoolHeadroom>;

/**
 * What is read of a pool. Where its array does not answer nothing is known of it. `headroom` is worked out only where it is given, for it takes the
 * whole model of the load.
 */
export function derivedFacts(view: EstateView, pool: Pool, headroom?: Headrooms): Facts {
  const array = arrayOf(view, pool);
  if (!arrayAnswers(view, pool.array)) return {};
  const usage = poolUsage(view, pool);
  const tiers = tiersOf(usage);
  const of = (value: FactValue): Fact => ({ value, origin: 'derived', ageS: 0 });
  const facts: Facts = {
    encryption: of(pool.encryption),
    reduction: of([...(pool.compression ? ['compression'] : []), ...(pool.dedupe === 'off' ? [] : ['dedupe'])]),
    room: of(Math.round((((usage.size * pool.urgent) / 100 - usage.usedBytes) / TIB) * 100) / 100),
    site: of(siteOf(view, array).name),
    copies: of(copiesOf(view, pool)),
  };
  const left = headroom?.get(pool.id);
  if (left) facts.headroom = of(Math.floor(left.limit - left.used));
  const slowest = tiers.at(-1);
  if (slowest) facts.media = of(slowest.media);
  if (usage.groups.length > 0 && poolState(view, pool.id) !== 'lost')
    facts.protection = of(
      Math.min(...usage.groups.map(({ group }) => Math.max(0, survivesOf(group) - failedIn(view, group)))),
    );
  const sectors = usage.groups.flatMap(({ group }) =>
    group.drives.flatMap((id) => view.table('drive').get(id)?.sector ?? []),
  );
  if (sectors.length > 0) facts.sector = of(Math.min(...sectors));
  return facts;
}

const failedIn = (view: EstateView, group: { drives: readonly string[] }): number =>
  group.drives.filter((id) => {
    const drive = view.table('drive').get(id);
    return !drive || drive.state === 'failed' || drive.state === 'rebuilding';
  }).length;

/** Other arrays that take copies of some volume of a pool. */
function copiesOf(view: EstateView, pool: Pool): number {
  const arrays = new Set<string>();
  for (const row of view.table('replication').values())
    row.primaries.forEach((id, k) => {
      const [from, to] = [view.table('volume').get(id), view.table('volume').get(row.secondaries[k] ?? '')];
      if (from?.pool === pool.id && to && to.array !== pool.array) arrays.add(to.array);
    });
  return arrays.size;
}

const declaredOn = (view: EstateView, by: 'pool' | 'volume', id: string) => view.table('declaredFact').by(by, id);

/** What is known of a pool: what is read wins over what is declared. */
export function poolFacts(view: EstateView, pool: Pool, headroom?: Headrooms): Facts {
  const facts: Facts = {};
  for (const { key, value } of declaredOn(view, 'pool', pool.id))
    facts[key] = { value: readValue(value), origin: 'declared' };
  return { ...facts, ...derivedFacts(view, pool, headroom) };
}

/** What is known of a volume: what its pool has, but for what is declared of it by itself. */
export function volumeFacts(view: EstateView, volume: Volume, ofPool?: Facts): Facts {
  const facts = { ...(ofPool ?? poolFacts(view, view.table('pool').get(volume.pool)!)) };
  for (const { key, value } of declaredOn(view, 'volume', volume.id))
    if (!isDerived(key)) facts[key] = { value: readValue(value), origin: 'declared' };
  return facts;
}

/** Declared facts that say something else than what is read. */
export function contradictions(view: EstateView, pool: Pool): { key: string; declared: string; derived: string }[] {
  const read = derivedFacts(view, pool);
  return declaredOn(view, 'pool', pool.id).flatMap(({ key, value }) => {
    const fact = read[key];
    if (!fact || fact.value === null) return [];
    const [rule] = outcomes([{ op: 'equals', key, value: readValue(value) }], read);
    return rule === 'pass' ? [] : [{ key, declared: value, derived: valueText(fact.value) }];
  });
}

/** Words of every key that have an order: those of media are known, others are set by people. */
export const ordersOf = (view: EstateView): Orders => ({
  media: [...mediaClasses].reverse(),
  ...Object.fromEntries([...view.table('factOrder').values()].map(({ name, words }) => [name, words])),
});

/** How facts answer rules, each beside its rule. */
export const judged = (
  view: EstateView,
  rules: readonly RequestRule[],
  facts: Facts,
): { rule: RequestRule; outcome: RuleOutcome; fact: Fact | null }[] =>
  outcomes(rules, facts, ordersOf(view), MAX_FACT_AGE_S).map((outcome, k) => ({
    rule: rules[k]!,
    outcome,
    fact: facts[innermost(rules[k]!).key] ?? null,
  }));

export const classOf = (view: EstateView, volume: string): ServiceClass | undefined => {
  const [use] = view.table('classUse').by('volume', volume);
  return use && view.table('serviceClass').get(use.serviceClass);
};

/** Rules of its class that a volume no longer meets. */
export const unmet = (view: EstateView, volume: Volume, facts = volumeFacts(view, volume)): RequestRule[] => {
  const own = classOf(view, volume.id);
  return own ? judged(view, own.rules, facts).flatMap(({ rule, outcome }) => (outcome === 'pass' ? [] : [rule])) : [];
};
