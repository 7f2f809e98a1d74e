import { z } from 'zod';
import { the } from '../operation/form';
import { changed, created, deleted } from '../estate/effects';
import type { Drive, Pool, RaidGroup } from '../estate/entities';
import { startedJob } from '../job/work';
import { arrayChoices, byName, draftArray, draftFlag, draftText } from '../operation/draft';
import { carriedWords } from './room';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { flag } from '../operation/params';
import { subjectOf } from '../operation/refusal';
import { formatDuration, MINUTE, SECOND } from '../units/duration';
import { mediaFigures } from './media';
import { poolOf } from '../estate/relations';

const schema = z.object({
  array: z.string(),
  name: z.string(),
  erase: flag.default(false).describe('Erases the drives securely before they are free again'),
});
type Params = z.output<typeof schema>;

/** Bytes a second at which a drive is erased: disk is written over; flash forgets its key within two minutes. */
export const eraseRate = (drive: Drive): number =>
  mediaFigures[drive.media].flash
    ? drive.capacity / ((2 * MINUTE) / SECOND)
    : mediaFigures[drive.media].writeMBps * 1e6;

export const raidGroupDelete: OperationType<Params> = {
  kind: 'raid-group.delete',
  verb: 'Retire a RAID group',
  summary: 'Takes a RAID group apart; its drives are free again. Refused while a pool rests on it.',
  schema,
  form: {
    columns: [1, 2, 3],
    fields: {
      array: the.array,
      name: the.group,
      erase: { label: 'Erase drives', control: 'switch' },
    },
  },
  title: (p) => `Retire RAID group ${p.name} on ${p.array}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const group = array && asks.find('raidGroup', p.name, 'name', array);
    if (group?.pool) {
      const pool = poolOf(view, group)!;
      const volumes = view.table('volume').countBy('pool', pool.id);
      const others = view.table('raidGroup').countBy('pool', pool.id) - 1;
      asks.refuse({
        code: 'in-pool',
        field: 'name',
        subject: subjectOf('raidGroup', group),
        message: pool.direct
          ? `${group.name} carries ${volumes} ${volumes === 1 ? 'volume' : 'volumes'} straight.`
          : `${group.name} carries pool ${pool.name}${volumes > 0 ? `, which holds ${volumes} ${volumes === 1 ? 'volume' : 'volumes'}` : ''}.`,
        mend: firstGoes(group, pool, others, volumes),
      });
    }
    if (asks.refusals.length > 0 || !array || !group) return refused(asks.refusals);
    const drives = group.drives.flatMap((id) => view.table('drive').get(id) ?? []);
    const kept = view.table('drive').by('spareGroup', group.id);
    const erased = p.erase ? drives.filter((drive) => drive.state === 'ok' || drive.state === 'predicted') : [];
    const jobs = erased.map((drive) =>
      startedJob(
        {
          id: context.newId('job'),
          kind: 'drive-erase',
          array: array.id,
          drive: drive.id,
          total: drive.capacity,
          rate: eraseRate(drive),
        },
        context.now,
      ),
    );
    const longest = Math.max(0, ...jobs.map((job) => job.finishesAt - context.now));
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Take ${group.name} apart: ${drives.length} drives are free again${erased.length > 0 ? `, after ${formatDuration(longest)} of erasing` : ''}`,
      takes: 3 * SECOND,
      effects: [
        ...view
          .table('job')
          .by('raidGroup', group.id)
          .map((job) => deleted('job', job)),
        ...drives.map((drive) =>
          changed('drive', drive, {
            raidGroup: null,
            standsInFor: null,
            holdsData: true,
            ...(drive.state === 'rebuilding' ? { state: 'ok' as const } : {}),
            ...(drive.spareGroup === group.id ? { spare: 'no' as const, spareGroup: null } : {}),
          }),
        ),
        ...kept
          .filter((drive) => !group.drives.includes(drive.id))
          .map((drive) => changed('drive', drive, { spare: 'no', spareGroup: null })),
        deleted('raidGroup', group),
        ...jobs.map((job) => created('job', job)),
      ],
      notes: p.erase ? [] : ['The drives keep what was written on them. Erase them before they leave the house.'],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const fields: Foretold['fields'] = { array: { choices: arrayChoices(view) }, name: {}, erase: {} };
    if (!array) return { fields };
    fields.name!.choices = [...view.table('raidGroup').by('array', array.id)].sort(byName).map((group) => ({
      value: group.name,
      label: group.name,
      ...(group.pool ? { unfit: carriedWords(view, group) } : {}),
    }));
    const group = lookUp(view, 'raidGroup', draftText(draft, 'name'), array.id);
    if (!group) return { fields };
    const drives = group.drives.flatMap((id) => view.table('drive').get(id) ?? []);
    const longest = Math.max(...drives.map((drive) => drive.capacity / eraseRate(drive))) * 1000;
    fields.name!.says = `${drives.length} drives return to the shelf.`;
    fields.erase!.says = draftFlag(draft, 'erase')
      ? `Erasing takes ${formatDuration(longest)}; the drives cannot be used until then.`
      : 'What was written stays on the drives.';
    return { fields };
  },
};

/** What has to go before a group that carries a pool. */
function firstGoes(group: RaidGroup, pool: Pool, others: number, volumes: number): string {
  if (pool.direct) return 'Retire and give up its volumes first.';
  if (others > 0) return `Take ${group.name} out of pool ${pool.name} first; its extents move to the other groups.`;
  return volumes > 0
    ? `Retire the volumes, then pool ${pool.name}, then ${group.name}.`
    : `Retire pool ${pool.name} first.`;
}
