import type { ChangeState } from '@/core/change/record';

export const changeStateWords: Record<ChangeState, string> = {
  draft: 'Draft',
  running: 'At work',
  stopped: 'Stopped',
  done: 'Done',
  undoing: 'Being undone',
  undone: 'Undone',
};
