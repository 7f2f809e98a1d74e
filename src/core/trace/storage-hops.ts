import type { Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, ownerOf, poolOf } from '../estate/relations';
import { driveRef } from '../operation/inquiry';
import { nextStep as step } from '../operation/operation';
import { poolUsage } from '../pool/usage';
import { levelText, shapeOfGroup } from '../raid/geometry';
import { groupHealth } from '../raid/health';
import { formatBytes } from '../units/bytes';
import { groupsUnder, volumeState } from '../volume/health';
import { fail, pass, warn, type HopFound } from './hop';

/** Drives, RAID groups, pool and volume. Each hop says what is worst there. */
export function storageHops(view: EstateView, volume: Volume): HopFound[] {
  return [...groupHops(view, volume), poolHop(view, volume), volumeHop(view, volume)];
}

function groupHops(view: EstateView, volume: Volume): HopFound[] {
  const array = arrayOf(view, volume);
  const groups = groupsUnder(view, volume).map((id) => view.table('raidGroup').get(id)!);
  const health = groups.map((group) => ({ group, state: groupHealth(view, group) }));
  const lost = health.find((one) => one.state.state === 'lost');
  const weak = health.find((one) => one.state.state === 'degraded');
  const count = groups.reduce((sum, group) => sum + group.drives.length, 0);
  const gone = groups
    .flatMap((group) => group.drives.map((id) => view.table('drive').get(id)!))
    .filter((drive) => drive.state === 'failed' || drive.state === 'missing');
  const drives = `${count} drives of ${array.name}`;
  const names = groups.map((group) => group.name).join(', ');
  const replace = step('Replace drives', 'drive.replace', {
    array: array.name,
    drives: gone.map((drive) => driveRef(view, drive)),
  });
  if (lost)
    return [
      fail(
        drives,
        'drives-lost',
        `${lost.group.name} has lost more drives than it survives.`,
        'Bring the drives or their enclosure back.',
        replace,
      ),
      fail(names, 'raid-group-offline', `${lost.group.name} is offline.`, 'Bring its drives back.'),
    ];
  const there = pass(names, `${groups.map((group) => levelText(shapeOfGroup(group))).join(', ')}: data is there.`);
  if (!weak) return [pass(drives, 'All answer.'), there];
  return [
    warn(
      drives,
      'drives-lost',
      `${gone.length} of ${count} have failed; ${weak.group.name} survives ${weak.state.tolerates} more.`,
      'Replace them and let the group rebuild.',
      replace,
    ),
    there,
  ];
}

function poolHop(view: EstateView, volume: Volume): HopFound {
  const pool = poolOf(view, volume);
  const usage = poolUsage(view, pool);
  if (usage.available > 0 || volume.provisioning === 'thick')
    return pass(pool.name, `${formatBytes(usage.availableBytes)} left.`);
  const array = arrayOf(view, volume);
  return warn(
    pool.name,
    'pool-full',
    `${pool.name} has no extent left: writes that need one fail.`,
    'Extend the pool.',
    step('Extend it', 'pool.extend', { array: array.name, name: pool.name }),
  );
}

function volumeHop(view: EstateView, volume: Volume): HopFound {
  const array = arrayOf(view, volume);
  if (volume.deletedAt !== null)
    return fail(
      volume.name,
      'volume-offline',
      `${volume.name} was retired and is only kept.`,
      'Restore it.',
      step('Restore it', 'volume.restore', { array: array.name, volumes: [volume.name] }),
    );
  if (volumeState(view, volume) === 'lost')
    return fail(volume.name, 'volume-offline', `${volume.name} is offline with its data.`, 'Mend what lies under it.');
  const owner = ownerOf(view, volume);
  return pass(volume.name, `${formatBytes(volume.size)}, served by controller ${owner.name}.`);
}
