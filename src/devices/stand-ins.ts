import type { PlannedStep } from '@/core/operation/operation';
import type { EstateView } from '@/core/estate/estate';
import type { Answer } from './answer';
import { arrayAnswers } from './array';
import { fabricAnswers } from './fabric';
import { hostAnswers } from './host';
import { keepsToRules } from './rules';

/**
 * Hands a step to the stand-in it is meant for. The device looks at its own state, not at what was planned: it turns away what it cannot do
 * now, and then nothing of the step is committed.
 */
export function execute(view: EstateView, step: PlannedStep): Answer {
  if (step.device.kind === 'record') return keepsToRules(view, step);
  const reached =
    step.device.kind === 'array'
      ? arrayAnswers(view, step.device.id)
      : step.device.kind === 'fabric'
        ? fabricAnswers(view, step.device.id)
        : hostAnswers(view, step);
  return reached.ok ? keepsToRules(view, step) : reached;
}
