import { leadOf } from '../copies/legs';
import type { LoadLimit } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { densityLimit } from '../qos/cost';
import { byName } from '../operation/draft';
import type { LoadVolume, ModelLimit } from './shape';
/** Volumes that a limit is put on, by themselves, by their workload, by a host that works with them or by the consumer who took them. */
export function limitedVolumes(view: EstateView, limit: LoadLimit): Set<string> {
  const found = new Set<string>();
  const add = (id: string) => {
    const volume = view.table('volume').get(id);
    if (volume?.array === limit.array && volume.deletedAt === null) found.add(volume.id);
  };
  for (const use of view.table('limitUse').by('loadLimit', limit.id)) {
    if (use.volume !== null) add(use.volume);
    if (use.workload !== null) for (const volume of view.table('volume').by('workload', use.workload)) add(volume.id);
    if (use.allotment !== null)
      for (const { volume } of view.table('allotmentUse').by('allotment', use.allotment)) add(volume);
    if (use.host !== null)
      for (const device of view.table('hostDevice').by('host', use.host)) add(leadOf(view, device.volume));
  }
  return found;
}

/** What a limit lets a volume of this size and I/O size do, I/O of its own a second; null for no limit. */
export function limitedTo(limit: LoadLimit, { size, ioBytes }: { size: number; ioBytes: number }): number | null {
  const cost = Math.max(1, Math.ceil(ioBytes / 65_536));
  const rates: number[] = [];
  if (limit.iops !== null) rates.push(limit.iops / cost);
  if (limit.iopsPerGiB !== null)
    rates.push(
      densityLimit({
        iopsPerGiB: limit.iopsPerGiB,
        sizeBytes: size,
        minIops: limit.leastIops,
        maxIops: limit.mostIops ?? Infinity,
      }).iops / cost,
    );
  if (limit.bytesPerS !== null) rates.push(limit.bytesPerS / ioBytes);
  return rates.length === 0 ? null : Math.min(...rates);
}

/** Every limit that holds back some volume of the model. */
export function limitsOf(view: EstateView, volumes: readonly LoadVolume[]): ModelLimit[] {
  if (view.table('loadLimit').size === 0) return [];
  const places = new Map(volumes.map(({ id }, k) => [id, k]));
  return [...view.table('loadLimit').values()].sort(byName).flatMap((limit): ModelLimit[] => {
    const members = [...limitedVolumes(view, limit)].flatMap((id) => {
      const volume = places.get(id);
      if (volume === undefined) return [];
      const { size } = view.table('volume').get(id)!;
      return [{ volume, iops: limitedTo(limit, { size, ioBytes: volumes[volume]!.ioBytes }), floor: limit.floor }];
    });
    if (members.length === 0) return [];
    const { id, name, shared, weight, burst, fromHour, untilHour } = limit;
    const rates = members.flatMap(({ iops }) => (iops === null ? [] : [iops]));
    return [
      {
        id,
        name,
        shared,
        weight,
        burst,
        fromHour,
        untilHour,
        members,
        // Of volumes that differ in the size of their I/O the mean decides.
        together: shared && rates.length > 0 ? rates.reduce((sum, one) => sum + one, 0) / rates.length : null,
      },
    ];
  });
}
