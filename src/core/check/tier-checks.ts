import type { EstateView } from '../estate/estate';
import type { Pool } from '../estate/entities';
import { policyOf, poolBounds } from '../pool/tier-policy';
import { poolUsage, tiersOf } from '../pool/usage';
import { mediaFigures } from '../raid/media';
import { HYSTERESIS } from '../tier/exchange';
import { heatMoves, heatPieces } from '../tiering/heat';
import { movesOf } from '../tiering/job';
import { boundsWords } from '../tiering/policy-fields';
import { arrayName } from './each';
import { offer, type Check } from './finding';

/** Share of the fastest class that may be cold. */
const COLD = 0.3;

const ofPool = (view: EstateView, pool: Pool) =>
  ({ kind: 'pool', id: pool.id, name: `${arrayName(view, pool)} ${pool.name}` }) as const;

export const tierChecks: readonly Check[] = [
  {
    id: 'tier-policy-infeasible',
    severity: 'error',
    title: 'Tier policies that cannot be met',
    *find(view) {
      if (view.table('tierUse').size === 0) return;
      for (const pool of view.table('pool').values()) {
        const under = view
          .table('volume')
          .by('pool', pool.id)
          .flatMap(({ id, deletedAt }) => (deletedAt === null ? (policyOf(view, id) ?? []) : []));
        const { refusal } = under.length > 0 ? poolBounds(view, pool) : { refusal: null };
        yield (
          refusal && {
            subject: ofPool(view, pool),
            says: boundsWords(view, pool, refusal),
            advice: 'Widen the bounds, take a volume out of the policy, or add a group of that class.',
            mend: offer('Widen its bounds', 'tier-policy.configure', {
              array: arrayName(view, pool),
              policy: (under.find(({ name }) => 'policy' in refusal && name === refusal.policy) ?? under[0]!).name,
            }),
          }
        );
      }
    },
  },
  {
    id: 'tier-fast-cold',
    severity: 'note',
    title: 'Fast media that hold cold data',
    *find(view) {
      for (const pool of view.table('pool').values()) {
        const tiers = tiersOf(poolUsage(view, pool));
        if (tiers.length < 2) {
          yield null;
          continue;
        }
        let [cold, all] = [0, 0];
        for (const { tier, count, heat } of heatPieces(view, pool)) {
          if (tier !== 0) continue;
          all += count;
          if (heat < HYSTERESIS.epsilon) cold += count;
        }
        const array = arrayName(view, pool);
        yield all > 0 && cold > COLD * all
          ? {
              subject: ofPool(view, pool),
              says: `${Math.floor((cold / all) * 100)} % of what lies on ${mediaFigures[tiers[0]!.media].label} in ${pool.name} is cold: nobody asks for it.`,
              advice: 'Bound how much of such volumes may lie there, and place the pool by heat.',
              mend:
                heatMoves(view, pool) > 0 && !movesOf(view, pool)
                  ? offer('Place it by heat', 'pool.place-by-heat', { array, name: pool.name })
                  : offer('Bound what lies there', 'tier-policy.create', { array }),
            }
          : null;
      }
    },
  },
];
