import { z } from 'zod';
import { the } from '../operation/form';
import { common, bytesIn } from '../estate/runs';
import { mappedRuns } from '../content/weave';
import { changed } from '../estate/effects';
import type { ByteRun, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { inquire } from '../operation/inquiry';
import { planned, refused, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { formatBytes, type Bytes } from '../units/bytes';
import { SECOND } from '../units/duration';
import { askVolume, volumeFields } from './ask';
import { unmapRuns } from './grow';
import { someOf } from '../units/counted';

const schema = z.object({ array: z.string(), volumes: z.array(z.string()).min(1, 'name at least one volume') });
type Params = z.output<typeof schema>;

/** Runs that every file system on a volume has free and that are still mapped: what an UNMAP would give back. */
export function reclaimableRuns(view: EstateView, volume: Volume): ByteRun[] {
  const devices = view
    .table('hostDevice')
    .by('volume', volume.id)
    .filter((device) => device.fileSystem);
  // A volume that is being converted keeps what it has until that is done.
  const converting = view.table('job').countBy('volume', volume.id) > 0;
  if (devices.length === 0 || volume.provisioning === 'thick' || converting) return [];
  return devices.reduce<ByteRun[]>((runs, device) => common(runs, device.free), mappedRuns(volume));
}

export const reclaimable = (view: EstateView, volume: Volume): Bytes => bytesIn(reclaimableRuns(view, volume));

export const volumeReclaim: OperationType<Params> = {
  kind: 'volume.reclaim',
  verb: 'Reclaim freed blocks',
  summary: 'Hosts tell the array which blocks their file systems have freed (UNMAP); the room returns to the pool.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: {
      array: the.array,
      volumes: the.volumes,
    },
  },
  title: (p) => `Reclaim freed blocks of ${someOf(p.volumes)} on ${p.array}`,
  units: (p) => p.volumes.map((volume) => ({ ...p, volumes: [volume] })),
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const volume = askVolume(asks, array, p.volumes[0]!);
    if (volume) {
      const subject = subjectOf('volume', volume);
      if (view.table('job').countBy('volume', volume.id) > 0)
        asks.refuse({
          code: 'volume-busy',
          field: 'volumes',
          subject,
          message: `${volume.name} is being converted.`,
          mend: 'Wait until that is done.',
        });
      else if (volume.provisioning === 'thick')
        asks.refuse({
          code: 'thick',
          field: 'volumes',
          subject,
          message: `${volume.name} is thick: it keeps its extents whatever is freed.`,
          mend: 'Make it thin first.',
        });
      else if (
        !view
          .table('hostDevice')
          .by('volume', volume.id)
          .some((device) => device.fileSystem)
      )
        asks.refuse({
          code: 'no-file-system',
          field: 'volumes',
          subject,
          message: `No host has a file system on ${volume.name} that could tell what is free.`,
          mend: 'Mount it on a host first.',
        });
    }
    if (asks.refusals.length > 0 || !array || !volume) return refused(asks.refusals);
    const { effects, freed } = unmapRuns(view, volume, reclaimableRuns(view, volume), context.newId);
    const present = effects.find((effect) => effect.kind === 'volume')?.after as Volume | undefined;
    const stamped =
      effects.length === 0
        ? [changed('volume', volume, { reclaimedAt: context.now })]
        : effects.map((effect) =>
            effect.kind === 'volume' && present
              ? changed('volume', volume, { ...present, reclaimedAt: context.now })
              : effect,
          );
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title:
        freed > 0 ? `Reclaim ${formatBytes(freed)} of ${volume.name}` : `Reclaim ${volume.name}: nothing to give back`,
      takes: 5 * SECOND,
      effects: stamped,
    });
  },
  foretell(view, draft) {
    const { fields, volumes } = volumeFields(view, draft, (volume) => {
      if (volume.deletedAt !== null) return 'is retired';
      if (volume.provisioning === 'thick') return 'is thick';
      return reclaimable(view, volume) === 0 ? 'has nothing freed' : undefined;
    });
    const total = volumes.reduce((sum, volume) => sum + reclaimable(view, volume), 0);
    fields.volumes!.says =
      volumes.length > 0
        ? `${formatBytes(total)} were freed by hosts and are still mapped. Whole pages of 16 KiB come back.`
        : 'What file systems have freed and the array still keeps.';
    return { fields };
  },
};
