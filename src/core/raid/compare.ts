import { raidLevels, type Drive, type Priority, type RaidLevel } from '../estate/entities';
import type { Bytes } from '../units/bytes';
import { HOUR } from '../units/duration';
import { underCap, type FrontEndCap } from './front-end-cap';
import { DETECT_HOURS, PROMISED_UTILISATION } from './choices';
import { chooseSeed, imbalanceOf } from './distributed';
import { geometry, lossesOf, type Geometry, type GeometryFailure, type Shape, type ShapeWish } from './geometry';
import { mediaFigures, slowestOf, type MediaFigures } from './media';
import { frontEndRate, writePenalty } from './performance';
import { backgroundShare, criticalShare, rebuildBytes, rebuildRate, rebuildSources } from './rebuild';
import {
  chanceOfAny,
  chanceOfLoss,
  failureRate,
  meanTimeToLoss,
  readErrorChance,
  YEAR_HOURS,
  type LegModel,
} from './reliability';

/** How a group will be used, for comparing levels. */
export interface Use {
  /** Utilisation by hosts while a drive is rebuilt, 0 to 1. */
  load: number;
  priority: Priority;
  /** Share of reads, and bytes of one I/O. */
  reads: number;
  ioSize: Bytes;
  /** Hours until a failed drive is replaced; 0 with a spare standing by. */
  replaceHours: number;
  /** What ports and controllers let through; without it the drives alone decide. */
  cap?: FrontEndCap | null;
}

export interface LevelCase {
  level: RaidLevel;
  shape: Geometry;
  /** Share of the raw bytes. */
  share: number;
  /** Milliseconds, with the load given. */
  rebuild: number;
  /** Chance of losing data within a year; for the parity that is left when a drive has failed, of a read error in its rebuild. */
  loss: number;
  readError: number;
  /** Mean hours to loss of the whole group; null where drives never fail. */
  meanTimeToLoss: number | null;
  /** Promised I/Os a second and bytes a second, whole and while one drive is missing. */
  iops: number;
  bytesPerSecond: number;
  degradedIops: number;
  /** What holds the whole group below what its drives could give, and that in bytes a second. */
  capped: { by: FrontEndCap['by']; drives: number } | null;
  /** Drive I/Os of a small write. */
  penalty: number;
}

export type LevelResult = LevelCase | { level: RaidLevel; failure: GeometryFailure };

/** Of one leg: how its drives fail, and how soon one is whole again. */
export interface LegTimes {
  /** Milliseconds that rebuilding one drive takes. */
  rebuild: number;
  /** Hours until a failed drive is replaced where no spare stands by. A distributed group has its spare space and waits for nobody. */
  replaceHours: number;
  media: MediaFigures;
}

/**
 * The chain of one leg of a group. A distributed group rebuilds the most critical stripes first: with k drives failed a repair takes D0 + T·f_k,
 * and the last rebuild reads f_m of what one drive holds.
 */
export function legModel(shape: Shape, memberSize: Bytes, { rebuild, replaceHours, media }: LegTimes): LegModel {
  const survives = lossesOf(shape);
  const distributed = shape.level === 'distributed';
  const wait = DETECT_HOURS + (distributed ? 0 : replaceHours);
  const hours = (failed: number) => wait + (rebuild / HOUR) * criticalShare(shape, failed);
  const bytes = rebuildBytes(shape, memberSize) * criticalShare(shape, survives);
  return {
    width: distributed ? shape.drives : shape.width,
    survives,
    failureRate: failureRate(media.annualFailureRate),
    repairRate: distributed ? Array.from({ length: survives }, (_, k) => 1 / hours(k + 1)) : 1 / hours(1),
    readErrorChance: readErrorChance(media.readErrorRate, rebuildSources(shape), bytes),
  };
}

/** Everything that tells one level from another for the same drives. */
export function levelCase(wish: ShapeWish, drives: readonly Drive[], chunk: Bytes, use: Use): LevelResult {
  const shape = geometry(
    wish,
    drives.map((drive) => drive.capacity),
    chunk,
  );
  if (typeof shape === 'string') return { level: wish.level, failure: shape };
  const media = mediaFigures[slowestOf(drives.map((drive) => drive.media))];
  const phi = backgroundShare(use.priority, use.load);
  const rebuild =
    shape.survives === 0
      ? 0
      : (rebuildBytes(shape, shape.memberSize) /
          rebuildRate(shape, media, phi, imbalanceOf(shape, chooseSeed(shape)))) *
        1000;
  const model = legModel(shape, shape.memberSize, { rebuild, replaceHours: use.replaceHours, media });
  const loss = chanceOfAny(chanceOfLoss(model, YEAR_HOURS), shape.legs);
  const mean = meanTimeToLoss(model);
  const load = { reads: use.reads, size: use.ioSize, utilisation: PROMISED_UTILISATION };
  const drivesGive = frontEndRate(shape, chunk, media, load);
  const rate = underCap(drivesGive, use.cap);
  return {
    level: wish.level,
    shape,
    share: shape.usable / drives.reduce((sum, drive) => sum + drive.capacity, 0),
    rebuild,
    loss,
    readError: shape.survives === 0 ? 0 : model.readErrorChance,
    meanTimeToLoss: mean === null ? null : mean / shape.legs,
    ...rate,
    degradedIops:
      shape.survives === 0
        ? 0
        : underCap(
            frontEndRate(shape, chunk, media, { ...load, utilisation: PROMISED_UTILISATION * (1 - phi) }, true),
            use.cap,
          ).iops,
    capped:
      use.cap && rate.bytesPerSecond < drivesGive.bytesPerSecond
        ? { by: use.cap.by, drives: drivesGive.bytesPerSecond }
        : null,
    penalty: writePenalty(shape),
  };
}

export const compareLevels = (
  drives: readonly Drive[],
  chunk: Bytes,
  use: Use,
  wishes: Partial<Record<RaidLevel, Omit<ShapeWish, 'level'>>> = {},
): LevelResult[] => raidLevels.map((level) => levelCase({ level, ...wishes[level] }, drives, chunk, use));

export type Goal = 'room' | 'speed' | 'safety';

/** A chance of loss up to which a level is thought fit for room or speed. */
const FIT_LOSS = 1e-3;

/** The level that serves a goal best, and the figures that decided. Levels that survive nothing are never advised. */
export function advise(cases: readonly LevelResult[], goal: Goal): { best: LevelCase; fit: number } | null {
  const safe = cases.filter((one): one is LevelCase => 'shape' in one && one.shape.survives > 0);
  if (safe.length === 0) return null;
  const fit = safe.filter((one) => one.loss <= FIT_LOSS);
  const among = fit.length > 0 ? fit : safe;
  const order: Record<Goal, (a: LevelCase, b: LevelCase) => number> = {
    room: (a, b) => b.shape.usable - a.shape.usable || a.loss - b.loss,
    speed: (a, b) => b.iops - a.iops || a.loss - b.loss,
    // Of levels that lose next to nothing, the one that leaves most room.
    safety: (a, b) => Math.max(a.loss, 1e-12) - Math.max(b.loss, 1e-12) || b.shape.usable - a.shape.usable,
  };
  return { best: [...(goal === 'safety' ? safe : among)].sort(order[goal])[0]!, fit: fit.length };
}
