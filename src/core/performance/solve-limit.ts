import { bisected } from '../units/bisect';
import { formatWait } from '../units/figures';
import type { CourseState } from './course';
import { oneSlot, percentileOf, without } from './one-slot';
import type { LoadModel } from './shape';

export type LimitProposal =
  | {
      ok: true;
      /** I/O a second, rounded down to two figures. */
      iops: number;
      /** What the neighbour then waits, and what it waits now; seconds. */
      p95S: number;
      nowS: number;
      /** What the limited one asks at that moment, and the share of it that is held back. */
      asked: number;
      heldBack: number;
    }
  | { ok: false; code: 'qos-target-missed-without-x'; p95S: number; message: string }
  | { ok: false; code: 'qos-target-met'; p95S: number; message: string };

/** A limit of so many I/O a second on one volume, beside those there are. */
export const limitedAt = (model: LoadModel, volume: number, iops: number, burst = 0): LoadModel => ({
  ...model,
  limits: [
    ...model.limits,
    {
      id: 'proposed',
      name: 'proposed',
      shared: false,
      weight: 1,
      burst,
      fromHour: null,
      untilHour: null,
      together: null,
      members: [{ volume, iops, floor: null }],
    },
  ],
});

/** Two significant figures, downwards. */
export function roundedDown(value: number): number {
  if (value < 10) return Math.floor(value);
  const unit = 10 ** (Math.floor(Math.log10(value)) - 1);
  return Math.floor(value / unit) * unit;
}

/**
 * The largest limit on X with which the 95th percentile of Y keeps within the target at a moment: `limitForNeighbour` of load.md J, asked of the
 * whole model instead of one queue. Refused where even without X the target is missed.
 */
export function solveLimit(
  model: LoadModel,
  slot: number,
  { x, y, targetS, percentile = 95 }: { x: string; y: string; targetS: number; percentile?: number },
  state?: CourseState,
): LimitProposal | null {
  const [X, Y] = [x, y].map((id) => model.volumes.findIndex((one) => one.id === id)) as [number, number];
  if (X < 0 || Y < 0 || X === Y) return null;
  const now = oneSlot(model, slot, state);
  const nowS = percentileOf(now.volumes[Y]!, percentile);
  const { name: victim } = model.volumes[Y]!;
  const { name: neighbour } = model.volumes[X]!;
  if (nowS <= targetS)
    return {
      ok: false,
      code: 'qos-target-met',
      p95S: nowS,
      message: `p${percentile} of ${victim} is ${formatWait(nowS)} there already.`,
    };
  const alone = percentileOf(oneSlot(without(model, X), slot, state).volumes[Y]!, percentile);
  if (alone > targetS)
    return {
      ok: false,
      code: 'qos-target-missed-without-x',
      p95S: alone,
      message: `Even without ${neighbour}, p${percentile} of ${victim} is ${formatWait(alone)}; look elsewhere.`,
    };
  const asked = now.volumes[X]!.asked;
  const at = (iops: number) =>
    percentileOf(oneSlot(limitedAt(model, X, Math.max(iops, 1e-9)), slot, state).volumes[Y]!, percentile);
  const iops = Math.max(1, roundedDown(bisected((rate) => at(rate) - targetS, 0, Math.ceil(asked))));
  return { ok: true, iops, p95S: at(iops), nowS, asked, heldBack: asked > 0 ? Math.max(0, 1 - iops / asked) : 0 };
}
