import type { Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { euiOf, nguidOf, uuidOf } from '../naming/identity';
import { parseNvmeIdentity } from '../naming/nvme-identity';
import { parseWwn } from '../naming/wwn';

const own = { 'EUI-64': euiOf, NGUID: nguidOf, UUID: (naa: string) => uuidOf(naa).replaceAll('-', '') };

/** The volume that a NAA name, NGUID, EUI-64 or UUID names, however it is written; undefined where none does. */
export function volumeByIdentity(view: EstateView, text: string): Volume | undefined {
  const naa = parseWwn(text, 'volume');
  const named = parseNvmeIdentity(text);
  if (!naa.ok && !named.ok) return undefined;
  return [...view.table('volume').values()].find(
    (volume) =>
      (naa.ok && volume.naa === naa.value) || (named.ok && own[named.value.kind](volume.naa) === named.value.digits),
  );
}
