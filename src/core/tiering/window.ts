import type { Pool } from '../estate/entities';
import { hoursWords, openAt, type OpenStretch } from '../schedule/hours';
import type { Milliseconds } from '../units/duration';

type Window = Pick<Pool, 'heatFrom' | 'heatUntil'>;

/** When moves by heat may begin and must end: the window open at a moment, else the next. Without hours of its own a pool is placed whenever somebody asks. */
export const windowAt = ({ heatFrom, heatUntil }: Window, at: Milliseconds): OpenStretch =>
  openAt({ from: heatFrom, until: heatUntil }, at);

export const windowWords = ({ heatFrom, heatUntil }: Window): string =>
  hoursWords({ from: heatFrom, until: heatUntil }) ?? 'when somebody asks';
