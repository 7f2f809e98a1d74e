import type { Pool } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { poolOf } from '../estate/relations';
import { DELIVERY_DAYS, SUBSCRIPTION_NOTICE, UNBALANCED_POINTS } from '../pool/choices';
import { markOf, type FillMark } from '../pool/marks';
import { rebalanceMoves, spreadOf } from '../pool/move';
import { poolExposure, poolUsage, tiersOf, type PoolUsage } from '../pool/usage';
import { survivesOf } from '../raid/geometry';
import { forecast } from '../space/forecast';
import { dayOf } from '../space/history';
import { brokenSums, ratios } from '../space/waterfall';
import { formatBytes, percentUsed } from '../units/bytes';
import { dateText } from '../units/date';
import { DAY } from '../units/duration';
import { arrayName, each, type Look } from './each';
import { offer, type Check, type CheckContext, type Found, type Severity } from './finding';

/** Share of a pool's size lost to rounding that is told. */
const SLACK_SHARE = 0.01;
/** A reduction below this share of what was planned is told. */
const PLAN_SHARE = 0.8;
const WARN_WITHIN_DAYS = 90;
const STEP_WITHIN_DAYS = 30;

const named = (view: EstateView, pool: Pool) => ({ array: arrayName(view, pool), name: pool.name });

const eachPool = (
  id: string,
  severity: Severity,
  title: string,
  look: (view: EstateView, pool: Pool, usage: PoolUsage, context: CheckContext) => ReturnType<Look<Pool>>,
): Check =>
  each('pool', (_view, pool) => pool.name)(id, severity, title, (view, pool, context) =>
    pool.direct ? null : look(view, pool, poolUsage(view, pool), context),
  );

const filled = (view: EstateView, pool: Pool, usage: PoolUsage): Omit<Found, 'subject'> => ({
  says: `Pool ${pool.name} is ${percentUsed(usage.used, usage.capacity)} % full; ${formatBytes(usage.availableBytes)} left.`,
  advice: 'Add a group, reclaim freed blocks, or move volumes away.',
  mend: offer('Extend the pool', 'pool.extend', named(view, pool)),
});

const mark = (id: string, severity: Severity, title: string, wanted: FillMark): Check =>
  eachPool(id, severity, title, (view, pool, usage) =>
    usage.available > 0 && markOf(pool, usage.used, usage.capacity, pool.mark) === wanted
      ? filled(view, pool, usage)
      : null,
  );

const runway = (pool: Pool, usage: PoolUsage, context: CheckContext, percent: number) => {
  const answer = forecast(context.series(pool.id), usage.size, Math.floor((usage.size * percent) / 100));
  return typeof answer === 'string' ? null : answer;
};

export const poolChecks: Check[] = [
  mark('pool-notice', 'note', 'Pools past their notice', 'notice'),
  mark('pool-warning', 'warning', 'Pools past the middle of their marks', 'warning'),
  mark('pool-critical', 'error', 'Pools past their urgent mark', 'urgent'),
  eachPool('pool-exhausted', 'error', 'Full pools', (view, pool, usage) =>
    usage.capacity > 0 && usage.available === 0
      ? {
          says: `Pool ${pool.name} is full: ${pool.whenFull === 'stop-thin-writes' ? 'thin volumes take no more writes' : 'writes that need new extents fail'}.`,
          advice: 'Free or add space at once.',
          mend: offer('Extend the pool', 'pool.extend', named(view, pool)),
        }
      : null,
  ),
  eachPool('pool-oversubscribed', 'warning', 'Pools that promise much', (view, pool, usage) =>
    usage.promised > SUBSCRIPTION_NOTICE * usage.size
      ? {
          says: `${pool.name} promises ${percentUsed(usage.promised, usage.size)} % of its size.`,
          advice: 'Watch it, extend it, or set a limit to what it may promise.',
          mend: offer('Set a limit', 'pool.configure', {
            ...named(view, pool),
            subscriptionLimit: String(percentUsed(usage.promised, usage.size)),
          }),
        }
      : null,
  ),
  eachPool('pool-exposure', 'warning', 'Pools that fill before drives arrive', (view, pool, usage, context) => {
    const exposed = poolExposure(view, pool, usage);
    if (exposed === 0) return null;
    const answer = runway(pool, usage, context, 100);
    if (answer?.days == null || answer.days >= DELIVERY_DAYS) return null;
    const when =
      answer.latest === null
        ? 'may be full before drives arrive, though it is not certain to grow'
        : `is full in ${answer.days} ${answer.days === 1 ? 'day' : 'days'}; drives take ${DELIVERY_DAYS} to arrive`;
    return {
      says: `${pool.name} ${when}. ${formatBytes(exposed, 'used')} of what it promises would not fit.`,
      advice: 'Order now, and free what can be freed.',
      mend: offer('Extend the pool', 'pool.extend', named(view, pool)),
    };
  }),
  eachPool('pool-mixed-redundancy', 'warning', 'Groups of unlike strength', (_view, pool, usage) => {
    for (const tier of tiersOf(usage)) {
      const survives = tier.groups.map(({ group }) => ({ name: group.name, survives: survivesOf(group) }));
      const weakest = survives.reduce<(typeof survives)[number] | undefined>(
        (a, b) => (a && a.survives <= b.survives ? a : b),
        undefined,
      );
      if (weakest && survives.some((one) => one.survives !== weakest.survives))
        return {
          says: `${pool.name} is as safe as ${weakest.name}, which survives ${weakest.survives} lost ${weakest.survives === 1 ? 'drive' : 'drives'}.`,
          advice: 'Align the levels of its groups.',
          mend: null,
        };
    }
    return null;
  }),
  eachPool('pool-imbalanced', 'note', 'Unevenly filled pools', (view, pool) => {
    const spread = spreadOf(view, pool);
    return spread > UNBALANCED_POINTS
      ? {
          says: `Groups of ${pool.name} are unevenly filled: ${Math.round(spread)} points between the fullest and the emptiest.`,
          advice: `Rebalance it; ${formatBytes(rebalanceMoves(view, pool) * pool.extentSize, 'used')} move.`,
          mend: offer('Rebalance', 'pool.rebalance', named(view, pool)),
        }
      : null;
  }),
  eachPool('pool-slack-high', 'note', 'Room lost to rounding', (_view, pool, usage) =>
    usage.slack > SLACK_SHARE * usage.size
      ? {
          says: `${formatBytes(usage.slack)} of ${pool.name} are lost to rounding: groups do not divide into whole extents.`,
          advice: 'Smaller extents lose less; they are chosen when a pool is made.',
          mend: null,
        }
      : null,
  ),
  {
    id: 'pool-evacuation-blocked',
    severity: 'error',
    title: 'Groups that cannot be emptied',
    *find(view) {
      for (const group of view.table('raidGroup').values()) {
        const pool = group.draining && group.pool ? poolOf(view, group) : undefined;
        if (!pool) continue;
        const usage = poolUsage(view, pool);
        const missing = view.occupancy.used(group.id) - usage.available;
        if (missing > 0)
          yield {
            subject: { kind: 'raidGroup', id: group.id, name: `${arrayName(view, group)} ${group.name}` },
            says: `${group.name} cannot be emptied: ${missing} extents find no room in ${pool.name}.`,
            advice: 'Extend the pool, or stop emptying the group.',
            mend: offer('Extend the pool', 'pool.extend', named(view, pool)),
          };
      }
    },
  },
  eachPool('pool-single-group', 'note', 'Pools of one group', (view, pool, usage) =>
    usage.groups.length === 1
      ? {
          says: `${pool.name} has one group: it cannot be emptied into others.`,
          advice: 'Add a second group before work on the first is due.',
          mend: offer('Extend the pool', 'pool.extend', named(view, pool)),
        }
      : null,
  ),
  eachPool('volume-thin-unprotected', 'warning', 'Thin volumes nobody watches', (view, pool) => {
    const thin = view
      .table('volume')
      .by('pool', pool.id)
      .filter((volume) => volume.provisioning === 'thin').length;
    return thin > 0 && pool.alertTo === ''
      ? {
          says: `Nobody is told when ${pool.name} fills, on which ${thin} thin ${thin === 1 ? 'volume rests' : 'volumes rest'}.`,
          advice: 'Say who is told.',
          mend: offer('Say who is told', 'pool.configure', named(view, pool)),
        }
      : null;
  }),
  eachPool('reduction-below-plan', 'warning', 'Reduction below plan', (view, pool, _usage, context) => {
    const { reduction } = ratios(context.waterfall(pool.id).total);
    return pool.plannedReduction !== null && reduction !== null && reduction < pool.plannedReduction * PLAN_SHARE
      ? {
          says: `${pool.name} reduces ${reduction.toFixed(2)}:1, planned were ${pool.plannedReduction}:1.`,
          advice: 'Plan its room anew, or reduce what is not reduced yet.',
          mend: offer('Reduce it now', 'pool.reduce', named(view, pool)),
        }
      : null;
  }),
  eachPool('forecast-warning', 'warning', 'Pools that fill soon', (view, pool, usage, context) => {
    const answer = runway(pool, usage, context, pool.urgent);
    return answer?.days != null && answer.why === 'grows' && answer.low > 0 && answer.days < WARN_WITHIN_DAYS
      ? {
          says: `${pool.name} reaches ${pool.urgent} % in ${answer.days} ${answer.days === 1 ? 'day' : 'days'}.`,
          advice: 'Plan for its growth.',
          mend: offer('Extend the pool', 'pool.extend', named(view, pool)),
        }
      : null;
  }),
  eachPool('forecast-step', 'note', 'Sudden growth', (_view, pool, usage, context) => {
    const answer = runway(pool, usage, context, pool.urgent);
    const step = answer?.steps.filter((one) => one.day >= dayOf(context.now) - STEP_WITHIN_DAYS).at(-1);
    return step
      ? {
          says: `${pool.name} jumped by ${formatBytes(Math.abs(step.bytes))} on ${dateText(step.day * DAY)}.`,
          advice: 'Find out why; the forecast leaves the jump out.',
          mend: null,
        }
      : null;
  }),
  eachPool('capacity-sum-broken', 'error', 'Sums that do not add up', (view, pool, _usage, context) => {
    const [wrong] = brokenSums(view, context.waterfall(pool.id));
    return wrong
      ? {
          says: `${wrong.says} of ${pool.name} do not add up by ${formatBytes(wrong.by)}.`,
          advice: 'Report a defect.',
          mend: null,
        }
      : null;
  }),
];
