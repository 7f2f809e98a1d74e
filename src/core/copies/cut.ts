import { changed, created, type Effect } from '../estate/effects';
import { rowOf, type Kind, type Rows, type Snapshot, type Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import type { FileImage } from '../kinds/file-image';
import { partsOf } from './activity';
import { ALL_STANDS, sharedBytes, shownBytes } from './parts';

type NewId = (kind: Kind) => string;

/** What is said of the copies of one cut, beside what they show. */
export type CutWords = Pick<Snapshot, 'name' | 'at'> &
  Partial<
    Pick<
      Snapshot,
      | 'workload'
      | 'plan'
      | 'schedules'
      | 'madeBy'
      | 'notes'
      | 'label'
      | 'reason'
      | 'keepUntil'
      | 'lockedUntil'
      | 'lockMode'
      | 'hold'
    >
  >;

/** The file system that stands on a volume, as the host that uses it knows it. */
export function imageOf(view: EstateView, volume: Volume): FileImage | null {
  const devices = view
    .table('hostDevice')
    .by('volume', volume.id)
    .filter((device) => device.fileSystem !== null);
  const device = devices.find((one) => one.mountPoint !== null) ?? devices[0];
  if (!device) return volume.image;
  const { fileSystem, fileSystemSize, used, free } = device;
  return { fileSystem: fileSystem!, size: fileSystemSize, used, free };
}

/** Cuts volumes at one instant. A cut takes no room: the copy shows what the volume shows. */
export function cutOf(
  view: EstateView,
  volumes: readonly Volume[],
  words: CutWords,
  newId: NewId,
): { effects: Effect[]; copies: Snapshot[] } {
  const effects: Effect[] = [];
  const copies: Snapshot[] = [];
  const cut = newId('snapshot');
  for (const volume of volumes) {
    const first = volume.copiesBytes === 0 && volume.base === null;
    const parts = first ? (volume.activity ? partsOf(volume.activity) : [0, 0]) : volume.parts;
    const base = volume.base === null ? undefined : view.table('snapshot').get(volume.base);
    const copy: Rows['snapshot'] = rowOf('snapshot', {
      ...words,
      id: newId('snapshot'),
      volume: volume.id,
      cut,
      size: volume.size,
      written: volume.written,
      holes: volume.holes,
      image: imageOf(view, volume),
      files: volume.files,
      parent: volume.base,
      stands: base ? volume.stands : [...ALL_STANDS],
    });
    const shared = base ? sharedBytes(base, volume, parts) : 0;
    copies.push(copy);
    effects.push(
      created('snapshot', copy),
      changed('volume', volume, {
        base: copy.id,
        stands: [...ALL_STANDS],
        parts,
        copiesBytes: volume.copiesBytes + shownBytes(volume) - shared,
      }),
    );
  }
  return { effects, copies };
}
