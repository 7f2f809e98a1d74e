import type { Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, ownerOf, poolOf } from '../estate/relations';
import { driveRef } from '../operation/inquiry';
import { nextStep as step } from '../operation/operation';
import { poolUsage } from '../pool/usage';
import { levelText, shapeOfGroup } from '../raid/geometry';
import { backWays } from '../fabric/back-ways';
import { groupHealth, lunSilence } from '../raid/health';
import { formatBytes } from '../units/bytes';
import { counted } from '../units/counted';
import { groupsUnder, volumeState } from '../volume/health';
import { fail, pass, warn, type HopFound } from './hop';

/** Drives, RAID groups, pool and volume. Each hop says what is worst there. */
export function storageHops(view: EstateView, volume: Volume): HopFound[] {
  return [...groupHops(view, volume), poolHop(view, volume), volumeHop(view, volume)];
}

/** The LUN of an outside array under a volume, one hop further over the fabric; of several the worst. Null where it lies on drives of its own array. */
export function outsideHop(view: EstateView, volume: Volume): HopFound | null {
  const array = arrayOf(view, volume);
  const found = groupsUnder(view, volume)
    .flatMap((id) => view.table('raidGroup').get(id)!.drives)
    .flatMap((id) => {
      const drive = view.table('drive').get(id);
      const lun = drive?.lun ? view.table('volume').get(drive.lun) : undefined;
      if (!drive || !lun) return [];
      const outside = arrayOf(view, lun);
      const name = view.table('outsideLun').by('drive', drive.id)[0]?.name ?? lun.name;
      const silent = lunSilence(view, array.id, lun.id);
      if (silent !== null)
        return [
          fail(
            name,
            'outside-silent',
            `${array.name} does not get its data: ${outside.name} ${silent}.`,
            `Bring ${outside.name}, its ports or the zone between both arrays back.`,
          ),
        ];
      const ways = backWays(view, array.id, outside.id).length;
      const says = `LUN of ${outside.name}, ${counted(ways, 'way')} over the fabric.`;
      return [ways > 1 ? pass(name, says) : warn(name, 'outside-one-way', says, 'Zone a second port of both arrays.')];
    });
  const worst = (['fail', 'warn', 'pass'] as const).flatMap((state) => found.filter((one) => one.state === state));
  return worst[0] ?? null;
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
  const drives = `${counted(count, 'drive')} of ${array.name}`;
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
        lost.group.drives.some((id) => view.table('drive').get(id)?.lun)
          ? `${lost.group.name} lies on an outside LUN that cannot be read.`
          : `${lost.group.name} has lost more drives than it survives.`,
        'Bring the drives or their enclosure back.',
        ...(gone.length > 0 ? [replace] : []),
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
