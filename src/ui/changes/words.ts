import type { ChangeState } from '@/core/change/record';

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
