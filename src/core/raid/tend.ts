import { changed, created, deleted, type Effect } from '../estate/effects';
import type { Drive, Job, Kind, Priority, RaidGroup } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { startedJob } from '../job/work';
import type { Milliseconds } from '../units/duration';
import { MINUTE } from '../units/duration';
import { REBUILD_BAN_HOURS } from './choices';
import { imbalanceOf } from './distributed';
import { grownShape, shapeFields, shapeOfGroup, usableOf, usableOfDrive } from './geometry';
import { groupHealth, serves } from './health';
import { groupLoad, mediaOfGroup } from './load';
import { mediaFigures } from './media';
import { backgroundShare, chooseSpare, copyBackRate, rebuildBytes, rebuildRate, type SpareNeed } from './rebuild';

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

/** Bytes a second at which a job of a group goes on, by its priority and what hosts do. */
export function jobRate(view: EstateView, group: RaidGroup, kind: Job['kind'], priority: Priority): number {
  const shape = shapeOfGroup(group);
  const media = mediaOfGroup(view, group);
  const share = backgroundShare(priority, groupLoad(view, group));
  if (kind === 'raid-copy-back' || kind === 'drive-copy') return copyBackRate(shape, media, share);
  if (kind === 'raid-rebuild')
    return rebuildRate(
      shape,
      media,
      share,
      imbalanceOf(shape, group.seed),
      view.table('array').get(group.array)?.rebuildBudget ?? Infinity,
    );
  if (kind === 'raid-scrub') return share * media.readMBps * 1e6;
  if (kind === 'raid-expand') {
    const each = 1 / (media.readMBps * 1e6) + group.drives.length / (shape.data * shape.legs) / (media.writeMBps * 1e6);
    return (share * group.drives.length) / each;
  }
  return share * media.writeMBps * 1e6;
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
      rate: jobRate(view, group, 'raid-rebuild', group.priority),
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
      rate: jobRate(view, group, 'raid-copy-back', 'low'),
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

/** What the end of a group's job does. */
export function finishGroupJob(
  view: EstateView,
  job: Job,
  now: Milliseconds,
  newId: NewId,
): { effects: Effect[]; said: string } {
  const group = view.table('raidGroup').get(job.raidGroup!)!;
  const drive = job.drive ? view.table('drive').get(job.drive) : undefined;
  const name = `${view.table('array').get(job.array)?.name ?? ''} ${group.name}`;
  const effects: Effect[] = [deleted('job', job)];
  let said = `${name} is initialised`;
  if (job.kind === 'raid-scrub') {
    effects.push(changed('raidGroup', group, { scrubbedAt: now }));
    said = `${name} is scrubbed: every strip was read and agrees`;
  } else if (job.kind === 'raid-rebuild' && drive) {
    effects.push(
      group.level === 'distributed' && drive.state !== 'rebuilding'
        ? changed('raidGroup', group, { moved: [...group.moved, drive.id] })
        : changed('drive', drive, { state: 'ok' }),
    );
    said = `${name} is whole again: the drive is rebuilt`;
  } else if (job.kind === 'raid-copy-back' && drive) {
    effects.push(...copiedBack(view, group, drive));
    said = `${name} has its replaced drive back; the spare is free again`;
  } else if (job.kind === 'raid-expand') {
    effects.push(...expanded(view, group, job));
    said = `${name} spans ${group.drives.length + job.partners.length} drives now`;
  } else if (job.kind === 'drive-copy' && drive) {
    const source = view.table('drive').get(job.partners[0]!)!;
    effects.push(
      changed('drive', drive, { state: 'ok', raidGroup: group.id, standsInFor: source.id }),
      changed('drive', source, { raidGroup: null, holdsData: true }),
      changed('raidGroup', group, { drives: group.drives.map((id) => (id === source.id ? drive.id : id)) }),
    );
    said = `${name} no longer rests on the drive that expects to fail`;
  }
  const overlay = new Overlay(view);
  overlay.apply(effects);
  return { effects: [...effects, ...tendGroup(overlay, group.id, now, newId)], said };
}

function copiedBack(view: EstateView, group: RaidGroup, drive: Drive): Effect[] {
  if (group.level === 'distributed')
    return [
      changed('drive', drive, { state: 'ok' }),
      changed('raidGroup', group, { moved: group.moved.filter((id) => id !== drive.id) }),
    ];
  const spare = view.table('drive').by('standsInFor', drive.id)[0];
  if (!spare) return [changed('drive', drive, { state: 'ok' })];
  return [
    changed('drive', drive, { state: 'ok', raidGroup: group.id }),
    changed('drive', spare, { raidGroup: null, standsInFor: null, holdsData: true }),
    changed('raidGroup', group, { drives: group.drives.map((id) => (id === spare.id ? drive.id : id)) }),
  ];
}

function expanded(view: EstateView, group: RaidGroup, job: Job): Effect[] {
  const shape = grownShape(shapeOfGroup(group), job.partners.length)!;
  return [
    changed('raidGroup', group, {
      ...shapeFields(shape),
      drives: [...group.drives, ...job.partners],
      usable: usableOf(shape, group.memberSize, group.chunk),
    }),
    ...job.partners.flatMap((id) => {
      const drive = view.table('drive').get(id);
      return drive ? [changed('drive', drive, { raidGroup: group.id })] : [];
    }),
  ];
}
