import { hoursOfWeek } from '../copies/activity';
import type { ActivityProfile } from '../kinds/activity';
import { burstsOf, type Bursts } from './profile';

/** What a limit does to a volume over its week, from what is known of its activity. */
export interface HeldBack {
  /** Hours a day, on the average of a week, in which the hour's mean is above the limit. */
  hoursADay: number;
  /** Whether bursts meet it, and the greatest that is asked in them. */
  bursts: boolean;
  peak: number;
  /** By hour of the week, the share of what is asked that comes later or not at all. */
  byHour: number[];
}

/** By hour of the week, the share of what is asked that comes later or not at all under a limit; `mean` is that of the week. */
export function heldByHour(mean: number, hours: readonly number[], bursts: Bursts, iops: number): number[] {
  const share = bursts.slots === 0 ? 0 : bursts.slots / bursts.period;
  return hours.map((busy) => {
    const [low, high] = [mean * busy * bursts.low, mean * busy * bursts.high];
    const over = Math.max(0, low - iops) * (1 - share) + Math.max(0, high - iops) * share;
    return mean * busy === 0 ? 0 : over / (mean * busy);
  });
}

export function heldBack(activity: ActivityProfile, iops: number): HeldBack {
  const bursts = burstsOf(activity);
  const mean = activity.reads + activity.writes;
  const busiest = Math.max(...hoursOfWeek(activity.week));
  return {
    hoursADay: hoursOfWeek(activity.week).filter((busy) => mean * busy > iops).length / 7,
    bursts: mean * busiest * bursts.high > iops,
    peak: mean * busiest * bursts.high,
    byHour: heldByHour(mean, hoursOfWeek(activity.week), bursts, iops),
  };
}
