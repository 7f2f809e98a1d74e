import { mixtureQuantile } from '../load/path';
import { Course, type CourseState } from './course';
import type { VolumeFigures } from './figures';
import type { LoadModel } from './shape';

/** What every volume gets in one slot of a model, beginning with what waited. */
export function oneSlot(
  model: LoadModel,
  slot: number,
  state?: CourseState,
): { volumes: VolumeFigures[]; used: number[] } {
  const volumes: VolumeFigures[] = [];
  const used = model.resources.map(() => 0);
  new Course(model, slot, state).run(slot + 1, {
    volume: (index, _from, _to, figures) => (volumes[index] = figures),
    resource: (index, _from, _to, units) => (used[index] = units),
  });
  return { volumes, used };
}

/** A percentile of a volume's latency, seconds; 0 where nothing is done. */
export const percentileOf = (figures: VolumeFigures, percentile: number): number =>
  figures.served > 0
    ? mixtureQuantile(
        figures.means.map((meanS, k) => ({ share: figures.shares[k]!, meanS, varianceS2: figures.variances[k]! })),
        percentile,
      )
    : 0;

/** The same model in which a volume asks for nothing. */
export const without = (model: LoadModel, volume: number): LoadModel => ({
  ...model,
  volumes: model.volumes.map((one, k) => (k === volume ? { ...one, reads: 0, writes: 0 } : one)),
});
