import { pathFinder } from '../attach/paths';
import type { EstateView } from '../estate/estate';
import type { PlannedStep } from '../operation/operation';
import type { Refusal } from '../operation/refusal';
import { arrayAnswers } from '../volume/health';

/**
 * Why what a step is meant for takes no orders now; null where it does. An array does while one of its controllers is up; a fabric while all its
 * switches are, since a change of zones reaches each of them or none; a host makes and mounts a file system only where a path leads. Asked when
 * a step is foretold, and again by the stand-in that carries it out.
 */
export function notReached(view: EstateView, step: PlannedStep): Refusal | null {
  const { device } = step;
  if (device.kind === 'array') return silentArray(view, device.id);
  if (device.kind === 'fabric') return silentSwitch(view, device.id);
  return device.kind === 'host' ? withoutPath(view, step) : null;
}

function withoutPath(view: EstateView, { device: host, effects }: PlannedStep): Refusal | null {
  for (const effect of effects) {
    if (effect.kind !== 'hostDevice' || !effect.before || !effect.after) continue;
    const device = effect.before;
    if (effect.after.mountPoint === null) continue;
    if (pathFinder(view).reaches(device)) continue;
    return {
      code: 'no-path',
      subject: { kind: 'hostDevice', id: device.id, name: device.name },
      message: `${host.name} has lost every path to ${device.name}.`,
      mend: 'Mend a path first.',
    };
  }
  return null;
}

function silentArray(view: EstateView, id: string): Refusal | null {
  if (arrayAnswers(view, id)) return null;
  const name = view.table('array').get(id)?.name ?? id;
  return {
    code: 'array-does-not-answer',
    subject: { kind: 'array', id, name },
    message: `${name} does not answer: none of its controllers is up.`,
    mend: 'Bring a controller up again first.',
  };
}

function silentSwitch(view: EstateView, fabric: string): Refusal | null {
  const silent = view
    .table('switch')
    .by('fabric', fabric)
    .find((row) => row.state === 'down');
  if (!silent) return null;
  return {
    code: 'switch-does-not-answer',
    subject: { kind: 'switch', id: silent.id, name: silent.name },
    message: `${silent.name} does not answer, and zones are changed on all switches or on none.`,
    mend: 'Bring the switch up again first.',
  };
}
