import { ownPools } from '../estate/own';
import type { RequestRule, RuleOutcome } from '../classes/rules';
import { innermost } from '../classes/rules';
import { ruleText, valueText } from '../classes/rule-text';
import type { Host, Pool } from '../estate/entities';
import { waysTo } from '../attach/ways';
import type { EstateView } from '../estate/estate';
import { arrayOf, siteOf } from '../estate/relations';
import { promisedTo } from '../volume/promised';
import { byName } from '../operation/draft';
import { rankPairs } from '../place/pairs';
import { rankCandidates, type Candidate, type Exclusion, type PlaceRoom, type PlaceTerm } from '../place/rank';
import { poolState, poolUsage } from '../pool/usage';
import { someOf } from '../units/counted';
import { arrayAnswers } from '../volume/health';
import type { Headrooms } from './facts';
import { judged, poolFacts, type Facts } from './facts';
import { outcomeWords } from './words';

/** What somebody asks a place for. Bytes; counted I/O a second (see `COUNTED_IO`). */
export interface PlaceAsked {
  bytes: number;
  iops: number;
  rules: readonly RequestRule[];
  /** With a copy at an array that its own is introduced to. */
  replica: boolean;
  /** Hosts that are to reach it; nobody without. */
  hosts?: readonly Host[];
}

/** How one pool answers a request. */
export interface PoolAnswer {
  id: string;
  name: string;
  array: string;
  site: string;
  facts: { key: string; value: string; origin: 'derived' | 'declared' }[];
  /** By rule, in the order of the rules. */
  outcomes: RuleOutcome[];
  /** Room left up to the urgent mark and I/O a second left with one part failed, both after it is given. */
  roomBytes: number;
  iopsLeft: number;
  /** Where it is short first. */
  shortAt: string;
  /** From 0 to 100 with its terms, where it fits. */
  score: number | null;
  terms: Partial<Record<PlaceTerm, number>>;
  /** The pool that takes the copy. */
  replica: string | null;
  reasons: Exclusion[];
  /** Why not, in words. */
  against: string[];
  /** The same in two words: the one thing, or how many there are. */
  short: string;
}

export interface PlaceAnswer {
  /** The best first; those that do not fit by the fewest reasons. */
  pools: PoolAnswer[];
  /** By rule: how many pools it leaves out, and how many that nothing else leaves out. */
  rules: { text: string; leavesOut: number; alone: number }[];
  /** The best and why, the second best and its weakest point. */
  says: string;
}

const termWords: Record<PlaceTerm, string> = {
  capacity: 'its room',
  performance: 'what it can still serve',
  replicaCapacity: 'the room for its copy',
  replicaPerformance: 'what the pool of its copy can still serve',
  fit: 'that room and service do not go together',
  runway: 'how long its room lasts',
  preference: 'what is preferred',
};

export const reasonWords: Record<Exclusion, string> = {
  rules: 'a rule',
  capacity: 'no room',
  performance: 'cannot serve as much with one part failed',
  allotment: 'not within the allotment',
  'replica-missing': 'no array to copy to',
  'replica-capacity': 'no room for its copy',
  'replica-performance': 'the pool of its copy cannot serve as much',
};

/** What may be asked of a pool: room to its urgent mark, and service in the worst single-failure state. */
export function roomOf(view: EstateView, pool: Pool, headroom: Headrooms): PlaceRoom {
  const usage = poolUsage(view, pool);
  const left = headroom.get(pool.id);
  return {
    limitBytes: Math.floor((usage.size * pool.urgent) / 100),
    // What moves will still take there is as good as taken.
    usedBytes: usage.usedBytes + promisedTo(view, pool),
    perfLimit: left?.limit ?? 0,
    perfUsed: left?.used ?? 0,
  };
}

/** Why hosts could not reach a pool, null where all of them could. */
export function farFrom(view: EstateView, hosts: readonly Host[]): (pool: Pool) => [string] | null {
  const known = new Map<string, [string] | null>();
  return (pool) => {
    let found = known.get(pool.array);
    if (found === undefined) {
      const array = arrayOf(view, pool);
      const without = hosts.filter((host) => waysTo(view, host, array).length === 0).map(({ name }) => name);
      found = without.length === 0 ? null : [`${someOf(without)} ${without.length === 1 ? 'does' : 'do'} not reach it`];
      known.set(pool.array, found);
    }
    return found;
  };
}

/**
 * Where something fits best of all pools, or of some, and why the others do not fit; a copy may lie in any pool. `growth` in bytes a day by pool.
 */
export function placesFor(
  view: EstateView,
  asked: PlaceAsked,
  headroom: Headrooms,
  growth: ReadonlyMap<string, number> = new Map(),
  pools: readonly Pool[] = ownPools(view),
): PlaceAnswer {
  const facts = new Map(pools.map((pool) => [pool.id, poolFacts(view, pool, headroom)]));
  const answers = new Map(pools.map((pool) => [pool.id, judged(view, asked.rules, facts.get(pool.id)!)]));
  const whole = (pool: Pool) => arrayAnswers(view, pool.array) && poolState(view, pool.id) !== 'lost';
  const far = farFrom(view, asked.hosts ?? []);
  const candidates = pools.map((pool): Omit<Candidate, 'replica'> & { array: string } => ({
    id: pool.id,
    array: pool.array,
    ...roomOf(view, pool, headroom),
    matches: whole(pool) && far(pool) === null && answers.get(pool.id)!.every(({ outcome }) => outcome === 'pass'),
    growthBytesPerDay: Math.max(0, growth.get(pool.id) ?? 0),
  }));
  const request = { bytes: asked.bytes, perfUnits: asked.iops };
  const introduced = new Set([...view.table('partner').values()].map(({ array, peer }) => `${array} ${peer}`));
  const ranking = asked.replica
    ? rankPairs({
        request: { ...request, replicaPerfUnits: asked.iops * 0.3 },
        candidates,
        replicas: ownPools(view)
          .filter(whole)
          .map((pool) => ({ id: pool.id, array: pool.array, ...roomOf(view, pool, headroom) })),
        peered: (from, to) => introduced.has(`${from} ${to}`) && introduced.has(`${to} ${from}`),
      })
    : rankCandidates({ request, candidates });
  const name = (id: string) => {
    const pool = view.table('pool').get(id)!;
    return `${arrayOf(view, pool).name} ${pool.name}`;
  };
  const answerOf = (id: string, more: Pick<PoolAnswer, 'score' | 'terms' | 'replica' | 'reasons'>): PoolAnswer => {
    const pool = view.table('pool').get(id)!;
    const array = arrayOf(view, pool);
    const own = candidates.find((one) => one.id === id)!;
    const lacks = answers.get(id)!.filter(({ outcome }) => outcome !== 'pass');
    const against: [short: string, words: string][] = [
      ...(whole(pool) ? [] : [['silent', 'it does not answer'] as [string, string]]),
      ...(far(pool) ?? []).map((words): [string, string] => ['not reached', words]),
      ...lacks.map((one): [string, string] => [`only ${innermost(one.rule).key}`, outcomeWords(one)]),
      ...more.reasons
        .filter((reason) => reason !== 'rules')
        .map((reason): [string, string] => ['1 against', reasonWords[reason]]),
    ];
    return {
      id,
      name: pool.name,
      array: array.name,
      site: siteOf(view, array).name,
      facts: factRows(facts.get(id)!),
      outcomes: answers.get(id)!.map(({ outcome }) => outcome),
      roomBytes: own.limitBytes - own.usedBytes - asked.bytes,
      iopsLeft: own.perfLimit - own.perfUsed - asked.iops,
      shortAt: headroom.get(id) ? `${headroom.get(id)!.at}, ${headroom.get(id)!.state}` : '',
      ...more,
      against: against.map(([, words]) => words),
      short: against.length === 1 ? against[0]![0] : `${against.length} against`,
    };
  };
  const ranked = ranking.ranked.map((one) =>
    answerOf(one.id, {
      score: one.score,
      terms: one.terms,
      replica: 'replica' in one ? name(one.replica as string) : null,
      reasons: [],
    }),
  );
  const excluded = ranking.excluded
    .map(({ id, reasons }) => answerOf(id, { score: null, terms: {}, replica: null, reasons }))
    .sort((a, b) => a.against.length - b.against.length || byName(a, b));
  return {
    pools: [...ranked, ...excluded],
    rules: asked.rules.map((rule, k) => {
      const out = pools.filter(({ id }) => answers.get(id)![k]!.outcome !== 'pass');
      const alone = out.filter(({ id }) => {
        const row = excluded.find((one) => one.id === id);
        return row?.against.length === 1;
      });
      return { text: ruleText(rule), leavesOut: out.length, alone: alone.length };
    }),
    says: saysOf(ranked, excluded, asked.rules),
  };
}

export const factRows = (facts: Facts): PoolAnswer['facts'] =>
  Object.entries(facts).flatMap(([key, { value, origin }]) =>
    value === null ? [] : [{ key, value: valueText(value) || 'none', origin }],
  );

/** What speaks least for a pool that fits, in words. */
export const weakest = (one: Pick<PoolAnswer, 'terms'>): string => {
  const terms = Object.entries(one.terms) as [PlaceTerm, number][];
  terms.sort((a, b) => a[1] - b[1]);
  return termWords[terms[0]![0]];
};

function saysOf(ranked: readonly PoolAnswer[], excluded: readonly PoolAnswer[], rules: readonly RequestRule[]): string {
  const [first, second] = ranked;
  if (!first) {
    const near = excluded[0];
    if (!near) return 'There is no pool.';
    const only =
      near.against.length === 1
        ? `only this speaks against ${near.array} ${near.name}: `
        : `nearest is ${near.array} ${near.name}: `;
    const loosen = rules
      .map((rule) => innermost(rule).key)
      .find((key) => near.against.some((one) => one.includes(key)));
    return `No pool fits; ${only}${near.against.join('; ')}.${loosen ? ` Loosen ${loosen}, or ask for less.` : ''}`;
  }
  return second
    ? `${first.array} ${first.name} first; its weakest point is ${weakest(first)}. Second best ${second.array} ${second.name}: ${weakest(second)} is weakest.`
    : `${first.array} ${first.name} alone fits; its weakest point is ${weakest(first)}.`;
}
