import { changed, created, deleted, type Effect } from '../estate/effects';
import type { Drive, Job, Kind, RaidGroup } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { startedJob } from '../job/work';
import type { Milliseconds } from '../units/duration';
import { MINUTE } from '../units/duration';
import { REBUILD_BAN_HOURS } from './choices';
import { shapeOfGroup, usableOfDrive } from './geometry';
import { groupHealth, serves } from './health';
import { mediaFigures } from './media';
import { rateOfCopyBack, rateOfRebuild } from './rates';
import { chooseSpare, rebuildBytes, type SpareNeed } from './rebuild';

type NewId = (kind: Kind) => string;

/** What a spare must be for the member at place `k`. */
export function needOf(view: EstateView, group: RaidGroup, k: number): SpareNeed {
  const drives = group.drives.flatMap((id) => view.table('drive').get(id) ?? []);
  const member = view.table('drive').get(group.drives[k]!)!;
  const enclosures = new Map<string, number>();
  for (const drive of drives) enclosures.set(drive.enclosure, (enclosures.get(drive.enclosure) ?? 0) + 1);
  return { group: group.id, memberSize: group.memberSize, sector: member.sector, media: member.media, enclosures };
}

/** The spare that would stand in for a member, or undefined. */
export function spareFor(view: EstateView, group: RaidGroup, k: number, now: Milliseconds): Drive | undefined {
  const ready = view
    .table('drive')
    .by('array', group.array)
    .filter(
      (drive) =>
        drive.spare !== 'no' &&
        serves(view, drive) &&
        view.table('job').countBy('drive', drive.id) === 0 &&
        (drive.rebuildFailedAt === null || now - drive.rebuildFailedAt >= REBUILD_BAN_HOURS * 60 * MINUTE),
    );
  return chooseSpare(ready, needOf(view, group, k));
}

const rebuildJob = (view: EstateView, group: RaidGroup, drive: string, now: Milliseconds, newId: NewId): Job =>
  startedJob(
    {
      id: newId('job'),
      kind: 'raid-rebuild',
      array: group.array,
      raidGroup: group.id,
      drive,
      priority: group.priority,
      total: rebuildBytes(shapeOfGroup(group), group.memberSize),
      rate: rateOfRebuild(view, group, group.priority),
    },
    now,
  );

/**
 * What the array does by itself for a group as it now stands: it rebuilds lost members to spares (or into distributed spare space), writes
 * members that were put back, and copies back to drives that were replaced. Nothing where nothing is due, so it may be asked at any time.
 */
export function tendGroup(view: EstateView, id: string, now: Milliseconds, newId: NewId): Effect[] {
  const overlay = new Overlay(view);
  const effects: Effect[] = [];
  const put = (...made: Effect[]) => {
    overlay.apply(made);
    effects.push(...made);
  };
  const group = () => overlay.table('raidGroup').get(id)!;
  const hasJob = (drive: string) => overlay.table('job').countBy('drive', drive) > 0;
  const before = group();
  if (groupHealth(overlay, before).state === 'lost') return effects;

  for (const [k, member] of before.drives.entries()) {
    const drive = overlay.table('drive').get(member)!;
    if (drive.state === 'rebuilding' && !hasJob(member))
      put(
        created(
          'job',
          before.moved.includes(member)
            ? copyBackJob(overlay, group(), member, now, newId)
            : rebuildJob(overlay, group(), member, now, newId),
        ),
      );
    if (drive.state !== 'failed' && drive.state !== 'missing') continue;
    if (before.level === 'distributed') {
      const rebuilding = overlay
        .table('job')
        .by('raidGroup', id)
        .filter((job) => job.kind === 'raid-rebuild').length;
      if (before.moved.includes(member) || hasJob(member) || before.moved.length + rebuilding >= before.spareColumns)
        continue;
      put(created('job', rebuildJob(overlay, group(), member, now, newId)));
      continue;
    }
    const spare = spareFor(overlay, group(), k, now);
    if (!spare) continue;
    const replaced = drive.standsInFor ?? drive.id;
    put(
      changed('drive', drive, {
        raidGroup: null,
        standsInFor: null,
        ...(drive.spare === 'no' ? {} : { spare: 'no', spareGroup: null }),
      }),
      changed('drive', spare, { raidGroup: id, state: 'rebuilding', standsInFor: replaced }),
      changed('raidGroup', group(), { drives: group().drives.map((one, at) => (at === k ? spare.id : one)) }),
    );
    put(created('job', rebuildJob(overlay, group(), spare.id, now, newId)));
  }

  // Drives that were replaced take their place back from the spare.
  for (const member of group().drives) {
    const spare = overlay.table('drive').get(member)!;
    const original = spare.standsInFor ? overlay.table('drive').get(spare.standsInFor) : undefined;
    if (!original || spare.state !== 'ok' || !returns(overlay, original) || !fitsBack(original, group(), spare))
      continue;
    put(changed('drive', original, { state: 'rebuilding' }));
    put(created('job', copyBackJob(overlay, group(), original.id, now, newId)));
  }
  return effects;
}

/** A drive that stands, belongs to nobody and is not at work. */
const returns = (view: EstateView, drive: Drive): boolean =>
  drive.state === 'ok' &&
  drive.raidGroup === null &&
  drive.spare === 'no' &&
  !drive.foreign &&
  serves(view, drive) &&
  view.table('job').countBy('drive', drive.id) === 0;

const fitsBack = (drive: Drive, group: RaidGroup, spare: Drive): boolean =>
  drive.sector === spare.sector &&
  mediaFigures[drive.media].flash === mediaFigures[spare.media].flash &&
  usableOfDrive(drive.capacity) >= group.memberSize;

const copyBackJob = (view: EstateView, group: RaidGroup, drive: string, now: Milliseconds, newId: NewId): Job =>
  startedJob(
    {
      id: newId('job'),
      kind: 'raid-copy-back',
      array: group.array,
      raidGroup: group.id,
      drive,
      priority: 'low',
      total: rebuildBytes(shapeOfGroup(group), group.memberSize),
      rate: rateOfCopyBack(view, group, 'low'),
    },
    now,
  );

/** A drive breaks or is lost: jobs that write to it end, and its group is tended. */
export function loseDrive(
  view: EstateView,
  drive: Drive,
  state: 'failed' | 'missing',
  now: Milliseconds,
  newId: NewId,
): Effect[] {
  const overlay = new Overlay(view);
  const jobs = [...view.table('job').by('drive', drive.id), ...view.table('job').by('partners', drive.id)];
  const rebuilding = jobs.some((job) => job.kind === 'raid-rebuild' || job.kind === 'raid-copy-back');
  const effects: Effect[] = [
    ...jobs.filter((job) => job.kind !== 'raid-expand').map((job) => deleted('job', job)),
    changed('drive', drive, { state, ...(rebuilding ? { rebuildFailedAt: now } : {}) }),
  ];
  // A copy that was under way leaves its other drive free.
  for (const job of jobs)
    for (const id of [job.drive, ...job.partners]) {
      const other = id && id !== drive.id ? view.table('drive').get(id) : undefined;
      if (job.kind === 'drive-copy' && other?.state === 'rebuilding')
        effects.push(changed('drive', other, { state: 'ok' }));
    }
  overlay.apply(effects);
  return drive.raidGroup ? [...effects, ...tendGroup(overlay, drive.raidGroup, now, newId)] : effects;
}
