import type { ByteRun, Volume } from '../estate/entities';
import type { Bytes } from '../units/bytes';
import { PAGE } from './page';
import { without } from '../estate/runs';
import { mappedRuns, pageContent } from './weave';

/** End of the last page that holds anything but zeros; 0 where there is none. What a volume can be shrunk to. */
export function dataEnd(volume: Pick<Volume, 'id' | 'content' | 'written' | 'holes'>): Bytes {
  for (const [start, end] of mappedRuns(volume).reverse())
    for (let page = end / PAGE; page > start / PAGE; page--)
      if (pageContent(volume, page - 1).what !== 'zero') return page * PAGE;
  return 0;
}

/** What lies beyond `size` goes: the fields of a volume cut to it. */
export const cutTo = (volume: Volume, size: Bytes): Pick<Volume, 'size' | 'written' | 'holes' | 'reducedTo'> => ({
  size,
  written: Math.min(volume.written, size),
  holes: without(volume.holes, [[Math.min(volume.written, size), Infinity] as ByteRun]),
  reducedTo: Math.min(volume.reducedTo, size),
});
