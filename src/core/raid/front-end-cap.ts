import type { EstateView } from '../estate/estate';
import { capacityOf } from '../network/link';
import { CONTROLLER_BANDWIDTH } from './choices';

/** Bytes a second that get through to hosts whatever the drives give, and what it is that holds them. */
export interface FrontEndCap {
  bytesPerSecond: number;
  by: 'ports' | 'controllers';
}

/**
 * What an array lets through: of each controller that is up its serving ports' payload, but no more than a controller moves. Null where no port
 * serves yet: then nothing can be said.
 */
export function frontEndCap(view: EstateView, array: string): FrontEndCap | null {
  const cap: FrontEndCap = { bytesPerSecond: 0, by: 'ports' };
  const serving = view
    .table('port')
    .by('array', array)
    .filter((port) => port.role !== 'none' && port.state === 'up');
  for (const controller of view.table('controller').by('array', array)) {
    if (controller.state === 'down') continue;
    const ports = serving
      .filter((port) => port.controller === controller.id)
      .reduce((sum, port) => sum + capacityOf(port), 0);
    if (ports > CONTROLLER_BANDWIDTH) cap.by = 'controllers';
    cap.bytesPerSecond += Math.min(ports, CONTROLLER_BANDWIDTH);
  }
  return cap.bytesPerSecond === 0 ? null : cap;
}

/** A rate of drives as hosts get it. */
export function underCap(
  rate: { iops: number; bytesPerSecond: number },
  cap: Pick<FrontEndCap, 'bytesPerSecond'> | null | undefined,
): { iops: number; bytesPerSecond: number } {
  if (!cap || rate.bytesPerSecond <= cap.bytesPerSecond) return rate;
  return { iops: (rate.iops * cap.bytesPerSecond) / rate.bytesPerSecond, bytesPerSecond: cap.bytesPerSecond };
}
