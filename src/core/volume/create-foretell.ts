import { activityKinds } from '../kinds/activity';
import { activityLabels } from './activity-labels';
import type { EstateView } from '../estate/estate';
import { poolOf } from '../estate/relations';
import { nameSeries } from '../naming/names';
import { extentsBesideMoves } from './promised';
import { arrayChoices, byName, draftArray, draftText, nextName } from '../operation/draft';
import { lookUp } from '../operation/inquiry';
import type { Draft, Foretold, PlanContext } from '../operation/operation';
import { SUBSCRIPTION_NOTICE } from '../pool/choices';
import { directPool, realPools } from '../pool/direct';
import { poolUsage, reduces, tiersOf } from '../pool/usage';
import { mediaFigures } from '../raid/media';
import { carriedWords } from '../raid/room';
import { formatBytes, percentUsed } from '../units/bytes';
import { freeRun, leastLoaded, needOf } from './create-room';

export const MOST_AT_ONCE = 1000;

/** What is said beside the fields of volumes that are carved. */
export function foretellVolumes(view: EstateView, draft: Draft, context: PlanContext): Foretold {
  const array = draftArray(view, draft);
  const fields: Foretold['fields'] = {
    array: { choices: arrayChoices(view) },
    pool: {},
    name: {},
    size: {},
    count: { suggested: '1' },
    startNumber: { suggested: '1' },
    provisioning: { suggested: 'thin' },
    owner: {},
  };
  fields.provisioning!.choices = [
    { value: 'thin', label: 'Thin' },
    { value: 'thick', label: 'Thick' },
  ];
  fields.provisioning!.says =
    draftText(draft, 'provisioning') === 'thick'
      ? 'All extents are taken at once.'
      : 'Extents are taken as hosts write.';
  if (!array) return { fields };
  const straight = draftText(draft, 'raidGroup');
  const pools = realPools(view, array.id);
  const groups = [...view.table('raidGroup').by('array', array.id)].sort(byName);
  fields.raidGroup = {
    choices: [
      { value: '', label: 'None: from the pool' },
      ...groups.map((row) => {
        const carries = poolOf(view, row);
        const room = directPool(view, row, context.newId).pool;
        return {
          value: row.name,
          label: `${row.name}, longest free run ${formatBytes(carries && !carries.direct ? 0 : freeRun(view, row, room) * room.extentSize)}`,
          ...(carries && !carries.direct ? { unfit: carriedWords(view, row) } : {}),
        };
      }),
    ],
    says: 'Thick volumes straight from a group, each in one run: no thin ones, no reduction, nothing shared with other groups.',
  };
  fields.array!.says = `${pools.length} ${pools.length === 1 ? 'pool' : 'pools'}, ${view.table('volume').countBy('array', array.id)} volumes.`;
  fields.pool!.says = 'Where its extents come from.';
  fields.size!.says = 'A number and its unit. Rounded up to whole pages of 16 KiB.';
  fields.count!.says = 'More than one makes a series.';
  fields.startNumber!.says = 'Where the numbers of a series begin.';
  fields.pool!.choices = [
    ...pools.map((row) => ({
      value: row.name,
      label: `${row.name}, ${formatBytes(extentsBesideMoves(view, row) * row.extentSize)} left`,
    })),
    ...(straight ? [{ value: '', label: 'None: straight from the RAID group' }] : []),
  ];
  if (pools.length === 0) fields.pool!.says = `${array.name} has no pool yet. Make one first.`;
  if (pools.length === 1 && !straight) fields.pool!.suggested = pools[0]!.name;
  if (straight) fields.pool!.says = 'Left empty: they come straight from the RAID group.';
  if (straight) {
    fields.provisioning = {
      choices: [{ value: 'thick', label: 'Thick' }],
      suggested: 'thick',
      says: 'Always thick: all extents are taken at once.',
    };
  }
  const controllers = [...view.table('controller').by('array', array.id)].sort(byName);
  fields.owner!.choices = [
    { value: '', label: 'The one that owns least' },
    ...controllers.map((row) => ({
      value: row.name,
      label: `Controller ${row.name}, owns ${view.table('volume').countBy('owner', row.id)}`,
    })),
  ];
  const least = leastLoaded(view, array.id);
  const count = Math.min(MOST_AT_ONCE, Math.max(1, Math.floor(Number(draftText(draft, 'count') || 1)) || 1));
  const balanced = count > 1 ? 'Balanced over the controllers.' : `Controller ${least?.name ?? '–'} owns least.`;
  fields.owner!.says = draftText(draft, 'owner') ? 'Its paths are the optimized ones.' : balanced;
  fields.blockSize = {
    choices: [
      { value: '512', label: '512 bytes' },
      { value: '4096', label: '4096 bytes' },
    ],
    suggested: '512',
    says: 'What hosts address. 4096 fits drives of 4096 best; old hosts know 512 alone.',
  };
  fields.workload = {
    choices: [
      { value: '', label: 'None' },
      ...[...view.table('workload').values()].sort(byName).map((row) => ({ value: row.name, label: row.name })),
    ],
    says: 'Volumes of one workload are counted together.',
  };
  fields.notes = { says: 'For those who come after.' };
  fields.activity = {
    choices: [
      { value: '', label: 'Nobody knows' },
      ...activityKinds.map((value) => ({ value, label: activityLabels[value] })),
    ],
    says: 'What its copies will keep is worked out from it; it can be changed.',
  };
  fields.plan = {
    choices: [
      { value: '', label: 'As its workload' },
      ...[...view.table('plan').values()].sort(byName).map((row) => ({ value: row.name, label: row.name })),
    ],
    says: 'Who makes copies of it.',
  };
  const stem = draftText(draft, 'name');
  fields.name!.suggested = nextName('vol', view.table('volume').by('array', array.id));
  const first = Number(draftText(draft, 'startNumber') || 1);
  const series = stem ? nameSeries(stem, count, Number.isInteger(first) && first >= 0 ? first : 1) : [];
  fields.name!.says =
    series.length > 1 ? `${series[0]} … ${series.at(-1)}` : 'With # where a number goes, for a series.';
  const pool = lookUp(view, 'pool', draftText(draft, 'pool'), array.id);
  if (!pool) return { fields };
  const usage = poolUsage(view, pool);
  fields.reduction = {
    suggested: 'true',
    says: reduces(pool)
      ? 'Off for what does not reduce: encrypted or compressed by the host.'
      : `${pool.name} reduces nothing now.`,
  };
  const tiers = tiersOf(usage);
  fields.tier = {
    choices: [
      { value: '', label: 'The fastest' },
      ...tiers.map((tier) => ({
        value: tier.media,
        label: `${mediaFigures[tier.media].label}, ${formatBytes((tier.capacity - tier.used) * pool.extentSize)} free`,
      })),
    ],
    says:
      tiers.length > 1
        ? 'Where its extents are placed first; a full tier spills to the next slower.'
        : 'The pool has one tier.',
  };
  const rate = percentUsed(usage.promised, usage.size);
  fields.pool!.says = `${formatBytes(usage.availableBytes)} left of ${formatBytes(usage.size)}; ${percentUsed(usage.used, usage.capacity)} % filled, ${rate} % promised.`;
  const need = needOf(draftText(draft, 'size'), pool);
  if (need) {
    const thin = draftText(draft, 'provisioning') !== 'thick';
    const after = percentUsed(usage.used + (thin ? 0 : need.extents * count), usage.capacity);
    const promised = percentUsed(usage.promised + need.size * count, usage.size);
    fields.size!.says = thin
      ? `Promised ${rate} → ${promised} %${promised > SUBSCRIPTION_NOTICE * 100 ? ': more than twice what is there' : ''}; nothing is taken yet.`
      : `Filled ${percentUsed(usage.used, usage.capacity)} → ${after} %, ${formatBytes(Math.max(0, usage.available - need.extents * count) * pool.extentSize)} left.`;
    fields.count!.says =
      count > 1 ? `${formatBytes(need.size * count, 'used')} in all.` : 'More than one makes a series.';
  }
  return { fields };
}
