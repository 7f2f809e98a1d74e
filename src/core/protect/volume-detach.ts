import { z } from 'zod';
import { bytesIn } from '../estate/runs';
import { mappedRuns } from '../content/weave';
import { leftBy } from '../copies/drop';
import { ALL_STANDS, shownBytes } from '../copies/parts';
import { changed, compacted, type Effect } from '../estate/effects';
import { Overlay } from '../estate/estate';
import { poolOf } from '../estate/relations';
import { besideMoves, extentsBesideMoves } from '../volume/promised';
import { the } from '../operation/form';
import { inquire } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { planned, refused, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { moveRate } from '../pool/remove-group';
import { formatBytes } from '../units/bytes';
import { counted, someOf } from '../units/counted';
import { SECOND } from '../units/duration';
import { askVolume, volumeFields } from '../volume/ask';
import { giveNumbers, numbersOf } from '../volume/grow';

const schema = z.object({ array: z.string(), volumes: z.array(z.string()).min(1, 'name at least one volume') });
type Params = z.output<typeof schema>;

export const volumeDetach: OperationType<Params> = {
  kind: 'volume.detach',
  verb: 'Let clones hold their own data',
  summary: 'Copies what a clone shares, so that it rests on nothing else any more; what it was made of is free then.',
  schema,
  form: { columns: [3, 4, 7], fields: { array: the.array, volumes: the.volumes } },
  title: (p) => `Let ${someOf(p.volumes)} on ${p.array} hold their own data`,
  units: (p) => p.volumes.map((volume) => ({ ...p, volumes: [volume] })),
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const volume = askVolume(asks, array, p.volumes[0]!);
    if (asks.refusals.length > 0 || !array || !volume) return refused(asks.refusals);
    const subject = subjectOf('volume', volume);
    const pool = poolOf(view, volume);
    if (volume.origin === null)
      return refused([
        {
          code: 'no-clone',
          field: 'volumes',
          subject,
          message: `${volume.name} holds its own data already.`,
          mend: 'Leave it out.',
        },
      ]);
    const copies = view.table('snapshot').countBy('volume', volume.id);
    if (copies > 0)
      asks.refuse({
        code: 'clone-has-copies',
        field: 'volumes',
        subject,
        message: `${counted(copies, 'copy', 'copies')} of ${volume.name} rest on what it was made of.`,
        mend: `Delete the copies of ${volume.name} first.`,
      });
    const numbers = numbersOf(mappedRuns(volume), pool.extentSize);
    const need = bytesIn(numbers);
    const left = extentsBesideMoves(view, pool);
    if (need > left)
      asks.refuse({
        code: 'pool-too-small',
        field: 'volumes',
        subject: subjectOf('pool', pool),
        message: `${pool.name} has ${formatBytes(left * pool.extentSize)} left${besideMoves(view, pool)}; ${volume.name} needs ${formatBytes(need * pool.extentSize)} of its own.`,
        mend: `Extend ${pool.name} first.`,
        offer: nextStep(`Extend ${pool.name}`, 'pool.extend', { array: array.name, name: pool.name }),
      });
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const overlay = new Overlay(view);
    const effects: Effect[] = [];
    const put = (made: readonly Effect[]) => {
      overlay.apply(made);
      effects.push(...made);
    };
    put(leftBy(overlay, volume, context.newId));
    put([
      changed('volume', overlay.table('volume').get(volume.id)!, {
        origin: null,
        base: null,
        stands: [...ALL_STANDS],
        parts: [0, 0],
        view: false,
      }),
    ]);
    put(giveNumbers(overlay, overlay.table('volume').get(volume.id)!, pool, numbers, context.newId).effects);
    const bytes = shownBytes(volume);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `${volume.name} holds its own ${formatBytes(bytes, 'used')}`,
      takes: Math.max(2 * SECOND, Math.ceil((bytes / Math.max(1, moveRate(view, pool, null))) * SECOND)),
      effects: compacted(effects),
      destroys: `what ${volume.name} shared with its origin`,
    });
  },
  foretell(view, draft) {
    const { fields, volumes } = volumeFields(view, draft, (volume) =>
      volume.origin === null ? 'holds its own' : undefined,
    );
    const bytes = volumes.reduce((sum, volume) => sum + shownBytes(volume), 0);
    fields.volumes!.says =
      volumes.length > 0 ? `${formatBytes(bytes, 'used')} are copied.` : 'Clones, which share what they were made of.';
    return { fields };
  },
};
