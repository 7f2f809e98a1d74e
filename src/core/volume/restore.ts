import { z } from 'zod';
import { the } from '../operation/form';
import { changed } from '../estate/effects';
import type { ArrayRow, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { poolOf } from '../estate/relations';
import { inquire, type Inquiry } from '../operation/inquiry';
import { planned, refused, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { formatBytes } from '../units/bytes';
import { formatDuration, SECOND } from '../units/duration';
import { volumeFields } from './ask';
import { subscriptionRefusal } from './create';
import { askUnlocked, bytesFreed, purged } from './delete';
import { someOf } from '../units/counted';
import { askUnreplicated } from '../copies/replica';

const schema = z.object({ array: z.string(), volumes: z.array(z.string()).min(1, 'name at least one volume') });
type Params = z.output<typeof schema>;

/** A volume that was retired and is kept. */
export function askKept(asks: Inquiry, array: ArrayRow | undefined, ref: string): Volume | undefined {
  const volume = array && asks.find('volume', ref, 'volumes', array);
  if (!volume || volume.deletedAt !== null) return volume;
  asks.refuse({
    code: 'not-retired',
    field: 'volumes',
    subject: subjectOf('volume', volume),
    message: `${volume.name} is in use; it was not retired.`,
    mend: 'Choose one that was.',
  });
  return undefined;
}

const unfit = (volume: Volume): string | undefined => (volume.deletedAt === null ? 'is in use' : undefined);

const keptWords = (view: EstateView, volumes: readonly Volume[], now: number): string =>
  volumes.length === 0
    ? `${[...view.table('volume').values()].filter((volume) => volume.deletedAt !== null).length} are kept.`
    : volumes
        .slice(0, 3)
        .map(
          (volume) =>
            `${volume.name}: ${formatBytes(volume.written, 'used')} written, kept for ${formatDuration(Math.max(0, (volume.keepUntil ?? now) - now))} more.`,
        )
        .join(' ');

export const volumeRestore: OperationType<Params> = {
  kind: 'volume.restore',
  verb: 'Restore retired volumes',
  summary: 'Brings volumes back that were retired and are still kept, with their data and identity.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: {
      array: the.array,
      volumes: the.volumes,
    },
  },
  title: (p) => `Restore ${someOf(p.volumes)} on ${p.array}`,
  units: (p) => p.volumes.map((volume) => ({ ...p, volumes: [volume] })),
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const volume = askKept(asks, array, p.volumes[0]!);
    const limit =
      volume && volume.provisioning === 'thin' ? subscriptionRefusal(view, poolOf(view, volume), volume.size) : null;
    if (limit) asks.refuse({ ...limit, field: 'volumes' });
    if (asks.refusals.length > 0 || !array || !volume) return refused(asks.refusals);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Restore ${volume.name} with ${formatBytes(volume.written, 'used')} of written data`,
      takes: 2 * SECOND,
      effects: [changed('volume', volume, { deletedAt: null, keepUntil: null })],
    });
  },
  foretell(view, draft, context) {
    const { fields, volumes } = volumeFields(view, draft, unfit);
    fields.volumes!.says = keptWords(view, volumes, context.now);
    return { fields };
  },
};

export const volumePurge: OperationType<Params> = {
  kind: 'volume.purge',
  verb: 'Give up retired volumes',
  summary: 'Gives the room of retired volumes back to their pool at once. They cannot be restored after it.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: {
      array: the.array,
      volumes: the.volumes,
    },
  },
  title: (p) => `Give up ${someOf(p.volumes)} on ${p.array}`,
  units: (p) => p.volumes.map((volume) => ({ ...p, volumes: [volume] })),
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const volume = askKept(asks, array, p.volumes[0]!);
    if (volume) askUnlocked(view, asks, volume, context.now);
    if (volume) askUnreplicated(view, asks, volume, 'volumes', 'one side cannot go alone');
    if (asks.refusals.length > 0 || !array || !volume) return refused(asks.refusals);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Give up ${volume.name}: ${formatBytes(bytesFreed(view, [volume]))} return to ${poolOf(view, volume).name}`,
      takes: 2 * SECOND,
      effects: purged(view, volume, context.newId),
      destroys: `${formatBytes(volume.written, 'used')} written to ${volume.name}`,
    });
  },
  foretell(view, draft, context) {
    const { fields, volumes } = volumeFields(view, draft, unfit);
    fields.volumes!.says =
      volumes.length > 0
        ? `${formatBytes(bytesFreed(view, volumes))} come back at once.`
        : keptWords(view, volumes, context.now);
    return { fields };
  },
};
