import { z } from 'zod';
import { besideMoves, extentsBesideMoves } from './promised';
import { the } from '../operation/form';
import { created } from '../estate/effects';
import { changed, type Effect } from '../estate/effects';
import type { Job, Kind, Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { arrayOf, poolOf, volumeOf } from '../estate/relations';
import { bytesIn, within, without } from '../estate/runs';
import { mappedRuns } from '../content/weave';
import { startedJob } from '../job/work';
import { draftText } from '../operation/draft';
import { inquire } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { planned, refused, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { fitStore } from '../pool/store';
import { moveRate } from '../pool/remove-group';
import { poolUsage } from '../pool/usage';
import { formatBytes, percentUsed } from '../units/bytes';
import { formatDuration, SECOND } from '../units/duration';
import { askVolume, volumeFields } from './ask';
import { freeNumbers, giveAll, numbersOf } from './grow';
import { heldNumbers } from './held';
import { someOf } from '../units/counted';

const schema = z.object({
  array: z.string(),
  volumes: z.array(z.string()).min(1, 'name at least one volume'),
  to: z.enum(['thin', 'thick']),
});
type Params = z.output<typeof schema>;

/** Extents a thin volume lacks of its size. */
const lacking = (view: EstateView, volume: Volume, extentSize: number): number =>
  Math.ceil(volume.size / extentSize) - bytesIn(heldNumbers(view, volume.id));

/** Extents of a thick volume that hold nothing. */
const empty = (view: EstateView, volume: Volume, extentSize: number): number =>
  bytesIn(without(heldNumbers(view, volume.id), numbersOf(mappedRuns(volume), extentSize)));

export const volumeConvert: OperationType<Params> = {
  kind: 'volume.convert',
  verb: 'Make volumes thin or thick',
  summary: 'Thick volumes give back what was never written; thin ones take all their extents. Hosts work on.',
  schema,
  form: {
    columns: [2, 3, 4],
    fields: {
      array: the.array,
      to: 'Make them',
      volumes: the.volumes,
    },
  },
  title: (p) => `Make ${someOf(p.volumes)} on ${p.array} ${p.to}`,
  units: (p) => p.volumes.map((volume) => ({ ...p, volumes: [volume] })),
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const volume = askVolume(asks, array, p.volumes[0]!);
    if (asks.refusals.length > 0 || !array || !volume) return refused(asks.refusals);
    const pool = poolOf(view, volume);
    if (volume.origin !== null)
      asks.refuse({
        code: 'clone-shares',
        field: 'volumes',
        subject: subjectOf('volume', volume),
        message: `${volume.name} is made of a copy and shares its data.`,
        mend: 'Let it hold its own data first.',
        offer: nextStep(`Let ${volume.name} hold its own data`, 'volume.detach', {
          array: array.name,
          volumes: [volume.name],
        }),
      });
    const refuse = (code: string, message: string, mend: string) =>
      asks.refuse({ code, field: 'volumes', subject: subjectOf('volume', volume), message, mend });
    if (pool.direct && p.to === 'thin')
      refuse(
        'no-pool',
        `${volume.name} lies straight on ${pool.name.split(',')[0]}: only volumes of a pool can be thin.`,
        'Leave it thick.',
      );
    if (volume.provisioning === p.to) refuse(`already-${p.to}`, `${volume.name} is ${p.to} already.`, 'Leave it out.');
    if (view.table('job').countBy('volume', volume.id) > 0)
      refuse('volume-busy', `${volume.name} is being converted.`, 'Wait until that is done.');
    const wanted = p.to === 'thick' ? lacking(view, volume, pool.extentSize) : 0;
    const available = extentsBesideMoves(view, pool);
    if (wanted > available)
      refuse(
        'pool-too-small',
        `${volume.name} lacks ${formatBytes(wanted * pool.extentSize, 'used')}; ${pool.name} has ${formatBytes(available * pool.extentSize)} left${besideMoves(view, pool)}.`,
        'Leave it thin, or extend the pool.',
      );
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const bytes = p.to === 'thick' ? wanted * pool.extentSize : view.occupancy.allocated(volume.id) * pool.extentSize;
    const job = startedJob(
      {
        id: context.newId('job'),
        kind: 'volume-convert',
        array: array.id,
        pool: pool.id,
        volume: volume.id,
        priority: 'low',
        total: Math.max(bytes, pool.extentSize),
        rate: moveRate(view, pool, null),
      },
      context.now,
    );
    const back = empty(view, volume, pool.extentSize) * pool.extentSize;
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title:
        p.to === 'thick'
          ? `Make ${volume.name} thick: it takes ${formatBytes(bytes, 'used')}, written with zeros within ${formatDuration(job.finishesAt - context.now)}`
          : `Make ${volume.name} thin: ${formatBytes(back)} come back within ${formatDuration(job.finishesAt - context.now)}`,
      takes: SECOND,
      effects: [...(p.to === 'thick' ? giveAll(view, volume, pool, context.newId).effects : []), created('job', job)],
    });
  },
  foretell(view, draft) {
    const to = draftText(draft, 'to') === 'thick' ? 'thick' : 'thin';
    const { fields, volumes } = volumeFields(view, draft, (volume) =>
      volume.deletedAt !== null ? 'is retired' : volume.provisioning === to ? `is ${to}` : undefined,
    );
    fields.to = {
      choices: [
        { value: 'thin', label: 'Thin' },
        { value: 'thick', label: 'Thick' },
      ],
      suggested: 'thin',
      says:
        to === 'thin'
          ? 'What was never written returns to the pool.'
          : 'All extents are taken; writes can no longer fail for want of room.',
    };
    const [volume] = volumes;
    const pool = volume && poolOf(view, volume);
    if (!volume || !pool) return { fields };
    const usage = poolUsage(view, pool);
    const moved = volumes.reduce(
      (sum, one) => sum + (to === 'thin' ? -empty(view, one, pool.extentSize) : lacking(view, one, pool.extentSize)),
      0,
    );
    fields.volumes!.says = `${pool.name} filled ${percentUsed(usage.used, usage.capacity)} → ${percentUsed(usage.used + moved, usage.capacity)} %, ${formatBytes(Math.abs(moved) * pool.extentSize)} ${moved < 0 ? 'come back' : 'are taken'}.`;
    return { fields };
  },
};

/** What the end of a conversion does: the volume is the other kind; what it no longer needs returns to the pool. */
export function finishConversion(
  view: EstateView,
  job: Job,
  newId: (kind: Kind) => string,
): { effects: Effect[]; said: string } {
  const volume = volumeOf(view, job)!;
  const pool = poolOf(view, volume);
  const name = `${arrayOf(view, job).name} ${volume.name}`;
  const overlay = new Overlay(view);
  const effects: Effect[] = [];
  if (volume.provisioning === 'thin') {
    effects.push(changed('volume', volume, { provisioning: 'thick', reducedTo: 0 }));
    overlay.apply(effects);
    effects.push(...fitStore(overlay, pool, newId).effects);
    return { effects, said: `${name} is thick: all its extents are written` };
  }
  effects.push(changed('volume', volume, { provisioning: 'thin' }));
  const needed = numbersOf(within(mappedRuns(volume), volume.reducedTo, volume.size), pool.extentSize);
  const back = without(heldNumbers(view, volume.id), needed);
  effects.push(...freeNumbers(view, volume.id, back, newId));
  return { effects, said: `${name} is thin: ${formatBytes(bytesIn(back) * pool.extentSize)} returned to ${pool.name}` };
}
