import { changed, compacted, created, type Effect } from '../estate/effects';
import { rowOf, type Kind, type Rows, type Snapshot, type Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import type { FileImage } from '../kinds/file-image';
import { partsOf } from './activity';
import { bytesTogether, familyCopies, isStraight, rootOf } from './area';
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
  const overlay = new Overlay(view);
  for (const { id } of volumes) {
    const volume = overlay.table('volume').get(id)!;
    const root = rootOf(overlay, volume);
    const first = root.copiesBytes === 0 && volume.base === null;
    const own = volume.activity ? partsOf(volume.activity) : [0, 0];
    const parts = first ? own : root.parts;
    const base = volume.base === null ? undefined : overlay.table('snapshot').get(volume.base);
    const copy: Rows['snapshot'] = rowOf('snapshot', {
      ...words,
      id: newId('snapshot'),
      volume: id,
      cut,
      size: volume.size,
      written: volume.written,
      holes: volume.holes,
      image: imageOf(view, volume),
      files: volume.files,
      parent: volume.base,
      stands: base ? volume.stands : [...ALL_STANDS],
    });
    copies.push(copy);
    const together = (): number => {
      if (isStraight(overlay, root))
        return root.copiesBytes + shownBytes(volume) - (base ? sharedBytes(base, volume, parts) : 0);
      return bytesTogether([...familyCopies(overlay, root), copy], parts);
    };
    const cutTo = { base: copy.id, stands: [...ALL_STANDS], parts };
    const made: Effect[] =
      root === volume
        ? [created('snapshot', copy), changed('volume', volume, { ...cutTo, copiesBytes: together() })]
        : [
            created('snapshot', copy),
            changed('volume', volume, cutTo),
            changed('volume', root, { copiesBytes: together() }),
          ];
    overlay.apply(made);
    effects.push(...made);
  }
  return { effects: compacted(effects), copies };
}
