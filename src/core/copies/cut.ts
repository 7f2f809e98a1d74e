import { devicesOn } from './legs';
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
  const devices = devicesOn(view, volume.id).filter((device) => device.fileSystem !== null);
  const device = devices.find((one) => one.mountPoint !== null) ?? devices[0];
  if (!device) return volume.image;
  const { fileSystem, fileSystemSize, used, free } = device;
  return { fileSystem: fileSystem!, size: fileSystemSize, used, free };
}

const ALL = [...ALL_STANDS];
const plainCopy = rowOf('snapshot', {
  id: 'copy',
  name: 'copy',
  volume: 'volume',
  cut: 'cut',
  at: 0,
  size: 0,
  written: 0,
});
const sameList = (a: number[], b: number[]): number[] => (a[0] === b[0] && a[1] === b[1] ? b : a);

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
  // Each is cut by itself, unless two of them share a lineage.
  const alone = volumes.every((volume) => volume.origin === null && isStraight(view, volume));
  const overlay = alone ? null : new Overlay(view);
  const seen = overlay ?? view;
  for (const { id } of volumes) {
    const volume = seen.table('volume').get(id)!;
    const root = rootOf(seen, volume);
    const first = root.copiesBytes === 0 && volume.base === null;
    const own = volume.activity ? partsOf(volume.activity) : [0, 0];
    const parts = first ? own : root.parts;
    const base = volume.base === null ? undefined : seen.table('snapshot').get(volume.base);
    // Copies are many: what is alike is one thing in memory.
    const copy: Rows['snapshot'] = {
      ...plainCopy,
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
      stands: base ? volume.stands : ALL,
    };
    copies.push(copy);
    const together = (): number => {
      if (isStraight(seen, root))
        return root.copiesBytes + shownBytes(volume) - (base ? sharedBytes(base, volume, parts) : 0);
      return bytesTogether([...familyCopies(seen, root), copy], parts);
    };
    const cutTo = { base: copy.id, stands: ALL, parts: sameList(parts, volume.parts) };
    const made: Effect[] =
      root === volume
        ? [created('snapshot', copy), changed('volume', volume, { ...cutTo, copiesBytes: together() })]
        : [
            created('snapshot', copy),
            changed('volume', volume, cutTo),
            changed('volume', root, { copiesBytes: together() }),
          ];
    overlay?.apply(made);
    effects.push(...made);
  }
  return { effects: alone ? effects : compacted(effects), copies };
}
