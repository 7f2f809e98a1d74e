/** A step of a change as it turns out. */
export interface RunStep {
  id: string;
  /** Done by an earlier attempt of this run. */
  mine?: boolean | null;
  /** True already, by somebody else's doing. */
  satisfied?: boolean | null;
  /** Its precondition; holds unless it is false. */
  pre?: boolean | null;
  do?: 'ok' | 'fail' | null;
  undo?: 'ok' | 'fail' | 'none' | null;
  /** What a person says where one is asked. */
  confirm?: 'yes' | 'no' | 'wait' | null;
}

export type RunEnd = 'DONE' | 'PAUSED' | 'ROLLED_BACK' | 'STUCK' | 'HALTED';

export interface RunOutcome {
  state: RunEnd;
  log: string[];
  /** Where it is stuck: steps that hands must undo, the newest first. */
  needsUndo: string[];
}

/**
 * How a change ends that undoes what it did when something fails (move.md H). What was there before is never undone; a step that cannot be undone
 * halts it, and one whose undo fails leaves it stuck.
 */
export function runChange({ steps }: { steps: readonly RunStep[] }): RunOutcome {
  const log: string[] = [];
  const done: RunStep[] = [];
  for (const step of steps) {
    const say = (what: string) => void log.push(`${what} ${step.id}`);
    if (step.mine) {
      say('kept');
      done.push(step);
    } else if (step.satisfied) say('skip');
    else if (step.confirm === 'wait') {
      say('ask');
      return { state: 'PAUSED', log, needsUndo: [] };
    } else if (step.confirm === 'no') {
      say('refused');
      return undone(done, log);
    } else if (step.pre === false) {
      say('pre-failed');
      return undone(done, log);
    } else if (step.do === 'fail') {
      say('failed');
      // What it did in part is undone too.
      done.push(step);
      return undone(done, log);
    } else {
      say('do');
      done.push(step);
    }
  }
  return { state: 'DONE', log, needsUndo: [] };
}

function undone(done: readonly RunStep[], log: string[]): RunOutcome {
  if (done.some(({ undo }) => undo === 'none')) return { state: 'HALTED', log, needsUndo: [] };
  const newest = [...done].reverse();
  for (const [k, { id, undo }] of newest.entries()) {
    if (undo === 'fail') {
      log.push(`undo-failed ${id}`);
      return { state: 'STUCK', log, needsUndo: newest.slice(k).map((one) => one.id) };
    }
    log.push(`undo ${id}`);
  }
  return { state: 'ROLLED_BACK', log, needsUndo: [] };
}
