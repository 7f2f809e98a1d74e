import type { ChangeRow, ChangeState } from '@/core/change/record';
import { waitsForSecond } from '@/core/change/terms';

export const changeStateWords: Record<ChangeState, string> = {
  draft: 'Draft',
  approved: 'Approved',
  running: 'At work',
  paused: 'Waits',
  stopped: 'Stopped',
  stuck: 'Needs hands',
  done: 'Done',
  undoing: 'Being undone',
  undone: 'Undone',
};

/** How a change stands, told by who approved it. */
export const stateOf = ({ state, run }: Pick<ChangeRow, 'state' | 'run'>): string =>
  state === 'approved' && run && waitsForSecond(run) ? 'Approved by one' : changeStateWords[state];
