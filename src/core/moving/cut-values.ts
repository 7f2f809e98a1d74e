import type { Move } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { roadsOf } from '../replicate/line-shares';
import type { Bytes } from '../units/bytes';
import { formatBytes } from '../units/bytes';
import { momentText } from '../units/date';
import { SECOND, type Milliseconds } from '../units/duration';
import type { BytesPerSecond } from '../units/rate';
import { arraysOf } from '../replicate/line-shares';
import { lacking, pauseFor } from './changes';
import { newWays } from './prepare';
import { planOf, poolById, sourceOf, staysWithin, targetOf, windowOf } from './roads';
import { ratesOf, seconds } from './rounds';

/** What a cut of a move comes to at this moment. */
export interface CutValues {
  left: Bytes;
  rate: BytesPerSecond;
  pause: Milliseconds;
  /** Until when its window is open; null for always. Before `opens` it is shut. */
  opens: Milliseconds;
  until: Milliseconds | null;
  /** Least paths that one of its hosts has at the other array; null within one. */
  paths: number | null;
}

/** Bytes a second that the last rest goes at: as its last rounds went, else what its way has to spare. */
function rateNow(view: EstateView, row: Move, now: Milliseconds): BytesPerSecond {
  const last = ratesOf(row).at(-1);
  if (last !== undefined) return Math.min(last, row.cap ?? Infinity);
  const { roads } = roadsOf(view, now);
  return Math.min(
    row.cap ?? Infinity,
    ...[...arraysOf(view, row), ...(row.link === null ? [] : [row.link])].map((id) => roads[id] ?? Infinity),
  );
}

export function cutValues(view: EstateView, row: Move, now: Milliseconds): CutValues {
  const left = Math.max(0, Math.round(lacking(view, row, now)));
  const rate = rateNow(view, row, now);
  const { from, to } = windowOf(planOf(view, row), now);
  const ways = staysWithin(view, row)
    ? []
    : newWays(view, view.table('volume').get(row.volume)!, targetOf(view, row), row.identity);
  return {
    left,
    rate,
    pause: pauseFor(left, rate),
    opens: from,
    until: to,
    paths: ways.length === 0 ? null : Math.min(...ways.map(({ paths }) => paths)),
  };
}

/** The values of a cut, as a person looks at them once more. */
export function cutWords(view: EstateView, row: Move, now: Milliseconds): string {
  const { left, pause, paths, until } = cutValues(view, row, now);
  const from = `${sourceOf(view, row).name} ${poolById(view, row.fromPool).name}`;
  const to = `${targetOf(view, row).name} ${poolById(view, row.toPool).name}`;
  const volume = view.table('volume').get(row.volume)!;
  const identity = staysWithin(view, row)
    ? 'same device and paths'
    : row.identity === 'kept'
      ? `device ${volume.naa} kept, ${paths ?? 0} new paths at the least`
      : 'a new device: hosts look again';
  return `${row.name}: from ${from} to ${to}, ${identity}; ${formatBytes(left, 'used')} left, hosts wait ${seconds(Math.ceil(pause / (SECOND / 10)) * (SECOND / 10))} of at most ${seconds(row.pauseMax)}${until === null ? '' : `, window until ${momentText(until)}`}`;
}
