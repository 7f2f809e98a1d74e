import { logOwner, replicaOf } from '../copies/replica';
import type { Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { moveOf } from './roads';

/** Why a volume cannot be moved at all, in words after its name; null where it can. */
export function moveBar(view: EstateView, volume: Volume): string | null {
  if (volume.deletedAt !== null) return 'is retired';
  if (volume.origin !== null) return 'shares its data';
  return moveOf(view, volume.id) ? 'moves already' : null;
}

/** Whether a volume that no host sees is there all the same for a replication or a move. */
export const servesOthers = (view: EstateView, volume: string): boolean =>
  replicaOf(view, volume) !== null || logOwner(view, volume) !== null || moveOf(view, volume) !== null;
