import { postOf, worstPost } from './posts';
import type { RaidGroup } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, poolOf, siteOf } from '../estate/relations';
import { targetsOf } from '../iscsi/target';
import { byName } from '../operation/draft';
import { driveRef } from '../operation/inquiry';
import { groupsOf, poolUsage, reduces } from '../pool/usage';
import { exactBytes, formatBytes, formatDecimalBytes, percentUsed } from '../units/bytes';
import { timeText } from '../units/date';
import { formatDuration, HOUR } from '../units/duration';
import { formatChance, formatCount, formatPercent } from '../units/figures';
import { lossesOf, levelText, shapeOfGroup } from '../raid/geometry';
import { workWords } from '../kinds/work-words';
import { groupHealth } from '../raid/health';
import { groupLoad } from '../raid/load';
import { degradedWrite, writePenalty } from '../raid/performance';
import { backgroundShare, spareUnfit } from '../raid/rebuild';
import { nines } from '../raid/reliability';
import { groupRisk, poolLoss, yearsLeft } from '../raid/risk';
import { needOf } from '../raid/tend';
import { drivePost } from './storey';
import { groupLine, plural, type FactLine, type Told } from './facts-lines';
import { outsideLines } from './facts-outside';
import { someOf } from '../units/counted';

export function arrayFacts(view: EstateView, id: string): Told {
  const array = view.table('array').get(id)!;
  const controllers = [...view.table('controller').by('array', id)].sort(byName);
  const drives = view.table('drive').by('array', id);
  const groups = view.table('raidGroup').by('array', id);
  const pools = [...view.table('pool').by('array', id)].map((pool) => poolUsage(view, pool));
  const total = (of: (usage: (typeof pools)[number]) => number) => pools.reduce((sum, usage) => sum + of(usage), 0);
  const down = controllers.filter((controller) => controller.state === 'down').length;
  return {
    name: array.name,
    post: postOf(down > 0 && down === controllers.length, down > 0),
    line: `${array.model} at ${siteOf(view, array).name}`,
    verbs: [
      { label: 'Carve RAID group', do: 'raid-group.create', params: { array: array.name } },
      { label: 'Make pool', do: 'pool.create', params: { array: array.name } },
      { label: 'Carve volumes', do: 'volume.create', params: { array: array.name } },
      { label: 'Set up port', do: 'port.configure', params: { array: array.name } },
    ],
    cells: [
      {
        title: 'Capacity',
        rows: [
          { label: 'Raw', value: formatDecimalBytes(drives.reduce((sum, drive) => sum + drive.capacity, 0)) },
          { label: 'In RAID groups', value: formatBytes(groups.reduce((sum, group) => sum + group.usable, 0)) },
          {
            label: 'Filled',
            value: `${formatBytes(
              total((usage) => usage.usedBytes),
              'used',
            )}, ${percentUsed(
              total((usage) => usage.used),
              total((usage) => usage.capacity),
            )} %`,
          },
          {
            label: 'Promised',
            value: formatBytes(
              total((usage) => usage.promised),
              'used',
            ),
          },
        ],
      },
      {
        title: 'Stands on',
        lines: controllers.map((controller) => ({
          post: controller.state === 'up' ? 'stands' : 'broken',
          text: `Controller ${controller.name}`,
          more: `owns ${plural(view.table('volume').countBy('owner', controller.id), 'volume')}${controller.state === 'up' ? '' : '; its partner serves them'}`,
        })),
      },
      {
        title: 'Known as',
        rows: targetsOf(view, array.id).map((target) => ({
          label: target.main ? 'Target' : `Target ${target.name}`,
          value: target.iqn,
          mono: true,
        })),
      },
    ],
  };
}

/** What a drive is there for. */
/** Spares that would stand in for a member. */
function spareLine(view: EstateView, group: string): FactLine[] {
  const row = view.table('raidGroup').get(group)!;
  if (row.level === 'distributed')
    return [{ text: `Spare space of ${plural(row.spareColumns, 'drive')}`, more: `${row.moved.length} used` }];
  const fit = view
    .table('drive')
    .by('array', row.array)
    .filter((drive) => drive.spare !== 'no' && !spareUnfit(drive, needOf(view, row, 0)));
  return [
    fit.length > 0
      ? {
          text: `Spare ${fit
            .map((drive) => driveRef(view, drive))
            .slice(0, 3)
            .join(', ')}`,
          more: 'stands by',
        }
      : { post: 'leans', text: 'No spare', more: 'fits it' },
  ];
}

export function groupFacts(view: EstateView, id: string): Told {
  const group = view.table('raidGroup').get(id)!;
  const array = arrayOf(view, group);
  const line = groupLine(view, id);
  const pool = poolOf(view, group);
  const health = groupHealth(view, group);
  return {
    name: group.name,
    post: line.post,
    line: `${levelText(shapeOfGroup(group))} on ${array.name}`,
    verbs: pool
      ? [
          { label: 'Expand', do: 'raid-group.expand', params: { array: array.name, name: group.name } },
          { label: 'Scrub', do: 'raid-group.scrub', params: { array: array.name, name: group.name } },
          { label: 'Change', do: 'raid-group.configure', params: { array: array.name, name: group.name } },
          {
            label: 'Take out of pool',
            do: 'pool.remove-group',
            params: { array: array.name, name: pool.name, raidGroup: group.name },
          },
        ]
      : [
          { label: 'Make pool', do: 'pool.create', params: { array: array.name, raidGroups: [group.name] } },
          { label: 'Expand', do: 'raid-group.expand', params: { array: array.name, name: group.name } },
          { label: 'Retire', do: 'raid-group.delete', params: { array: array.name, name: group.name } },
        ],
    cells: [
      {
        title: 'Size',
        rows: [
          { label: 'Usable', value: formatBytes(group.usable) },
          { label: 'Each member', value: formatBytes(group.memberSize) },
          { label: 'Chunk', value: exactBytes(group.chunk) },
        ],
      },
      {
        title: 'Rests on',
        lines: [
          {
            text: `${plural(group.drives.length, 'drive')} in ${plural(new Set(group.drives.map((drive) => view.table('drive').get(drive)?.enclosure)).size, 'enclosure')}`,
            more: `it ${line.more}`,
          },
          ...outsideLines(view, group.drives),
          ...health.failed.map((drive): FactLine => ({
            post: drivePost(view, drive),
            text: `Drive ${driveRef(view, drive)}`,
            more: group.moved.includes(drive.id)
              ? `${drive.state}; its data is in spare space`
              : drive.state === 'rebuilding'
                ? 'rebuilds'
                : `is ${drive.state === 'ok' || drive.state === 'predicted' ? 'in an enclosure that does not answer' : drive.state}`,
          })),
          ...view
            .table('job')
            .by('raidGroup', id)
            .map((job): FactLine => ({
              post: 'in work',
              text: workWords[job.kind].busy.replace(/^it is being |^it is /, ''),
              more: job.paused
                ? 'stands still while no controller is up, and goes on from there'
                : `until ${timeText(job.finishesAt)}, at ${formatBytes(job.rate)}/s, ${job.priority} priority: takes ${formatPercent(backgroundShare(job.priority, groupLoad(view, group)))} of its drives, hosts ${formatPercent(groupLoad(view, group))}`,
            })),
          ...spareLine(view, group.id),
        ],
      },
      {
        title: 'Carries',
        lines: [
          {
            text: pool
              ? `${pool.direct ? 'No pool' : `Pool ${pool.name}`}, ${plural(view.table('volume').countBy('pool', pool.id), 'volume')}`
              : 'Nothing yet. Make a pool from it, or carve volumes straight.',
          },
        ],
      },
      { title: 'Risk', rows: riskRows(view, group) },
    ],
  };
}

function riskRows(view: EstateView, group: RaidGroup): { label: string; value: string }[] {
  const { shape, hours, loss } = groupRisk(view, group);
  const years = yearsLeft(view, group);
  const degraded = degradedWrite(shape);
  return [
    ...lossRows(loss),
    ...(lossesOf(shape) > 0
      ? [
          { label: 'Rebuild takes', value: formatDuration(hours * HOUR) },
          { label: 'Small write', value: `${writePenalty(shape)} drive I/Os` },
          {
            label: 'One drive missing',
            value: `${Number((degraded.reads + degraded.writes).toFixed(1))} drive I/Os`,
          },
        ]
      : []),
    ...(years === null
      ? []
      : [{ label: 'Rated writes last', value: years >= 100 ? 'over 100 years' : `${formatCount(years)} years` }]),
  ];
}

const lossRows = (loss: number): { label: string; value: string }[] => [
  { label: 'Loss in a year', value: formatChance(loss) },
  ...(loss > 0 ? [{ label: 'Durability', value: `${Number(nines(loss).toFixed(1))} nines` }] : []),
];

export function poolFacts(view: EstateView, id: string): Told {
  const pool = view.table('pool').get(id)!;
  const array = arrayOf(view, pool);
  const usage = poolUsage(view, pool);
  const volumes = [...view.table('volume').by('pool', id)].sort(byName);
  const lines = groupsOf(view, id).map((group) => groupLine(view, group.id));
  return {
    name: pool.name,
    post: worstPost(lines, usage.available === 0),
    line: `${plural(lines.length, 'RAID group')} on ${array.name}, extents of ${exactBytes(pool.extentSize)}`,
    verbs: pool.direct
      ? [
          {
            label: 'Carve volumes',
            do: 'volume.create',
            params: { array: array.name, raidGroup: groupsOf(view, id)[0]?.name ?? '' },
          },
        ]
      : [
          { label: 'Carve volumes', do: 'volume.create', params: { array: array.name, pool: pool.name } },
          { label: 'Extend', do: 'pool.extend', params: { array: array.name, name: pool.name } },
          { label: 'Change', do: 'pool.configure', params: { array: array.name, name: pool.name } },
          ...(lines.length > 1
            ? [{ label: 'Rebalance', do: 'pool.rebalance', params: { array: array.name, name: pool.name } }]
            : []),
          ...(reduces(pool)
            ? [{ label: 'Reduce now', do: 'pool.reduce', params: { array: array.name, name: pool.name } }]
            : []),
          ...(volumes.length === 0
            ? [{ label: 'Retire', do: 'pool.delete', params: { array: array.name, name: pool.name } }]
            : []),
        ],
    cells: [
      {
        title: 'Size',
        rows: [
          { label: 'Capacity', value: formatBytes(usage.size) },
          {
            label: 'Filled',
            value: `${formatBytes(usage.usedBytes, 'used')}, ${percentUsed(usage.used, usage.capacity)} %`,
          },
          { label: 'Left', value: formatBytes(usage.availableBytes) },
          {
            label: 'Promised',
            value: `${formatBytes(usage.promised, 'used')}, ${percentUsed(usage.promised, usage.size)} %`,
          },
          { label: 'In reserve', value: formatBytes(usage.reserveBytes, 'used') },
          { label: 'Marks', value: `${pool.notice} %, ${pool.urgent} %` },
          ...(lines.length > 0 ? lossRows(poolLoss(view, id)) : []),
        ],
      },
      { title: 'Rests on', lines },
      {
        title: 'Carries',
        lines: [
          {
            text:
              volumes.length === 0
                ? 'No volume yet. Carve one.'
                : `${plural(volumes.length, 'volume')}: ${someOf(
                    volumes.map((volume) => volume.name),
                    6,
                  )}`,
          },
        ],
      },
    ],
  };
}
