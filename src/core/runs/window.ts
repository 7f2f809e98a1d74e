import { formatDuration, SECOND } from '../units/duration';
import { notParsed, parsed, type Parsed } from '../units/parsed';

/**
 * When a step starts: at once where its estimate fits the rest of the window that is open, else with the next window that is long enough (move.md
 * H). Seconds; windows are half-open. Reasons: change-window-short.
 */
export function startWithin({
  step,
  nowS,
  takesS,
  windows,
}: {
  step: string;
  nowS: number;
  takesS: number;
  windows: readonly (readonly [number, number])[];
}): Parsed<{ startS: number; waits: boolean }> {
  const coming = [...windows].sort((a, b) => a[0] - b[0]).filter(([, to]) => to > nowS);
  for (const [from, to] of coming) {
    const start = Math.max(from, nowS);
    if (start + takesS <= to) return parsed({ startS: start, waits: start > nowS });
  }
  const rest = Math.max(0, ...coming.map(([from, to]) => to - Math.max(from, nowS)));
  return notParsed(
    'change-window-short',
    `${step} takes ${formatDuration(takesS * SECOND)}, the window has ${formatDuration(rest * SECOND)} left.`,
  );
}
