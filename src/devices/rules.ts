import { Overlay, type EstateView } from '@/core/estate/estate';
import type { Rows } from '@/core/estate/entities';
import type { PlannedStep } from '@/core/operation/operation';
import type { Answer } from './answer';

/** The device's own bookkeeping: an array gives an extent once, a drive to one group, and a LUN to one volume for a host. */
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
      effect.after?.raidGroup &&
      effect.after.raidGroup !== (present as Rows['drive']).raidGroup &&
      (present as Rows['drive']).state === 'failed'
    )
      return rules(`A drive of the new group has failed.`);
  }
  try {
    new Overlay(view).apply(step.effects);
    return { ok: true };
  } catch (error) {
    return rules(error instanceof Error ? error.message : String(error));
  }
}
