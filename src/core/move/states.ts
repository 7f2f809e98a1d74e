import { moveStates, type MoveState } from '../kinds/move';
import { notParsed, parsed, type Parsed } from '../units/parsed';

export { moveStates, type MoveState };

/** What happens to a move. `round` is the end of a round of copying, `switched` what cutting over came to. */
export type MoveEvent =
  | { event: 'check'; fits: boolean }
  | { event: 'start'; windowOpen: boolean; slotFree: boolean }
  | { event: 'round'; fitsPause: boolean; stalled: boolean }
  | { event: 'confirm'; windowHoldsS: number; barrierS: number; pauseS: number; hostsReportPaths: boolean }
  | { event: 'switched'; at: 1 | 2 | 3 | 4 | 5; ok: boolean }
  | { event: 'accept'; healthy: boolean }
  | { event: 'roll-back'; reverseIntact: boolean }
  | { event: 'cleaned' }
  | { event: 'abort' };

export interface MoveTurn {
  state: MoveState;
  /** What is done on the way. */
  does: string[];
  /** A person is asked: throttle, mirror mode, longer pause, stop. */
  asks: boolean;
  /** Source and target change their parts. */
  turned: boolean;
}

const turn = (state: MoveState, does: string[] = [], more: Partial<MoveTurn> = {}): Parsed<MoveTurn> =>
  parsed({ state, does, asks: false, turned: false, ...more });

const not = (reason: string, message: string) => notParsed(reason, message);

/** Steps of cutting over, 1 to 5; before the fourth an error lets the source go on. */
export const CUT_STEPS = ['hold writes', 'last rest', 'compare', 'switch identity and paths', 'release'] as const;
const SWITCH = 4;

/**
 * What an event makes of a move, or why it cannot be (move.md A). Reasons: move-event, move-not-fitting, move-window-shut, move-no-slot,
 * move-window-short, move-paths-missing, move-unhealthy, move-no-way-back.
 */
export function movedOn(state: MoveState, happened: MoveEvent): Parsed<MoveTurn> {
  const { event } = happened;
  if (event === 'abort')
    return state === 'ready' || state === 'copying' || state === 'waiting'
      ? turn('aborted', ['take target, paths and reservations away'])
      : not('move-event', `A move that is ${state} cannot be aborted.`);
  if (state === 'planned' && event === 'check')
    return happened.fits
      ? turn('ready', ['reserve space, allotment and slot'])
      : not('move-not-fitting', 'A prerequisite is not fulfilled.');
  if (state === 'ready' && event === 'start') {
    if (!happened.windowOpen) return not('move-window-shut', 'Its window is shut.');
    if (!happened.slotFree) return not('move-no-slot', 'No slot is free on its way.');
    return turn('copying', ['make the target', 'track what changes', 'add paths that are not used yet']);
  }
  if (state === 'copying' && event === 'round') {
    if (happened.fitsPause) return turn('waiting');
    return turn('copying', ['next round'], { asks: happened.stalled });
  }
  if (state === 'waiting' && event === 'round') return turn('waiting', ['copy what changed']);
  if (state === 'waiting' && event === 'confirm') {
    if (happened.windowHoldsS < happened.barrierS + happened.pauseS)
      return not('move-window-short', 'The window no longer holds barrier and pause.');
    if (!happened.hostsReportPaths) return not('move-paths-missing', 'Not every host reports the new paths.');
    return turn('cutting', [CUT_STEPS[0]]);
  }
  if (state === 'cutting' && event === 'switched') {
    if (!happened.ok)
      return happened.at < SWITCH ? turn('waiting', ['release on the source']) : turn('proving', [CUT_STEPS[4]]);
    return happened.at === CUT_STEPS.length ? turn('proving') : turn('cutting', [CUT_STEPS[happened.at]]);
  }
  if (state === 'proving' && event === 'accept')
    return happened.healthy
      ? turn('cleaning', ['erase the old copy', 'take old paths and records away'])
      : not('move-unhealthy', 'Not all hosts are well on the new paths.');
  if (state === 'proving' && event === 'roll-back')
    return happened.reverseIntact
      ? turn('waiting', ['cut over the other way'], { turned: true })
      : not('move-no-way-back', 'The old copy or what changed since is not intact.');
  if (state === 'cleaning' && event === 'cleaned') return turn('done');
  return not('move-event', `Nothing comes of that while a move is ${state}.`);
}
