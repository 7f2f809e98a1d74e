import { ownPools } from '../estate/own';
import type { EstateView } from '../estate/estate';
import type { Pool, ServiceClass, Volume } from '../estate/entities';
import { arrayOf } from '../estate/relations';
import { moveBar } from '../moving/fitness';
import { byName } from '../operation/draft';
import type { NextStep } from '../operation/next-step';
import { ruleText } from '../classes/rule-text';
import { QUARTER_HOUR, standsAtLast } from '../performance/looks';
import { takenOf } from '../pool/allotments';
import { formatBytes } from '../units/bytes';
import { headroomsOf } from '../performance/pool-headroom';
import {
  asksHeadroom,
  classOf,
  contradictions,
  judged,
  MAX_FACT_AGE_S,
  poolFacts,
  unmet,
  volumeFacts,
  type Facts,
  type Headrooms,
} from '../service/facts';
import { copiesOf } from '../copies/area';
import { isLocked } from '../copies/locked';
import { planOf } from '../protect/subject';
import { momentText, timeText } from '../units/date';
import { DAY, formatDuration, SECOND } from '../units/duration';
import { formatWait } from '../units/figures';
import { arrayName } from './each';
import { offer, type Check } from './finding';

const ofVolume = (view: EstateView, volume: Volume) =>
  ({ kind: 'volume', id: volume.id, name: `${arrayName(view, volume)} ${volume.name}` }) as const;

/** A move to a pool that fits the class, of its own array before others; without one it leaves the class. */
function moveMend(
  view: EstateView,
  volume: Volume,
  { rules }: ServiceClass,
  known: Map<string, Facts>,
  headroom: Headrooms | undefined,
): NextStep {
  const array = arrayName(view, volume);
  const factsOf = (pool: Pool): Facts => {
    let facts = known.get(pool.id);
    if (!facts) known.set(pool.id, (facts = poolFacts(view, pool, headroom)));
    return facts;
  };
  const fitting = ownPools(view)
    .filter((pool) => pool.id !== volume.pool)
    .filter((pool) => judged(view, rules, factsOf(pool)).every(({ outcome }) => outcome === 'pass'))
    .sort((a, b) => Number(b.array === volume.array) - Number(a.array === volume.array) || byName(a, b));
  const [best] = moveBar(view, volume) === null ? fitting : [];
  if (!best) return offer('Take it out of the class', 'class.lift', { array, volumes: [volume.name] });
  const to = arrayName(view, best);
  return offer(`Move it to ${to} ${best.name}`, 'storage.move', { array, volumes: [volume.name], to, pool: best.name });
}

/** How old the newest locked copy may be where the class asks for one. */
const LOCKED_WITHIN = DAY;

/** Has the plan lock what its first schedule makes; where there is none yet, one is attached. */
function lockMend(view: EstateView, volume: Volume): NextStep {
  const plan = planOf(view, volume);
  const [schedule] = plan?.schedules ?? [];
  if (!plan || !schedule)
    return offer('Attach a plan that locks', 'plan.attach', {
      array: arrayName(view, volume),
      volumes: [volume.name],
    });
  const params = { plan: plan.name, schedule: schedule.name, lockDays: Math.max(1, schedule.lockDays) };
  return offer(`Have ${plan.name} lock its copies`, 'plan.schedule', params);
}

/** Share of an allotment from which on it is nearly used. */
const NEARLY = 0.9;

export const classChecks: readonly Check[] = [
  {
    id: 'rule-no-longer-met',
    severity: 'warning',
    title: 'Volumes that left their class',
    *find(view) {
      if (view.table('classUse').size === 0) return;
      const asked = [...view.table('serviceClass').values()].some(({ rules }) => asksHeadroom(rules));
      const headroom = asked ? headroomsOf(view) : undefined;
      const pools = new Map<string, Facts>();
      for (const use of view.table('classUse').values()) {
        const volume = view.table('volume').get(use.volume)!;
        const pool = view.table('pool').get(volume.pool)!;
        let facts = pools.get(pool.id);
        if (!facts) pools.set(pool.id, (facts = poolFacts(view, pool, headroom)));
        const [rule] = volume.deletedAt === null ? unmet(view, volume, volumeFacts(view, volume, facts)) : [];
        const own = view.table('serviceClass').get(use.serviceClass)!;
        yield rule
          ? {
              subject: ofVolume(view, volume),
              says: `${volume.name} left its class ${own.name}: ${ruleText(rule)} is not met in ${pool.name}.`,
              advice: 'Move it to a pool that fits, loosen the rule, or take it out of the class.',
              mend: moveMend(view, volume, own, pools, headroom),
            }
          : null;
      }
    },
  },
  {
    id: 'fact-contradiction',
    severity: 'warning',
    title: 'Declared facts that readings contradict',
    *find(view) {
      if (view.table('declaredFact').size === 0) return;
      for (const pool of view.table('pool').values()) {
        const [wrong] = contradictions(view, pool);
        const array = arrayName(view, pool);
        yield wrong
          ? {
              subject: { kind: 'pool', id: pool.id, name: `${array} ${pool.name}` },
              says: `Of ${pool.name} it is said that ${wrong.key} is ${wrong.declared}; read is ${wrong.derived}.`,
              advice: 'What is read counts. Withdraw what is said.',
              mend: offer('Withdraw it', 'fact.withdraw', { array, pool: pool.name, key: wrong.key }),
            }
          : null;
      }
    },
  },
  {
    id: 'fact-stale',
    severity: 'warning',
    title: 'Facts of which nothing fresh is known',
    *find(view, { now }) {
      for (const pool of ownPools(view)) {
        const since = arrayOf(view, pool).silentSince;
        const array = arrayName(view, pool);
        yield since !== null && now - since > MAX_FACT_AGE_S * SECOND
          ? {
              subject: { kind: 'pool', id: pool.id, name: `${array} ${pool.name}` },
              says: `Protection, media, room and what else is read of ${pool.name} are unknown since ${momentText(since)}.`,
              advice: `Bring a controller of ${array} back; until then no rule counts as fulfilled there.`,
              mend: null,
            }
          : null;
      }
    },
  },
  {
    id: 'latency-over-goal',
    severity: 'warning',
    title: 'Volumes that miss the goal of their class',
    *find(view, context) {
      if (view.table('classUse').size === 0) return;
      for (const [id, looks] of context.load().looks) {
        const volume = view.table('volume').get(id);
        const own = volume && classOf(view, id);
        if (!volume || volume.deletedAt !== null || !own || own.goalMs === null) {
          yield null;
          continue;
        }
        const goal = own.goalMs / 1000;
        yield standsAtLast(
          looks.map(({ p95S }) => p95S > goal),
          QUARTER_HOUR,
        )
          ? {
              subject: ofVolume(view, volume),
              says: `For a quarter of an hour 95 of 100 I/Os of ${volume.name} took up to ${formatWait(Math.max(...looks.slice(-2 * QUARTER_HOUR).map(({ p95S }) => p95S)))}; the goal of ${own.name} is ${formatWait(goal)}.`,
              advice: 'See who else works with its resources, limit them, or move it.',
              mend: offer('Give the class another goal', 'class.configure', { class: own.name }),
            }
          : null;
      }
    },
  },
  {
    id: 'lock-none-for-class',
    severity: 'warning',
    title: 'Volumes whose class asks for locked copies',
    *find(view, { now }) {
      for (const { volume: id, serviceClass, since } of view.table('classUse').values()) {
        const own = view.table('serviceClass').get(serviceClass)!;
        const volume = view.table('volume').get(id)!;
        if (own.copies !== 'locked' || volume.deletedAt !== null) {
          yield null;
          continue;
        }
        const locked = copiesOf(view, id).filter((copy) => isLocked(view, copy, now));
        const newest = Math.max(since, ...locked.map(({ at }) => at));
        yield now - newest > LOCKED_WITHIN
          ? {
              subject: ofVolume(view, volume),
              says: `No copy of ${volume.name} ${locked.length > 0 ? `newer than ${timeText(newest)} UTC ` : ''}is locked, and its class ${own.name} asks for one of the last ${formatDuration(LOCKED_WITHIN)}.`,
              advice: 'Let the plan lock what it makes, or lock the newest copy.',
              mend: lockMend(view, volume),
            }
          : null;
      }
    },
  },
  {
    id: 'allotment-nearly-used',
    severity: 'note',
    title: 'Allotments that are nearly used',
    *find(view) {
      for (const row of view.table('allotment').values()) {
        const { bytes } = takenOf(view, row.id);
        yield bytes > NEARLY * row.bytes
          ? {
              subject: { kind: 'allotment', id: row.id, name: row.name },
              says: `${row.name} has ${formatBytes(Math.max(0, row.bytes - bytes))} left of ${formatBytes(row.bytes)}.`,
              advice: 'Raise it, or have something given back.',
              mend: offer('Raise it', 'allotment.configure', { allotment: row.name }),
            }
          : null;
      }
    },
  },
];
