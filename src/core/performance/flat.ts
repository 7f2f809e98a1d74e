import type { LoadModel } from './shape';

/** A model as plain arrays: uses of volume v stand at [start[v], start[v + 1]), what its misses go to at [mediaStart[v], mediaStart[v + 1]). */
export interface Flat {
  start: Int32Array;
  resource: Int32Array;
  /** Units and visits of the mean I/O. */
  units: Float64Array;
  visits: Float64Array;
  /** Visits of a read and of a write on the way there; none at a group, whose queue only misses see. */
  readWaits: Float64Array;
  writeWaits: Float64Array;
  mediaStart: Int32Array;
  media: Int32Array;
  mediaShare: Float64Array;
}

export function flattened({ volumes, resources }: LoadModel): Flat {
  const uses = volumes.reduce((sum, one) => sum + one.uses.length, 0);
  const media = volumes.reduce((sum, one) => sum + one.media.length, 0);
  const flat: Flat = {
    start: new Int32Array(volumes.length + 1),
    resource: new Int32Array(uses),
    units: new Float64Array(uses),
    visits: new Float64Array(uses),
    readWaits: new Float64Array(uses),
    writeWaits: new Float64Array(uses),
    mediaStart: new Int32Array(volumes.length + 1),
    media: new Int32Array(media),
    mediaShare: new Float64Array(media),
  };
  let [u, m] = [0, 0];
  volumes.forEach((volume, v) => {
    const total = volume.reads + volume.writes;
    const reads = total === 0 ? 0 : volume.reads / total;
    const writes = total === 0 ? 0 : volume.writes / total;
    flat.start[v] = u;
    for (const use of volume.uses) {
      const waits = resources[use.resource]!.kind === 'group' ? 0 : 1;
      flat.resource[u] = use.resource;
      flat.units[u] = reads * use.read + writes * use.write;
      flat.visits[u] = reads * use.readVisits + writes * use.writeVisits;
      flat.readWaits[u] = waits * use.readVisits;
      flat.writeWaits[u] = waits * use.writeVisits;
      u += 1;
    }
    flat.mediaStart[v] = m;
    for (const { resource, share } of volume.media) {
      flat.media[m] = resource;
      flat.mediaShare[m++] = share;
    }
  });
  flat.start[volumes.length] = u;
  flat.mediaStart[volumes.length] = m;
  return flat;
}
