const THIN_SPACE = '\u2009';

/** Three significant digits with a letter for thousands: `322`, `2.64`, `14.4 k`, `1.2 M`. */
export function formatCount(value: number): string {
  if (value >= 999_500) return `${significant(value / 1e6)}${THIN_SPACE}M`;
  if (value >= 9_995) return `${significant(value / 1e3)}${THIN_SPACE}k`;
  if (value >= 1000) return `${Math.round(value / 10) * 10}`;
  return significant(value);
}

const significant = (value: number): string =>
  value === 0 ? '0' : String(Number(value.toFixed(Math.max(0, 2 - Math.floor(Math.log10(value))))));

/** A wait in two figures: `0.42 ms`, `1.3 s`. */
export function formatWait(seconds: number): string {
  if (seconds === 0) return '0 ms';
  if (seconds < 1e-5) return '< 0.01 ms';
  // What rounds to a whole second is told as one.
  const [value, unit] = seconds >= 0.995 ? [seconds, 's'] : [seconds * 1000, 'ms'];
  return `${Number(value.toPrecision(2))} ${unit}`;
}

/** A chance as people weigh it: `1 in 3200`, `under 1 in a billion`, `42 %`. */
export function formatChance(chance: number): string {
  if (chance <= 0) return 'none';
  if (chance < 1e-9) return 'under 1 in a billion';
  if (chance >= 0.1) return `${Math.ceil(chance * 100)} %`;
  const one = Math.floor(1 / chance);
  if (one >= 1e6) return `1 in ${significant(one / 1e6)} million`;
  const digits = 10 ** Math.max(0, Math.floor(Math.log10(one)) - 1);
  return `1 in ${String(Math.floor(one / digits) * digits).replace(/\B(?=(\d{3})+$)/g, THIN_SPACE)}`;
}

/** Per cent with at most one digit after the point, rounded up or down. */
export function formatPercent(share: number, rounding: 'up' | 'down' = 'up'): string {
  const scaled = share * 1000;
  const value = (rounding === 'up' ? Math.ceil(scaled - 1e-9) : Math.floor(scaled + 1e-9)) / 10;
  return `${share < 1 && value >= 100 ? 99.9 : value}${THIN_SPACE}%`;
}
