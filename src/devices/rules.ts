import type { EstateView } from '@/core/estate/estate';
import type { Rows } from '@/core/estate/entities';
import type { PlannedStep } from '@/core/operation/operation';
import { tried } from '@/core/rules/book';
import type { Answer } from './answer';

/** The device's own bookkeeping: it knows what it has, takes no failed drive into a group, and keeps to the rule book. */
export function keepsToRules(view: EstateView, step: PlannedStep): Answer {
  const rules = (message: string): Answer => ({
    ok: false,
    refusal: {
      code: 'device-refuses',
      subject: {
        kind: step.device.kind === 'record' ? 'lab' : step.device.kind,
        id: step.device.id,
        name: step.device.name,
      },
      message,
      mend: 'Prepare the change again: the device has moved on since it was planned.',
    },
  });
  for (const effect of step.effects) {
    const present = view.table(effect.kind).get(effect.id);
    if (effect.before === null && present) return rules(`${step.device.name} has ${effect.id} already.`);
    if (effect.before !== null && !present) return rules(`${step.device.name} has no ${effect.id} any more.`);
    if (
      effect.kind === 'drive' &&
      present &&
      effect.after?.raidGroup &&
      effect.after.raidGroup !== (present as Rows['drive']).raidGroup &&
      (present as Rows['drive']).state === 'failed'
    )
      return rules(`A drive of the new group has failed.`);
  }
  const [broken] = tried(view, step.effects).broken;
  return broken ? rules(broken.message) : { ok: true };
}
