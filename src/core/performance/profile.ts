import { hoursOfWeek } from '../copies/activity';
import type { ActivityProfile, WeekShape } from '../kinds/activity';
import type { Milliseconds } from '../units/duration';
import { hourOfWeek } from '../units/week';
import { BURST_SECONDS, BURSTS_AN_HOUR, SLOT, SLOT_S } from './choices';

/** When a volume bursts, and by how much; slots are five seconds. Between bursts it asks for less, so that its hour keeps its mean. */
export interface Bursts {
  /** Of the mean of the hour, in a burst and outside. */
  high: number;
  low: number;
  /** Length of a burst, and of the stretch within which one comes; 0 for none. */
  slots: number;
  period: number;
}

export function burstsOf(activity: Pick<ActivityProfile, 'burst' | 'burstSeconds' | 'burstsAnHour'>): Bursts {
  const anHour = activity.burstsAnHour ?? BURSTS_AN_HOUR;
  if (activity.burst <= 1 || anHour === 0) return { high: 1, low: 1, slots: 0, period: 0 };
  const slots = Math.max(1, Math.round((activity.burstSeconds ?? BURST_SECONDS) / SLOT_S));
  const period = Math.max(slots + 1, Math.round(3600 / anHour / SLOT_S));
  const share = slots / period;
  const high = Math.min(activity.burst, 1 / share);
  return { high, low: Math.max(0, (1 - share * high) / (1 - share)), slots, period };
}

/** 32 bits from two numbers (the avalanche of MurmurHash3). */
function mixed(seed: number, k: number): number {
  let h = (seed ^ Math.imul(k, 0x9e3779b1)) | 0;
  h ^= h >>> 16;
  h = Math.imul(h, 0x85ebca6b);
  h ^= h >>> 13;
  h = Math.imul(h, 0xc2b2ae35);
  return (h ^ (h >>> 16)) >>> 0;
}

/** First slot of the burst in the stretch that a slot lies in. */
export function burstStart({ slots, period }: Bursts, seed: number, slot: number): number {
  const k = Math.floor(slot / period);
  return k * period + (mixed(seed, k) % (period - slots + 1));
}

/** Whether a slot lies in a burst, and the slot at which that changes next. */
export function burstAt(bursts: Bursts, seed: number, slot: number): { on: boolean; until: number } {
  if (bursts.slots === 0) return { on: false, until: Infinity };
  const start = burstStart(bursts, seed, slot);
  if (slot < start) return { on: false, until: start };
  if (slot < start + bursts.slots) return { on: true, until: start + bursts.slots };
  const next = (Math.floor(slot / bursts.period) + 1) * bursts.period;
  return { on: false, until: burstStart(bursts, seed, next) };
}

export const slotOf = (at: Milliseconds): number => Math.floor(at / SLOT);

/** How busy an hour is against the average of its week. */
export const busyAt = (week: WeekShape, at: Milliseconds): number => hoursOfWeek(week)[hourOfWeek(at)]!;
