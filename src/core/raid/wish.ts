import type { RaidLevel } from '../estate/entities';
import { levelFigures, shapeOf, WIDEST_STRIPE, type GeometryFailure, type ShapeWish } from './geometry';

/** A shape as operations and change files write it; `stripe` as `8+2`. */
export interface WishParams {
  level: RaidLevel;
  copies?: number | undefined;
  legs?: number | undefined;
  stripe?: string | undefined;
  spareColumns?: number | undefined;
}

/** What of the parameters matters to the level. */
export function wishOf(p: WishParams): ShapeWish {
  const [data, parity] = p.stripe?.split('+').map(Number) ?? [];
  const { level } = p;
  return {
    level,
    ...(level === 'raid10' && p.copies !== undefined ? { copies: p.copies } : {}),
    ...(levelFigures[level].legs && p.legs !== undefined ? { legs: p.legs } : {}),
    ...(level === 'distributed' ? { data, parity, spareColumns: p.spareColumns } : {}),
  };
}

/** Why a level cannot be formed, in words. */
export function geometryRefusal(
  failure: GeometryFailure,
  wish: ShapeWish,
  count: number,
): { message: string; mend: string } {
  const { label, minDrives } = levelFigures[wish.level];
  const drives = `${count} ${count === 1 ? 'is' : 'are'} chosen`;
  switch (failure) {
    case 'too-few-drives':
      return {
        message: `${label} needs at least ${minDrives} drives; ${drives}.`,
        mend: `Choose ${minDrives - count} more, or a level that takes fewer.`,
      };
    case 'drive-too-small':
      return { message: 'The smallest drive has no room left after its reserve.', mend: 'Leave it out.' };
    case 'too-few-copies':
      return { message: `${label} keeps at least 2 copies; ${wish.copies} is asked for.`, mend: 'Ask for 2 or more.' };
    case 'copies-not-divisible': {
      const copies = wish.copies ?? 2;
      if (copies * 2 > count)
        return {
          message: `${count} drives make no two sets of ${copies} copies.`,
          mend: 'Choose level 1, or fewer copies.',
        };
      if (copies === 2)
        return {
          message: `${label} pairs its drives; ${count} cannot be paired.`,
          mend: 'Add one drive or leave one out.',
        };
      return {
        message: `${count} drives cannot be dealt into sets of ${copies}.`,
        mend: `Leave ${count % copies} out.`,
      };
    }
    case 'legs-not-divisible':
    case 'leg-too-narrow': {
      const works = fewerThatWork(wish, count);
      const mend = works
        ? `${works} drives would do${count > works ? `, and ${count - works} ${count - works === 1 ? 'spare' : 'spares'}` : ''}.`
        : 'Choose another number of drives.';
      return failure === 'leg-too-narrow'
        ? {
            message: `Legs of ${count / (wish.legs ?? 1)} drives are too narrow for ${label}.`,
            mend: `Ask for fewer legs. ${mend}`,
          }
        : {
            message: wish.legs
              ? `${count} drives do not divide into ${wish.legs} legs.`
              : `${count} drives do not divide into equal legs for ${label}.`,
            mend,
          };
    }
    case 'stripe-without-data':
      return { message: 'A stripe without data holds nothing.', mend: 'Write at least one data strip, such as 8+2.' };
    case 'stripe-without-parity':
      return {
        message: `Stripes of ${wish.data}+0 survive no failure, and a distributed group spreads each over all drives.`,
        mend: 'Write at least one parity strip, such as 8+2.',
      };
    case 'too-many-drives':
      return {
        message: `A stripe with two parities or more has at most ${WIDEST_STRIPE} strips.`,
        mend: `Choose at most ${WIDEST_STRIPE} drives, or divide them into legs.`,
      };
    case 'stripe-wider-than-drives':
      return {
        message: `Stripes of ${(wish.data ?? 0) + (wish.parity ?? 2)} do not fit on ${count} drives less ${wish.spareColumns ?? 1} of spare space.`,
        mend: 'Choose narrower stripes, less spare space or more drives.',
      };
  }
}

/** The nearest lower number of drives that forms legs. */
function fewerThatWork(wish: ShapeWish, count: number): number | null {
  for (let n = count - 1; n >= levelFigures[wish.level].minDrives; n--)
    if (typeof shapeOf(wish, n) !== 'string') return n;
  return null;
}
