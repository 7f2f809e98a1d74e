import type { Volume } from '@/core/estate/entities';
import type { EstateView } from '@/core/estate/estate';
import { lookUp } from '@/core/operation/inquiry';
import { volumeByIdentity } from '@/core/volume/by-identity';

/** A volume by id, by name, by `array/name`, or by its NAA name, NGUID, EUI-64 or UUID. */
export function volumeByRef(view: EstateView, ref: string): Volume | undefined {
  const [array, name] = ref.split('/');
  if (name !== undefined) {
    const owner = lookUp(view, 'array', array!);
    return owner && lookUp(view, 'volume', name, owner.id);
  }
  return (
    view.table('volume').get(ref) ??
    [...view.table('volume').values()].find((row) => row.name === ref) ??
    volumeByIdentity(view, ref)
  );
}
