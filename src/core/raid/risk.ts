import type { RaidGroup } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { HOUR } from '../units/duration';
import { REPLACE_HOURS } from './choices';
import { legModel } from './compare';
import { shapeOfGroup, type Shape } from './geometry';
import { hostWrites, mediaOfGroup } from './load';
import { yearsOfWrites } from './performance';
import { rebuildBytes } from './rebuild';
import { chanceOfAny, chanceOfLoss, chanceOfOne, YEAR_HOURS } from './reliability';
import { rateOfRebuild } from './rates';
import { spareFor } from './tend';

export interface GroupRisk {
  shape: Shape;
  /** Hours a rebuild would take now. */
  hours: number;
  /** Chance that the last rebuild before loss meets a read error. */
  readError: number;
  /** Chance of losing data within a year. */
  loss: number;
}

/** How long a rebuild would take at the group's present load and priority, and the chances that follow from it. */
export function groupRisk(view: EstateView, group: RaidGroup): GroupRisk {
  const shape = shapeOfGroup(group);
  const hours = rebuildBytes(shape, group.memberSize) / rateOfRebuild(view, group, group.priority) / 3600;
  const model = legModel(shape, group.memberSize, {
    rebuild: hours * HOUR,
    replaceHours: spareFor(view, group, 0, Infinity) ? 0 : REPLACE_HOURS,
    media: mediaOfGroup(view, group),
  });
  return {
    shape,
    hours,
    readError: model.readErrorChance,
    loss: chanceOfAny(chanceOfLoss(model, YEAR_HOURS), shape.legs),
  };
}

/** Chance that a pool loses data within a year: it is lost with any of its groups. */
export const poolLoss = (view: EstateView, pool: string): number =>
  chanceOfOne(
    view
      .table('raidGroup')
      .by('pool', pool)
      .map((group) => groupRisk(view, group).loss),
  );

/** Years until the members of a flash group have taken their rated writes, at what hosts write now; null on disks, or where nobody writes. */
export function yearsLeft(view: EstateView, group: RaidGroup): number | null {
  const shape = shapeOfGroup(group);
  const smallest = Math.min(...group.drives.map((id) => view.table('drive').get(id)?.capacity ?? Infinity));
  const amplification = shape.copies > 1 ? shape.copies : 1 + shape.parity;
  return yearsOfWrites(mediaOfGroup(view, group), smallest, hostWrites(view, group) * 86_400, {
    drives: shape.drives,
    amplification,
  });
}
