import type { EstateView } from '@/core/estate/estate';
import type { PlannedStep } from '@/core/operation/operation';
import { mappingOf, pathFinder } from '@/core/attach/paths';
import type { Answer } from './answer';

/**
 * A host writes to a device only while a path leads there: a file system cannot be made, mounted or unmounted through a broken path.
 * Registering a host or looking again needs no path.
 */
export function hostAnswers(view: EstateView, step: PlannedStep): Answer {
  const finder = pathFinder(view);
  for (const effect of step.effects) {
    if (effect.kind !== 'hostDevice' || !effect.before || !effect.after) continue;
    const device = effect.before;
    const mounts = effect.after.mountPoint !== null;
    const mapping = mappingOf(view, device.host, device.volume);
    if (!mounts || (mapping && finder.count(mapping).usable > 0)) continue;
    return {
      ok: false,
      refusal: {
        code: 'no-path',
        subject: { kind: 'hostDevice', id: device.id, name: device.name },
        message: `${step.device.name} has lost every path to ${device.name}.`,
        mend: 'Mend a path and retry.',
      },
    };
  }
  return { ok: true };
}
