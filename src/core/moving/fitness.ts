import type { Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { moveOf } from './roads';

/** Why a volume cannot be moved at all, in words after its name; null where it can. */
export function moveBar(view: EstateView, volume: Volume): string | null {
  if (volume.deletedAt !== null) return 'is retired';
  if (volume.origin !== null) return 'shares its data';
  return moveOf(view, volume.id) ? 'moves already' : null;
}
