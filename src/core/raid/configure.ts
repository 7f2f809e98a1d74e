import { z } from 'zod';
import { the } from '../operation/form';
import { changed } from '../estate/effects';
import { priorities, type Job, type RaidGroup } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { poolOf } from '../estate/relations';
import { atRate } from '../job/work';
import { arrayChoices, byName, draftArray, draftText } from '../operation/draft';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { formatBytes } from '../units/bytes';
import { formatDuration, SECOND } from '../units/duration';
import { levelText, shapeOfGroup } from './geometry';
import { directName } from './room';
import { rateOfRebuild, shareRate } from './rates';
import { groupWork } from './works';
import { capital } from '../units/counted';

const schema = z.object({
  array: z.string(),
  name: z.string(),
  newName: z.string().optional(),
  priority: z.enum(priorities).optional().describe('Of rebuilds and other background jobs'),
});
type Params = z.output<typeof schema>;

/** What is no work on groups by itself, such as emptying one, writes as fast as its share allows. */
function reRated(view: EstateView, group: RaidGroup, job: Job, now: number) {
  const work = groupWork.find(({ name }) => name === job.kind);
  const rate = work?.rate(view, group, group.priority) ?? shareRate(view, group, group.priority).write;
  return atRate(job, rate, now);
}

export const raidGroupConfigure: OperationType<Params> = {
  kind: 'raid-group.configure',
  verb: 'Change a RAID group',
  summary: 'Renames a RAID group or sets how much of its speed background jobs may take.',
  schema,
  form: {
    columns: [1, 2, 3],
    fields: {
      array: the.array,
      name: the.group,
      newName: 'New name',
      priority: 'Priority',
    },
  },
  title: (p) => `Change RAID group ${p.name} on ${p.array}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const group = array && asks.find('raidGroup', p.name, 'name', array);
    const newName =
      array && group && p.newName && p.newName !== group.name
        ? asks.freeName('raidGroup', p.newName, array, 'newName', group)
        : group?.name;
    if (asks.refusals.length > 0 || !array || !group || !newName) return refused(asks.refusals);
    const priority = p.priority ?? group.priority;
    const next = { ...group, priority };
    const room = group.pool && newName !== group.name ? poolOf(view, group) : undefined;
    const jobs = view
      .table('job')
      .by('raidGroup', group.id)
      .filter((job) => job.kind !== 'raid-copy-back' && job.priority !== priority);
    const said = [
      newName === group.name ? '' : `is called ${newName}`,
      priority === group.priority ? '' : `background jobs have ${priority} priority`,
    ].filter(Boolean);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Change ${group.name}: ${said.join(', ') || 'nothing changes'}`,
      takes: SECOND,
      effects: [
        changed('raidGroup', group, { name: newName, priority }),
        ...(room?.direct ? [changed('pool', room, { name: directName(newName) })] : []),
        ...jobs.map((job) => changed('job', job, { priority, ...reRated(view, next, job, context.now) })),
      ],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const fields: Foretold['fields'] = { array: { choices: arrayChoices(view) }, name: {}, newName: {}, priority: {} };
    fields.priority!.choices = priorities.map((value) => ({ value, label: capital(value) }));
    if (!array) return { fields };
    fields.name!.choices = [...view.table('raidGroup').by('array', array.id)]
      .sort(byName)
      .map((group) => ({ value: group.name, label: `${group.name} ${levelText(shapeOfGroup(group))}` }));
    const group = lookUp(view, 'raidGroup', draftText(draft, 'name'), array.id);
    if (!group) return { fields };
    fields.name!.says = `${levelText(shapeOfGroup(group))}, ${formatBytes(group.usable)} usable.`;
    fields.newName!.says = 'Left empty, the name stays.';
    fields.priority!.suggested = group.priority;
    const priority = priorities.find((one) => one === draftText(draft, 'priority')) ?? group.priority;
    const hours = (group.memberSize / rateOfRebuild(view, group, priority)) * 1000;
    fields.priority!.says = `A rebuild would take ${formatDuration(hours)} under the present load.`;
    return { fields };
  },
};
