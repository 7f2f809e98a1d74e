import { z } from 'zod';
import { the } from '../operation/form';
import { changed, created } from '../estate/effects';
import type { Pool, RaidGroup } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { startedJob } from '../job/work';
import { arrayChoices, byName, draftArray, draftText } from '../operation/draft';
import { askPool, realPools } from './direct';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf, type Refusal } from '../operation/refusal';
import { groupHealth } from '../raid/health';
import { groupLoad, mediaOfGroup } from '../raid/load';
import { backgroundShare } from '../raid/rebuild';
import { formatBytes, percentUsed } from '../units/bytes';
import { formatDuration, SECOND } from '../units/duration';
import { groupsOf, poolUsage } from './usage';

const schema = z.object({ array: z.string(), name: z.string(), raidGroup: z.string() });
type Params = z.output<typeof schema>;

/**
 * Bytes a second at which extents move out of a group, or within a pool: the slower of reading it and writing the others, at its priority. `busy` is
 * how busy hosts keep a group, 0 to 1, where more is known than what they write.
 */
export function moveRate(
  view: EstateView,
  pool: Pool,
  from: RaidGroup | null,
  busy: (group: RaidGroup) => number = () => 0,
): number {
  const { speed, load } = moveSpeed(view, pool, from);
  return speed * backgroundShare(from?.priority ?? 'low', load(busy));
}

/** What groups do for such moves when they do nothing else, bytes a second, and how busy the busiest of them is. */
export function moveSpeed(view: EstateView, pool: Pool, from: RaidGroup | null) {
  const groups = groupsOf(view, pool.id);
  const speed = (group: RaidGroup, way: 'readMBps' | 'writeMBps') =>
    mediaOfGroup(view, group)[way] * 1e6 * (way === 'readMBps' ? group.drives.length : group.data * group.legs);
  const targets = groups.filter((group) => group.id !== from?.id);
  const sources = from ? [from] : groups;
  const read = sources.reduce((sum, group) => sum + speed(group, 'readMBps'), 0);
  const write = targets.reduce((sum, group) => sum + speed(group, 'writeMBps'), 0);
  const written = groups.map((group) => groupLoad(view, group));
  return {
    speed: Math.min(read, write),
    load: (busy: (group: RaidGroup) => number) =>
      Math.max(...groups.map((group, k) => Math.max(written[k]!, busy(group)))),
  };
}

/** Why a group cannot be emptied, or null. */
function blocked(view: EstateView, pool: Pool, group: RaidGroup): Refusal | null {
  const subject = subjectOf('raidGroup', group);
  const usage = poolUsage(view, pool);
  const others = usage.groups.filter((one) => one.group.id !== group.id);
  if (others.length === 0)
    return {
      code: 'last-group',
      field: 'raidGroup',
      subject,
      message: `${group.name} is the only group of ${pool.name}.`,
      mend: 'Extend the pool by another group first, or retire the pool.',
    };
  if (group.draining)
    return {
      code: 'group-busy',
      field: 'raidGroup',
      subject,
      message: `${group.name} is being emptied already.`,
      mend: 'Wait until that is done.',
    };
  const target = others.find((one) => ['degraded', 'lost'].includes(groupHealth(view, one.group).state));
  if (target)
    return {
      code: 'target-degraded',
      field: 'raidGroup',
      subject: subjectOf('raidGroup', target.group),
      message: `Extents would move to ${target.group.name}, which is not whole.`,
      mend: 'Wait until it is rebuilt.',
    };
  const used = view.occupancy.used(group.id);
  const room = others.reduce((sum, one) => sum + one.free, 0) - usage.reserve;
  if (used <= room) return null;
  return {
    code: 'pool-evacuation-blocked',
    field: 'raidGroup',
    subject,
    message: `${group.name} holds ${used} extents, the other groups have room for ${Math.max(0, room)}: ${formatBytes((used - Math.max(0, room)) * pool.extentSize, 'used')} are missing.`,
    mend: 'Extend the pool, or free space in it.',
  };
}

export const poolRemoveGroup: OperationType<Params> = {
  kind: 'pool.remove-group',
  verb: 'Take a RAID group out of a pool',
  summary: 'Moves a group’s extents to the other groups of its pool, then lets it go. Hosts work on.',
  schema,
  form: {
    columns: [1, 2, 3],
    fields: {
      array: the.array,
      name: the.pool,
      raidGroup: the.group,
    },
  },
  title: (p) => `Take ${p.raidGroup} out of pool ${p.name} on ${p.array}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const pool = array && askPool(asks, p.name, 'name', array);
    const group = array && asks.find('raidGroup', p.raidGroup, 'raidGroup', array);
    if (pool && group && group.pool !== pool.id)
      asks.refuse({
        code: 'not-in-pool',
        field: 'raidGroup',
        subject: subjectOf('raidGroup', group),
        message: `${group.name} is no part of ${pool.name}.`,
        mend: `Choose one of ${groupsOf(view, pool.id)
          .map((one) => one.name)
          .join(', ')}.`,
      });
    const refusal = pool && group?.pool === pool.id ? blocked(view, pool, group) : null;
    if (refusal) asks.refuse(refusal);
    if (asks.refusals.length > 0 || !array || !pool || !group) return refused(asks.refusals);
    const used = view.occupancy.used(group.id);
    const usage = poolUsage(view, pool);
    const rest = usage.capacity - usage.groups.find((one) => one.group.id === group.id)!.capacity;
    const device = { kind: 'array', id: array.id, name: array.name } as const;
    if (used === 0)
      return planned({
        device,
        title: `Take ${group.name} out of ${pool.name}: it is empty`,
        takes: 2 * SECOND,
        effects: [changed('raidGroup', group, { pool: null })],
      });
    const job = startedJob(
      {
        id: context.newId('job'),
        kind: 'pool-drain',
        array: array.id,
        raidGroup: group.id,
        pool: pool.id,
        priority: group.priority,
        total: used * pool.extentSize,
        rate: moveRate(view, pool, group),
      },
      context.now,
    );
    const fill = percentUsed(usage.used, rest);
    return planned({
      device,
      title: `Empty ${group.name}: ${formatBytes(job.total, 'used')} move within ${formatDuration(job.finishesAt - context.now)}, then it leaves ${pool.name}`,
      takes: 2 * SECOND,
      effects: [changed('raidGroup', group, { draining: true }), created('job', job)],
      notes: fill >= pool.urgent ? [`${pool.name} will be ${fill} % full.`] : [],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const fields: Foretold['fields'] = { array: { choices: arrayChoices(view) }, name: {}, raidGroup: {} };
    if (!array) return { fields };
    fields.name!.choices = realPools(view, array.id).map((pool) => ({ value: pool.name, label: pool.name }));
    const pool = lookUp(view, 'pool', draftText(draft, 'name'), array.id);
    if (!pool) return { fields };
    fields.raidGroup!.choices = [...groupsOf(view, pool.id)].sort(byName).map((group) => {
      const refusal = blocked(view, pool, group);
      return {
        value: group.name,
        label: `${group.name}, holds ${formatBytes(view.occupancy.used(group.id) * pool.extentSize, 'used')}`,
        ...(refusal
          ? {
              unfit:
                refusal.code === 'last-group'
                  ? 'is the only one'
                  : refusal.code === 'pool-evacuation-blocked'
                    ? 'does not fit elsewhere'
                    : 'not now',
            }
          : {}),
      };
    });
    const group = lookUp(view, 'raidGroup', draftText(draft, 'raidGroup'), array.id);
    if (group && group.pool === pool.id) {
      const bytes = view.occupancy.used(group.id) * pool.extentSize;
      fields.raidGroup!.says = `${formatBytes(bytes, 'used')} move, ${formatDuration((bytes / Math.max(1, moveRate(view, pool, group))) * 1000)}. Then it can be retired.`;
    }
    return { fields };
  },
};
