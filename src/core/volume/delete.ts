import { z } from 'zod';
import { the } from '../operation/form';
import { copiesOf, heldByCopies } from '../copies/area';
import { freedBy } from '../content/reduce';
import { dropped, freedByLeaving, leftBy } from '../copies/drop';
import { changed, compacted, deleted, type Effect } from '../estate/effects';
import type { Snapshot, Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { poolOf } from '../estate/relations';
import { draftList, draftText } from '../operation/draft';
import { inquire, type Inquiry } from '../operation/inquiry';
import { planned, refused, type OperationType, type PlanContext } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { dissolved } from '../pool/direct';
import { KEEP_DAYS } from '../pool/choices';
import { fitStore, storeVolumes } from '../pool/store';
import { formatBytes, type Bytes } from '../units/bytes';
import { counted, someOf } from '../units/counted';
import { timeText } from '../units/date';
import { DAY, SECOND, type Milliseconds } from '../units/duration';
import { askVolume, hostNameOf, hostsOf, volumeFields } from './ask';
import { isLocked, lockedUntil } from '../copies/locked';
import { askUnreplicated } from '../copies/replica';

const schema = z.object({
  array: z.string(),
  volumes: z.array(z.string()).min(1, 'name at least one volume'),
  confirm: z.array(z.string()).default([]).describe('The names once more, of volumes that hold data'),
  keepDays: z.coerce
    .number()
    .int()
    .min(0)
    .max(365)
    .default(KEEP_DAYS)
    .describe('How long they can be restored, while there is room; 0 for not at all'),
});
type Params = z.output<typeof schema>;

/** Bytes that return to the pool when volumes go for good: their extents, and what of the store is theirs alone. */
export function bytesFreed(view: EstateView, volumes: readonly Volume[]): Bytes {
  const pools = new Map<string, Volume[]>();
  for (const volume of volumes) pools.set(volume.pool, [...(pools.get(volume.pool) ?? []), volume]);
  let freed = 0;
  for (const [id, going] of pools) {
    const pool = view.table('pool').get(id)!;
    freed += going.reduce(
      (sum, volume) =>
        sum +
        (volume.origin === null
          ? view.occupancy.allocated(volume.id) * pool.extentSize + heldByCopies(view, volume)
          : freedByLeaving(view, volume)),
      0,
    );
    freed += freedBy(pool, storeVolumes(view, id), new Set(going.map((volume) => volume.id)));
  }
  return freed;
}

/** Copies of a volume that nobody can delete yet: the volume cannot go before them. */
export const lockedCopies = (view: EstateView, volume: Volume, now: Milliseconds): Snapshot[] =>
  copiesOf(view, volume.id).filter((copy) => isLocked(view, copy, now) || copy.hold !== '');

/** Refuses that a volume goes while copies of it are locked or held. */
export function askUnlocked(view: EstateView, asks: Inquiry, volume: Volume, now: Milliseconds): void {
  const kept = lockedCopies(view, volume, now);
  const [first] = kept;
  if (!first) return;
  const until = lockedUntil(view, kept, now);
  asks.refuse({
    code: 'snapshot-locked',
    field: 'volumes',
    subject: subjectOf('volume', volume),
    message:
      until !== null
        ? `${counted(kept.length, 'copy', 'copies')} of ${volume.name} ${kept.length === 1 ? 'is' : 'are'} immutable until ${timeText(until)} UTC.`
        : `${first.name} of ${volume.name} is held: ${first.hold}.`,
    mend: until !== null ? 'Wait until then; nobody can delete it earlier.' : 'Release it first.',
  });
}

/** The rows that go with a volume, and what returns to its pool. */
export function purged(view: EstateView, volume: Volume, newId: PlanContext['newId']): Effect[] {
  const overlay = new Overlay(view);
  const effects: Effect[] = [];
  const put = (made: readonly Effect[]) => {
    overlay.apply(made);
    effects.push(...made);
  };
  put(dropped(overlay, overlay.table('snapshot').by('volume', volume.id), newId).effects);
  const present = overlay.table('volume').get(volume.id)!;
  const leaving = present.origin === null ? [] : leftBy(overlay, present, newId);
  const runs = overlay.table('extent');
  put([
    ...leaving,
    ...[...runs.by('volume', volume.id), ...runs.by('copies', volume.id)].map((run) => deleted('extent', run)),
    ...overlay
      .table('planRun')
      .by('volume', volume.id)
      .map((run) => deleted('planRun', run)),
    ...overlay
      .table('job')
      .by('volume', volume.id)
      .map((job) => deleted('job', job)),
    ...view
      .table('limitUse')
      .by('volume', volume.id)
      .map((use) => deleted('limitUse', use)),
    ...(['tierUse', 'classUse', 'allotmentUse', 'declaredFact', 'move', 'outsideLun'] as const).flatMap((kind) =>
      view
        .table(kind)
        .by('volume', volume.id)
        .map((row) => deleted(kind, row)),
    ),
    deleted('volume', present),
  ]);
  const pool = poolOf(view, volume);
  return compacted([...effects, ...fitStore(overlay, pool, newId).effects, ...dissolved(view, pool, volume.id)]);
}

function checkUse(view: EstateView, asks: Inquiry, volume: Volume): void {
  const clones = view.table('volume').by('origin', volume.id);
  if (clones.length > 0)
    asks.refuse({
      code: 'base-has-clones',
      field: 'volumes',
      subject: subjectOf('volume', volume),
      message: `${someOf(clones.map((clone) => clone.name))} ${clones.length === 1 ? 'is' : 'are'} made from copies of ${volume.name} and ${clones.length === 1 ? 'shares' : 'share'} its data.`,
      mend: 'Let them hold all their data themselves first, or retire them.',
    });
  const hosts = hostsOf(view, volume);
  const subject = subjectOf('volume', volume);
  const [device] = view.table('hostDevice').by('volume', volume.id);
  if (hosts.length > 0) {
    const order = [
      device?.mountPoint ? `unmount ${device.name} on ${hostNameOf(view, device)}` : '',
      `take the mapping away`,
      device ? 'rescan the host' : '',
      `retire ${volume.name}`,
    ].filter(Boolean);
    asks.refuse({
      code: 'still-mapped',
      field: 'volumes',
      subject,
      message: `${volume.name} is mapped to ${hosts.join(', ')}.`,
      mend: order.length > 2 ? `In this order: ${order.join(', ')}.` : 'Take the mapping away first.',
    });
  } else if (device)
    asks.refuse({
      code: 'still-known',
      field: 'volumes',
      subject,
      message: `${hostNameOf(view, device)} still holds ${device.name} for ${volume.name}.`,
      mend: `Rescan ${hostNameOf(view, device)}, so that it lets go of the device.`,
    });
}

export const volumeDelete: OperationType<Params> = {
  kind: 'volume.delete',
  verb: 'Retire volumes',
  summary: 'Takes volumes out of use. They are kept for some days while there is room, then given back to their pool.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: {
      array: the.array,
      volumes: the.volumes,
      keepDays: 'Keep for, days',
      confirm: 'Names once more',
    },
  },
  title: (p) =>
    `Retire ${p.volumes.length === 1 ? `volume ${p.volumes[0]}` : `${p.volumes.length} volumes`} on ${p.array}`,
  units: (p) => p.volumes.map((volume) => ({ ...p, volumes: [volume] })),
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const volume = askVolume(asks, array, p.volumes[0]!);
    if (volume) checkUse(view, asks, volume);
    if (volume) askUnlocked(view, asks, volume, context.now);
    if (volume) askUnreplicated(view, asks, volume, 'volumes', 'one side cannot go alone');
    if (volume && volume.written > 0 && !p.confirm.some((name) => name.trim() === volume.name))
      asks.refuse({
        code: 'name-not-confirmed',
        field: 'confirm',
        subject: subjectOf('volume', volume),
        message: `${volume.name} holds ${formatBytes(volume.written, 'used')} of written data.`,
        mend: `Write its name, ${volume.name}, to confirm.`,
      });
    if (asks.refusals.length > 0 || !array || !volume) return refused(asks.refusals);
    const pool = poolOf(view, volume);
    const freed = bytesFreed(view, [volume]);
    const device = { kind: 'array', id: array.id, name: array.name } as const;
    if (p.keepDays > 0 && volume.written > 0)
      return planned({
        device,
        title: `Retire ${volume.name}: kept for ${p.keepDays} ${p.keepDays === 1 ? 'day' : 'days'}, then ${formatBytes(freed)} return to ${pool.name}`,
        takes: 2 * SECOND,
        effects: [changed('volume', volume, { deletedAt: context.now, keepUntil: context.now + p.keepDays * DAY })],
      });
    return planned({
      device,
      title: `Retire ${volume.name}: ${formatBytes(freed)} return to ${pool.name}`,
      takes: 2 * SECOND,
      effects: purged(view, volume, context.newId),
      destroys: volume.written > 0 ? `${formatBytes(volume.written, 'used')} written to ${volume.name}` : null,
    });
  },
  foretell(view, draft) {
    const { fields, volumes } = volumeFields(view, draft, (volume) => {
      if (volume.deletedAt !== null) return 'is retired';
      const hosts = hostsOf(view, volume);
      return hosts.length > 0 ? `is mapped to ${hosts.join(', ')}` : undefined;
    });
    const written = volumes.filter((volume) => volume.written > 0);
    const typed = new Set(draftList(draft, 'confirm').map((name) => name.trim()));
    const open = written.filter((volume) => !typed.has(volume.name));
    const days = draftText(draft, 'keepDays');
    fields.confirm = {
      says:
        written.length === 0
          ? 'Nothing was written: no confirmation is needed.'
          : open.length === 0
            ? 'All are named.'
            : `Write the names of those that hold data: ${open.map((volume) => volume.name).join(', ')}.`,
    };
    fields.keepDays = {
      suggested: String(KEEP_DAYS),
      says:
        days === '0'
          ? 'What is written is lost for good.'
          : 'They can be restored until then, or until the pool needs their room.',
    };
    if (volumes.length > 0)
      fields.volumes!.says = `${formatBytes(bytesFreed(view, volumes))} come back in the end; ${formatBytes(
        written.reduce((sum, volume) => sum + volume.written, 0),
        'used',
      )} of written data.`;
    return { fields };
  },
};
