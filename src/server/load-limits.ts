import { limitWords } from '@/core/performance/limit-fields';
import { limitedTo, limitedVolumes } from '@/core/performance/limits';
import type { LimitRow, SubjectLoad } from '@/core/performance/answers';
import { byName } from '@/core/operation/draft';
import { DAY } from '@/core/units/duration';
import type { Plant } from './plant';

import { rowsOf, spanOf } from './load-spans';

export function limitsOn({ estate }: Plant, id: string): SubjectLoad['limits'] {
  const volume = estate.table('volume').get(id)!;
  return estate
    .table('loadLimit')
    .by('array', volume.array)
    .flatMap((limit) => {
      if (!limitedVolumes(estate, limit).has(id)) return [];
      const { id: limitId, name, array, ...figures } = limit;
      return [
        {
          id: limitId,
          name,
          array: estate.table('array').get(array)!.name,
          figures,
          iops: limitedTo(limit, { size: volume.size, ioBytes: volume.activity?.ioBytes ?? 8192 }),
          shared: limit.shared,
        },
      ];
    });
}

/** Every limit with what it is put on, and how much of what its volumes did in the last day waited for it. */
export function limitRows(plant: Plant): LimitRow[] {
  const { estate } = plant;
  const { from, to } = spanOf(plant, DAY / 1000, null);
  const rows = rowsOf(plant, from, to);
  return [...estate.table('loadLimit').values()].sort(byName).map((limit) => {
    const volumes = [...limitedVolumes(estate, limit)].map((id) => estate.table('volume').get(id)!);
    const all = volumes.flatMap(({ id }) => rows.get(id) ?? []);
    const done = all.reduce((sum, row) => sum + row.served, 0);
    return {
      id: limit.id,
      name: limit.name,
      array: estate.table('array').get(limit.array)!.name,
      says: limitWords(limit),
      volumes: volumes.map(({ name }) => name).sort(),
      held: done > 0 ? all.reduce((sum, row) => sum + row.held, 0) / done : 0,
      notes: limit.notes,
    };
  });
}
