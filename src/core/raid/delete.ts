import { z } from 'zod';
import { changed, deleted } from '../estate/effects';
import { arrayChoices, byName, draftArray, draftText } from '../operation/draft';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';

const schema = z.object({ array: z.string(), name: z.string() });
type Params = z.output<typeof schema>;

export const raidGroupDelete: OperationType<Params> = {
  kind: 'raid-group.delete',
  verb: 'Retire a RAID group',
  summary: 'Takes a RAID group apart; its drives are free again. Refused while a pool rests on it.',
  schema,
  title: (p) => `Retire RAID group ${p.name} on ${p.array}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const group = array && asks.find('raidGroup', p.name, 'name', array);
    if (group?.pool) {
      const pool = view.table('pool').get(group.pool)!;
      asks.refuse({
        code: 'in-pool',
        field: 'name',
        subject: subjectOf('raidGroup', group),
        message: `${group.name} carries pool ${pool.name}.`,
        mend: `Retire pool ${pool.name} first.`,
      });
    }
    if (asks.refusals.length > 0 || !array || !group) return refused(asks.refusals);
    const drives = group.drives.flatMap((id) => view.table('drive').get(id) ?? []);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Take ${group.name} apart: ${drives.length} drives are free again`,
      takes: 3 * SECOND,
      effects: [
        ...view
          .table('job')
          .by('raidGroup', group.id)
          .map((job) => deleted('job', job)),
        ...drives.map((drive) => changed('drive', drive, { raidGroup: null })),
        deleted('raidGroup', group),
      ],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const fields: Foretold['fields'] = { array: { choices: arrayChoices(view) }, name: {} };
    if (!array) return { fields };
    fields.name!.choices = [...view.table('raidGroup').by('array', array.id)].sort(byName).map((group) => ({
      value: group.name,
      label: group.name,
      ...(group.pool ? { unfit: `carries pool ${view.table('pool').get(group.pool)?.name}` } : {}),
    }));
    const group = lookUp(view, 'raidGroup', draftText(draft, 'name'), array.id);
    if (group) fields.name!.says = `${group.drives.length} drives return to the shelf.`;
    return { fields };
  },
};
