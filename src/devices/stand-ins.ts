import type { PlannedStep } from '@/core/operation/operation';
import type { EstateView } from '@/core/estate/estate';
import { notReached } from '@/core/change/reached';
import type { Answer } from './answer';
import { keepsToRules } from './rules';

/**
 * Hands a step to the stand-in it is meant for. The device looks at its own state, not at what was planned: it turns away what it cannot do
 * now, and then nothing of the step is committed.
 */
export function execute(view: EstateView, step: PlannedStep): Answer {
  if (step.device.kind === 'record') return keepsToRules(view, step);
  const silent = notReached(view, step);
  return silent ? { ok: false, refusal: silent } : keepsToRules(view, step);
}
