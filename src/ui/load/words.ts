import { formatCount, formatWait } from '@/core/units/figures';

/** `0.42 ms`, `1.3 s`; `–` where nothing was done. */
export const waitText = (seconds: number | null): string => (seconds === null ? '–' : formatWait(seconds));

/** `2 610 IO/s` with a thin space. */
export function rateText(perS: number): string {
  if (perS === 0) return '0';
  return perS < 0.1 ? '< 0.1' : formatCount(perS);
}

export const percentText = (share: number): string =>
  share > 0 && share < 0.005 ? '< 1 %' : `${Math.round(share * 100)} %`;

const clock = new Intl.DateTimeFormat('en-GB', {
  hour: '2-digit',
  minute: '2-digit',
  second: '2-digit',
  timeZone: 'UTC',
});
const day = new Intl.DateTimeFormat('en-GB', { weekday: 'short', day: 'numeric', month: 'short', timeZone: 'UTC' });

/** `06:37:05` */
export const secondText = (at: number): string => clock.format(at);
/** `Sun 13 Apr 15:26:40` */
export const whenText = (at: number): string => `${day.format(at).replace(',', '')} ${clock.format(at)}`;

const days = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];
/** An hour of the week, from Monday on: `Mon 07:00`. */
export const hourText = (hour: number): string =>
  `${days[Math.floor(hour / 24)]} ${String(hour % 24).padStart(2, '0')}:00`;
