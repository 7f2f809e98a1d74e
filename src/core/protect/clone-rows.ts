import { ALL_STANDS } from '../copies/parts';
import { rootOf } from '../copies/area';
import { created, type Effect } from '../estate/effects';
import { rowOf, type Kind, type Rows, type Snapshot } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, volumeOf } from '../estate/relations';
import { makeNaa, makeSerial } from '../naming/identity';
import type { Milliseconds } from '../units/duration';
import { leastLoaded } from '../volume/create-room';

/** A volume made from a copy: it shows what the copy shows, under an identity of its own, and takes no room until it is written to. */
export function cloneRow(
  view: EstateView,
  copy: Snapshot,
  { name, now, shown, notes }: { name: string; now: Milliseconds; shown: boolean; notes: string },
  newId: (kind: Kind) => string,
): { effects: Effect[]; volume: Rows['volume'] } {
  const source = volumeOf(view, copy);
  const root = rootOf(view, source);
  const array = arrayOf(view, source);
  const id = newId('volume');
  const volume = rowOf('volume', {
    id,
    name,
    array: array.id,
    pool: source.pool,
    size: copy.size,
    provisioning: 'thin',
    naa: makeNaa(array.companyId, id),
    serial: makeSerial(id),
    owner: (leastLoaded(view, array.id) ?? { id: source.owner }).id,
    written: copy.written,
    holes: copy.holes,
    blockSize: source.blockSize,
    // What copies keep lies unreduced.
    reduction: false,
    content: source.content,
    createdAt: now,
    notes,
    files: copy.files,
    image: copy.image,
    base: copy.id,
    stands: [...ALL_STANDS],
    parts: root.parts,
    origin: root.id,
    view: shown,
  });
  return { effects: [created('volume', volume)], volume };
}
