import { z } from 'zod';
import { the } from '../operation/form';
import { created } from '../estate/effects';
import { startedJob } from '../job/work';
import { arrayChoices, byName, draftArray, draftText } from '../operation/draft';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { formatDuration, SECOND } from '../units/duration';
import { busyRefusal } from './expand';
import { levelText, shapeOfGroup } from './geometry';
import { shareRate } from './rates';

const schema = z.object({ array: z.string(), name: z.string() });
type Params = z.output<typeof schema>;

export const raidGroupScrub: OperationType<Params> = {
  kind: 'raid-group.scrub',
  verb: 'Scrub a RAID group',
  summary: 'Reads every strip of a group and compares it with its parity or copies.',
  schema,
  form: {
    columns: [1, 2, 3],
    fields: {
      array: the.array,
      name: the.group,
    },
  },
  title: (p) => `Scrub RAID group ${p.name} on ${p.array}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const group = array && asks.find('raidGroup', p.name, 'name', array);
    const busy = group && busyRefusal(view, group, 'name');
    if (busy) asks.refuse(busy);
    if (asks.refusals.length > 0 || !array || !group) return refused(asks.refusals);
    const job = startedJob(
      {
        id: context.newId('job'),
        kind: 'raid-scrub',
        array: array.id,
        raidGroup: group.id,
        priority: 'low',
        total: group.memberSize,
        rate: shareRate(view, group, 'low').read,
      },
      context.now,
    );
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Begin to scrub ${group.name}: done after ${formatDuration(job.finishesAt - context.now)}`,
      takes: SECOND,
      effects: [created('job', job)],
    });
  },
  foretell(view, draft, context) {
    const array = draftArray(view, draft);
    const fields: Foretold['fields'] = { array: { choices: arrayChoices(view) }, name: {} };
    if (!array) return { fields };
    fields.name!.choices = [...view.table('raidGroup').by('array', array.id)].sort(byName).map((group) => ({
      value: group.name,
      label: `${group.name} ${levelText(shapeOfGroup(group))}`,
      ...(busyRefusal(view, group, 'name') ? { unfit: 'is not whole, or at work' } : {}),
    }));
    const group = lookUp(view, 'raidGroup', draftText(draft, 'name'), array.id);
    if (group)
      fields.name!.says = `Scrubbed ${group.scrubbedAt === 0 ? 'never' : `${formatDuration(context.now - group.scrubbedAt)} ago`}; takes ${formatDuration((group.memberSize / shareRate(view, group, 'low').read) * 1000)}.`;
    return { fields };
  },
};
