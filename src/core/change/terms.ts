import type { Weekday } from '../schedule/rule';
import { openStretches, type Hours, type OpenStretch } from '../schedule/hours';
import { startWithin } from '../runs/window';
import { SECOND, type Milliseconds } from '../units/duration';
import type { Parsed } from '../units/parsed';
import type { Approval } from './approval';

/** Why a run stands still: outside its window, until a person has said yes or no, or since the server was away. */
export interface Pause {
  why: 'window' | 'person' | 'away';
  /** When it goes on by itself; of a person: until when an answer is waited for, after which it counts as no. */
  until: Milliseconds;
  /** The step before which it stands. */
  step: number;
  since: Milliseconds;
}

/** How a change that was approved runs by itself. */
export interface RunTerms {
  approvedBy: string;
  approvedAt: Milliseconds;
  /** Whether a second person must approve it too before it begins, and who did; null while nobody has. */
  second: boolean;
  secondBy: string | null;
  approval: Approval;
  /** The step it begins with. */
  first: { title: string; takes: Milliseconds };
  /** Not before this moment; null for as soon as its window is open. */
  startAt: Milliseconds | null;
  fromHour: number | null;
  untilHour: number | null;
  days: Weekday[];
  /** When a step fails: stop where it stands, or take back what was done. */
  onFailure: 'stop' | 'undo';
  /** Operations before which a person is asked, and how long an answer is waited for. */
  confirm: number[];
  waits: Milliseconds;
  /** Operations that somebody has said yes to. */
  confirmed: number[];
  /** Who is written to. */
  mail: string;
  pause: Pause | null;
  /** Titles of the steps that hands must take back, the newest first. */
  needsUndo: string[];
}

/** Whether it does not begin before a second person has approved it too. */
export const waitsForSecond = ({ second, secondBy }: Pick<RunTerms, 'second' | 'secondBy'>): boolean =>
  second && secondBy === null;

/** Whether two names are of one person: case and spaces do not tell them apart. */
export const samePerson = (one: string, other: string): boolean => {
  const plain = (name: string) => name.normalize('NFKC').replace(/\s+/g, ' ').trim().toLocaleLowerCase('en');
  return plain(one) === plain(other);
};

/** Windows that are looked ahead. */
const WINDOWS = 60;

export const hoursOf = ({ fromHour, untilHour, days }: Pick<RunTerms, 'fromHour' | 'untilHour' | 'days'>): Hours => ({
  from: fromHour,
  until: untilHour,
  days,
});

/** The next windows of a run, from a moment on. */
function windowsFrom(terms: Pick<RunTerms, 'fromHour' | 'untilHour' | 'days'>, at: Milliseconds): OpenStretch[] {
  const found: OpenStretch[] = [];
  for (const open of openStretches(hoursOf(terms), at)) {
    found.push(open);
    if (found.length >= WINDOWS) break;
  }
  return found;
}

/** When a step that takes so long may begin: at once where it fits the window that is open, else with the next that is long enough. Reasons: change-window-short. */
export function startOf(
  terms: Pick<RunTerms, 'fromHour' | 'untilHour' | 'days'>,
  { title, takes }: { title: string; takes: Milliseconds },
  now: Milliseconds,
): Parsed<Milliseconds> {
  const start = startWithin({
    step: title,
    nowS: 0,
    takesS: takes / SECOND,
    windows: windowsFrom(terms, now).map(
      ({ from, to }) => [(from - now) / SECOND, to === null ? Infinity : (to - now) / SECOND] as const,
    ),
  });
  return start.ok ? { ...start, value: now + Math.round(start.value.startS * SECOND) } : start;
}
