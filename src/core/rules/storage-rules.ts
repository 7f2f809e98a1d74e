import { bytesIn, within, without } from '../estate/runs';
import { areaExtents } from '../copies/area';
import { mappedRuns } from '../content/weave';
import type { EstateView } from '../estate/estate';
import { copiesHolder } from '../estate/occupancy';
import type { Pool, Volume } from '../estate/entities';
import { driveRef } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { storeOf } from '../pool/store';
import { extentsOf } from '../pool/usage';
import { levelText, shapeOfGroup, usableOf } from '../raid/geometry';
import { formatBytes } from '../units/bytes';
import { numbersOf } from '../volume/grow';
import { heldForCopies, heldOf } from '../volume/held';
import { NOTHING, rule, wrong, type Rule, type Wrong } from './rule';

const WAIT = 'Leave it as it is, and report this.';
const arrayName = (view: EstateView, id: string): string => view.table('array').get(id)?.name ?? id;

const driveRole = rule({
  of: 'drive',
  code: 'drive-role',
  asks: { raidGroup: (group) => group.drives },
  broken(view, drive) {
    const ref = driveRef(view, drive);
    const group = drive.raidGroup ? view.table('raidGroup').get(drive.raidGroup) : undefined;
    if (group && !group.drives.includes(drive.id))
      return wrong(
        `Drive ${ref} would belong to ${group.name}, which has no place for it.`,
        `Leave the drive as it is: ${group.name} rests on others by now.`,
      );
    if (drive.spare !== 'no' && drive.raidGroup !== null && drive.standsInFor === null)
      return wrong(
        `Drive ${ref} would be a spare and a member of ${group?.name ?? 'a RAID group'} at once.`,
        'Leave it a member; keep another drive as a spare.',
        nextStep('Keep another drive as a spare', 'drive.assign-spare', { array: arrayName(view, drive.array) }),
      );
    if (drive.spare === 'dedicated' ? drive.spareGroup === null : drive.spareGroup !== null)
      return wrong(`Drive ${ref} would be kept for a group without being a dedicated spare.`, WAIT);
    return NOTHING;
  },
});

const groupMembers = rule({
  of: 'raidGroup',
  code: 'group-members',
  asks: { drive: (drive) => (drive.raidGroup ? [drive.raidGroup] : []) },
  broken(view, group) {
    const found: Wrong[] = [];
    const seen = new Set<string>();
    for (const id of group.drives) {
      const drive = view.table('drive').get(id);
      if (!drive) continue;
      const ref = driveRef(view, drive);
      if (seen.has(id)) found.push(...wrong(`RAID group ${group.name} would name drive ${ref} twice.`, WAIT));
      seen.add(id);
      if (drive.raidGroup !== group.id) {
        const other = drive.raidGroup ? view.table('raidGroup').get(drive.raidGroup) : undefined;
        found.push(
          ...wrong(
            other
              ? `Drive ${ref} is a member of ${other.name} by now; ${group.name} cannot have it.`
              : `RAID group ${group.name} would name drive ${ref}, which does not belong to it.`,
            other ? `Take ${other.name} apart first, or leave ${group.name} as it is.` : WAIT,
          ),
        );
      }
      if (drive.array !== group.array) found.push(...wrong(`RAID group ${group.name} would span two arrays.`, WAIT));
    }
    const shape = shapeOfGroup(group);
    if (usableOf(shape, group.memberSize, group.chunk) !== group.usable)
      found.push(
        ...wrong(`RAID group ${group.name} would have another size than its ${levelText(shape)} gives.`, WAIT),
      );
    if (group.moved.some((id) => !seen.has(id)))
      found.push(...wrong(`RAID group ${group.name} would keep spare space for a drive that is no member.`, WAIT));
    const pool = group.pool ? view.table('pool').get(group.pool) : undefined;
    if (pool && pool.array !== group.array)
      found.push(...wrong(`RAID group ${group.name} and pool ${pool.name} would be on different arrays.`, WAIT));
    return found;
  },
});

/** Extents lie inside a group that carries a pool, and in the pool of whoever holds them. */
const groupExtents = rule({
  of: 'raidGroup',
  code: 'group-extents',
  asks: {
    extent: (run) => [run.raidGroup],
    pool: (pool, view) =>
      view
        .table('raidGroup')
        .by('pool', pool.id)
        .map((group) => group.id),
  },
  broken(view, group) {
    const used = view.occupancy.used(group.id);
    if (used === 0) return NOTHING;
    const pool = group.pool ? view.table('pool').get(group.pool) : undefined;
    if (!pool)
      return wrong(
        `${used} extents lie in ${group.name} by now, which would carry no pool.`,
        `Empty ${group.name} first.`,
        emptying(view, group.id),
      );
    const end = extentsOf(group.usable, pool.extentSize);
    return view.occupancy.end(group.id) > end
      ? wrong(
          `Extents lie beyond the end of ${group.name} as it would be.`,
          `Empty the end of ${group.name} first: take it out of ${pool.name}.`,
          emptying(view, group.id),
        )
      : NOTHING;
  },
});

/** The operation that empties a group, of the pool whose extents it carries. */
function emptying(view: EstateView, id: string) {
  const group = view.table('raidGroup').get(id)!;
  const [run] = view.table('extent').by('raidGroup', id);
  const volume = view.table('volume').get(run?.volume ?? run?.copies ?? '');
  const pool = view.table('pool').get(volume?.pool ?? run?.store ?? '');
  return pool
    ? nextStep(`Empty ${group.name}`, 'pool.remove-group', {
        array: arrayName(view, group.array),
        name: pool.name,
        raidGroup: group.name,
      })
    : undefined;
}

const poolStore = rule({
  of: 'pool',
  code: 'pool-store',
  asks: {
    volume: (volume) => (volume.reducedTo > 0 ? [volume.pool] : []),
    extent: (run) => (run.store ? [run.store] : []),
  },
  broken(view, pool) {
    const held = view.occupancy.allocated(pool.id);
    const needed = Math.ceil(storeOf(view, pool).bytes / pool.extentSize);
    if (held === needed) return NOTHING;
    return wrong(
      `The reduced store of ${pool.name} would hold ${formatBytes(held * pool.extentSize)}; its pages need ${formatBytes(needed * pool.extentSize)}.`,
      held < needed ? `Extend ${pool.name}, or leave its reduction as it is.` : WAIT,
      held < needed
        ? nextStep(`Extend ${pool.name}`, 'pool.extend', { array: arrayName(view, pool.array), name: pool.name })
        : undefined,
    );
  },
});

const copiesArea = rule({
  of: 'volume',
  code: 'copies-area',
  asks: {
    snapshot: (copy, view) => [view.table('volume').get(copy.volume)?.origin ?? copy.volume],
    extent: (run) => (run.copies ? [run.copies] : []),
    volume: (volume) => (volume.origin === null ? [] : [volume.origin]),
  },
  broken(view, volume) {
    const pool = view.table('pool').get(volume.pool);
    if (!pool) return NOTHING;
    const held = view.occupancy.allocated(copiesHolder(volume.id));
    const needed = areaExtents(view, volume);
    if (held === needed) return NOTHING;
    return wrong(
      `The copies of ${volume.name} would hold ${formatBytes(held * pool.extentSize)}; what they keep apart needs ${formatBytes(needed * pool.extentSize)}.`,
      held < needed ? `Extend ${pool.name}, or delete copies of ${volume.name}.` : WAIT,
      held < needed
        ? nextStep(`Extend ${pool.name}`, 'pool.extend', { array: arrayName(view, pool.array), name: pool.name })
        : undefined,
    );
  },
});

function whereItLies(view: EstateView, volume: Volume, pool: Pool): readonly Wrong[] {
  const found: Wrong[] = [];
  const say = (message: string, mend: string, offer?: Wrong['offer']) =>
    found.push({ message, mend, ...(offer ? { offer } : {}) });
  const { numbers: held, different: count, count: all, groups } = heldOf(view, volume.id);
  const elsewhere = (id: string) => view.table('raidGroup').get(id)?.pool !== pool.id;
  const stray = [...groups.keys(), ...heldForCopies(view, volume.id).groups.keys()].find(elsewhere);
  if (stray !== undefined) {
    const group = view.table('raidGroup').get(stray);
    say(
      `Volume ${volume.name} has extents in ${group?.name ?? 'a RAID group'}, which would not belong to pool ${pool.name}.`,
      `Empty ${group?.name ?? 'it'} first.`,
      group && emptying(view, group.id),
    );
  }
  if (count !== all) say(`Volume ${volume.name} would hold one of its extents twice.`, WAIT);
  const whole = Math.ceil(volume.size / pool.extentSize);
  if (volume.provisioning === 'thick' && count !== whole)
    say(
      `Thick volume ${volume.name} would hold ${formatBytes(count * pool.extentSize)} of its ${formatBytes(whole * pool.extentSize)}.`,
      'Make it thin instead.',
      nextStep(`Make ${volume.name} thin`, 'volume.convert', {
        array: arrayName(view, volume.array),
        volumes: [volume.name],
        to: 'thin',
      }),
    );
  if ((held.at(-1)?.[1] ?? 0) > whole) say(`Volume ${volume.name} would hold more extents than its size needs.`, WAIT);
  const own = numbersOf(within(mappedRuns(volume), volume.reducedTo, volume.size), pool.extentSize);
  // A clone's data lies with what the copies of its origin keep.
  const bare = volume.origin === null ? bytesIn(without(own, held)) : 0;
  if (bare > 0)
    say(
      `${formatBytes(bare * pool.extentSize)} of what is written to volume ${volume.name} would lie in no extent.`,
      'Leave it as it is: its data stands there.',
    );
  return found;
}

const volumeExtents = rule({
  of: 'volume',
  code: 'volume-extents',
  reads: ['pool', 'size', 'provisioning', 'written', 'holes', 'reducedTo', 'origin'],
  asks: {
    extent: (run) => (run.volume ? [run.volume] : []),
    raidGroup: (group, view) => [
      ...new Set(
        view
          .table('extent')
          .by('raidGroup', group.id)
          .flatMap((run) => run.volume ?? []),
      ),
    ],
  },
  broken(view, volume) {
    const pool = view.table('pool').get(volume.pool);
    return pool ? whereItLies(view, volume, pool) : NOTHING;
  },
});

const volumeFacts = rule({
  of: 'volume',
  code: 'volume-facts',
  reads: ['pool', 'array', 'owner', 'size', 'written', 'holes', 'reducedTo'],
  asks: {
    pool: (pool, view) =>
      view
        .table('volume')
        .by('pool', pool.id)
        .map((volume) => volume.id),
  },
  broken(view, volume) {
    const found: Wrong[] = [];
    const pool = view.table('pool').get(volume.pool);
    const owner = view.table('controller').get(volume.owner);
    if (volume.written > volume.size)
      found.push(
        ...wrong(
          `Volume ${volume.name} is written up to ${formatBytes(volume.written, 'used')} and would be only ${formatBytes(volume.size)}.`,
          'Leave its size as it is: the data beyond would be lost.',
        ),
      );
    if (volume.reducedTo > volume.written)
      found.push(...wrong(`Volume ${volume.name} would be reduced beyond what is written.`, WAIT));
    if (bytesIn(volume.holes) !== bytesIn(within(volume.holes, 0, volume.written)))
      found.push(...wrong(`Volume ${volume.name} would have holes where it was never written.`, WAIT));
    if (pool && pool.array !== volume.array)
      found.push(...wrong(`Volume ${volume.name} and its pool would be on different arrays.`, WAIT));
    if (owner && owner.array !== volume.array)
      found.push(...wrong(`Volume ${volume.name} would be owned by a controller of another array.`, WAIT));
    return found;
  },
});

export const storageRules: readonly Rule[] = [
  driveRole,
  groupMembers,
  groupExtents,
  poolStore,
  copiesArea,
  volumeExtents,
  volumeFacts,
];
