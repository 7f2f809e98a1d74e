/** Relative slack with which a sum counts as having reached a capacity. */
const SLACK = 1e-12;

export interface Asking {
  id: string;
  iops: number;
  /** What one I/O takes of a resource, by the resource's id. */
  uses: Readonly<Record<string, number>>;
}

export interface Served {
  servedFraction: Record<string, number>;
  servedIops: Record<string, number>;
  /** The resource that keeps a volume from more, or null. */
  boundBy: Record<string, string | null>;
  /** What is taken of each resource a second. */
  used: Record<string, number>;
}

/**
 * Who gets how much where resources are short (load.md E): one fraction rises from 0 to 1 for all; when a resource is full, the volumes that use
 * it stop there, and the rest go on. Capacities and uses share a unit by resource; ties go to the lowest id of a resource.
 */
export function serve({
  resources,
  volumes,
}: {
  resources: Readonly<Record<string, number>>;
  volumes: readonly Asking[];
}): Served {
  const ids = Object.keys(resources).sort();
  const used: Record<string, number> = Object.fromEntries(ids.map((id) => [id, 0]));
  const servedFraction: Record<string, number> = {};
  const boundBy: Record<string, string | null> = {};
  let rising = volumes.filter((volume) => {
    boundBy[volume.id] = null;
    servedFraction[volume.id] = 1;
    return volume.iops > 0;
  });
  while (rising.length > 0) {
    const rate: Record<string, number> = {};
    for (const { iops, uses } of rising)
      for (const [id, use] of Object.entries(uses)) if (use > 0) rate[id] = (rate[id] ?? 0) + iops * use;
    // What those that have stopped take stays taken.
    let until = 1;
    let full: string | null = null;
    for (const id of ids) {
      if (!(rate[id]! > 0)) continue;
      const at = Math.max(0, (resources[id]! - used[id]!) / rate[id]!);
      if (at < until * (1 - SLACK)) [until, full] = [at, id];
    }
    const stopping = full === null ? rising : rising.filter(({ uses }) => (uses[full] ?? 0) > 0);
    for (const volume of stopping) {
      servedFraction[volume.id] = until;
      boundBy[volume.id] = full;
      for (const [id, use] of Object.entries(volume.uses)) used[id] = (used[id] ?? 0) + volume.iops * until * use;
    }
    const gone = new Set(stopping);
    rising = rising.filter((volume) => !gone.has(volume));
  }
  return {
    servedFraction,
    servedIops: Object.fromEntries(volumes.map(({ id, iops }) => [id, iops * servedFraction[id]!])),
    boundBy,
    used,
  };
}
