import { cutOf } from '@/core/copies/cut';
import { compacted, type Effect } from '@/core/estate/effects';
import { Estate } from '@/core/estate/estate';
import { newIds } from '@/core/estate/new-ids';
import { MINUTE } from '@/core/units/duration';
import { LAB_START } from '../demo/hardware';
import { protectedEstate } from './protected-estate';

/** Workloads of one volume each, with so many copies in all, made every half hour up to now. */
export function manyCopies(workloads: number, copies: number): Effect[] {
  const put = protectedEstate({ volumes: workloads, protectedVolumes: workloads, workloads, seed: 'copies' });
  const estate = new Estate();
  estate.apply(put);
  const all: Effect[] = [...put];
  const newId = newIds('copies');
  const [plan] = estate.table('plan').values();
  const rounds = Math.ceil(copies / workloads);
  const subjects = [...estate.table('workload').values()].flatMap((workload) =>
    estate
      .table('volume')
      .by('workload', workload.id)
      .slice(0, 1)
      .map(({ id }) => ({ workload, id })),
  );
  for (let k = rounds; k > 0; k--)
    for (const { workload, id } of subjects) {
      const { effects } = cutOf(
        estate,
        [estate.table('volume').get(id)!],
        {
          name: `copy-${rounds - k}`,
          at: LAB_START - k * 30 * MINUTE,
          workload: workload.id,
          plan: plan!.id,
          schedules: ['half-hourly'],
          madeBy: plan!.name,
          label: k % 5 === 0 ? 'application' : 'crash',
        },
        newId,
      );
      estate.apply(effects);
      all.push(...effects);
    }
  return compacted(all);
}
