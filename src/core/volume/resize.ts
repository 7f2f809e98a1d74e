import { shownAs } from '../copies/legs';
import { z } from 'zod';
import { besideMoves, extentsBesideMoves } from './promised';
import { folded, such, the } from '../operation/form';
import { cutTo, dataEnd } from '../content/extent';
import { PAGE, wholePages } from '../content/page';
import { changed, type Effect } from '../estate/effects';
import type { Pool, Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { arrayOf, poolOf } from '../estate/relations';
import { draftList, draftText } from '../operation/draft';
import { inquire, type Inquiry } from '../operation/inquiry';
import {
  nextStep,
  planned,
  refused,
  type NextStep,
  type OperationType,
  type PlanContext,
} from '../operation/operation';
import { flag, sizeText } from '../operation/params';
import { subjectOf } from '../operation/refusal';
import { fitCopies } from '../copies/area';
import { showingFewer } from '../copies/parts';
import { allotmentOf, allotmentRefusal } from '../pool/allotments';
import { fitStore } from '../pool/store';
import { poolUsage } from '../pool/usage';
import { exactBytes, formatBytes, parseBytes, percentUsed, type Bytes } from '../units/bytes';
import { SECOND, type Milliseconds } from '../units/duration';
import { askVolume, hostNameOf, volumeFields } from './ask';
import { blockRefusal, splitsBlock, subscriptionRefusal } from './create';
import { freeNumbers, giveAll } from './grow';
import { someOf } from '../units/counted';
import { partnerAt, quotaMisfit } from '../copies/quota';
import { askUnreplicated, twinOf } from '../copies/replica';
import { arrayAnswers } from './health';

const schema = z.object({
  array: z.string(),
  volumes: z.array(z.string()).min(1, 'name at least one volume'),
  size: sizeText.describe('The new size of each, with its unit'),
  hostShrunk: flag
    .default(false)
    .describe('For a mapped volume that is made smaller without a file system in sight: the host uses less'),
  discard: flag.default(false).describe('Of a volume that no host sees: gives up what is written beyond the new end'),
});
type Params = z.output<typeof schema>;

/** Reasons against a smaller size, in the order in which they are tested. */
function checkShrink(
  view: EstateView,
  asks: Inquiry,
  volume: Volume,
  size: Bytes,
  { hostShrunk, discard }: Pick<Params, 'hostShrunk' | 'discard'>,
): void {
  const subject = subjectOf('volume', volume);
  const refuse = (code: string, message: string, mend: string) =>
    asks.refuse({ code, field: 'size', subject, message, mend });
  const devices = view.table('hostDevice').by('volume', shownAs(view, volume.id));
  const larger = devices.find((device) => device.fileSystemSize > size);
  const mappings = view.table('mapping').by('volume', volume.id).length;
  if (larger)
    refuse(
      'exported',
      `The ${larger.fileSystem} file system on ${hostNameOf(view, larger)} reaches to ${formatBytes(larger.fileSystemSize)}.`,
      `Shrink the file system to ${exactBytes(size)} first.`,
    );
  else if (mappings > 0 && !devices.some((device) => device.fileSystem) && !hostShrunk)
    refuse(
      'exported',
      `${volume.name} is mapped, and no file system tells what its hosts use.`,
      'Take the mapping away, or confirm that the hosts use no more than the new size.',
    );
  const end = dataEnd(volume);
  if (end <= size) return;
  if (mappings > 0 || devices.length > 0 || !discard)
    refuse(
      'data-beyond-end',
      `${volume.name} holds data up to ${formatBytes(end, 'used')}.`,
      `Make it no smaller than ${exactBytes(end)}, or free its tail first.${mappings > 0 || devices.length > 0 ? '' : ' Or agree that what lies beyond the new end is given up.'}`,
    );
}

function checkGrow(view: EstateView, asks: Inquiry, volume: Volume, pool: Pool, size: Bytes): void {
  const thick = volume.provisioning === 'thick';
  const need = Math.ceil(size / pool.extentSize) - view.occupancy.allocated(volume.id);
  const available = extentsBesideMoves(view, pool);
  if (thick && need > available)
    asks.refuse({
      code: 'pool-too-small',
      field: 'size',
      subject: subjectOf('pool', pool),
      message: `${pool.name} has ${formatBytes(available * pool.extentSize)} left${besideMoves(view, pool)}; ${formatBytes(need * pool.extentSize, 'used')} more are asked for.`,
      mend:
        available > 0
          ? `Grow it to ${exactBytes((view.occupancy.allocated(volume.id) + available) * pool.extentSize)} at most, extend the pool, or make the volume thin.`
          : 'Extend the pool, or make the volume thin.',
    });
  const limit = thick ? null : subscriptionRefusal(view, pool, size - volume.size);
  if (limit) asks.refuse(limit);
  const allotment = allotmentOf(view, volume.id);
  const less = { volumes: 1, pools: { [pool.id]: volume.size } };
  const beyond = allotment && allotmentRefusal(view, allotment, [{ pool: pool.id, bytes: size }], 'size', less);
  if (beyond) asks.refuse(beyond);
}

/** What follows on the hosts: look again, then let the file system have the room. */
function nextSteps(view: EstateView, volume: Volume, grows: boolean): NextStep[] {
  const steps: NextStep[] = [];
  for (const device of view.table('hostDevice').by('volume', shownAs(view, volume.id))) {
    const host = hostNameOf(view, device);
    steps.push({ label: `Rescan ${host}`, do: 'host.rescan', params: { host } });
    if (grows && device.fileSystem)
      steps.push({
        label: `Grow the file system on ${host}`,
        do: 'host-device.grow',
        params: { host, device: device.name },
      });
  }
  return steps;
}

function verbOf(more: Bytes): string {
  if (more === 0) return 'Leave';
  return more > 0 ? 'Grow' : 'Shrink';
}

function resized(view: EstateView, volume: Volume, pool: Pool, size: Bytes, context: PlanContext): Effect[] {
  const cut = cutTo(volume, size);
  const next: Volume = size < volume.size ? { ...volume, ...cut, ...showingFewer(volume, cut) } : { ...volume, size };
  const effects: Effect[] = [changed('volume', volume, next)];
  const overlay = new Overlay(view);
  if (size > volume.size) {
    overlay.apply(effects);
    if (volume.provisioning === 'thick') effects.push(...giveAll(overlay, next, pool, context.newId).effects);
    return effects;
  }
  effects.push(...freeNumbers(view, volume.id, [[Math.ceil(size / pool.extentSize), Infinity]], context.newId));
  overlay.apply(effects);
  const fitted = fitStore(overlay, pool, context.newId).effects;
  overlay.apply(fitted);
  return [...effects, ...fitted, ...fitCopies(overlay, volume.id, context.newId).effects];
}

/** Both sides of a replication grow in one step: the other one must answer, and have the room. */
function askTwin(view: EstateView, asks: Inquiry, volume: Volume, twin: Volume, size: Bytes, now: Milliseconds): void {
  const array = arrayOf(view, twin);
  if (!arrayAnswers(view, twin.array))
    asks.refuse({
      code: 'replication-peer-unreachable',
      field: 'volumes',
      subject: subjectOf('array', array),
      message: `${array.name}, where the other side of ${volume.name} lies, does not answer; both must be as large.`,
      mend: `Bring a controller of ${array.name} up first.`,
    });
  if (size <= twin.size) return;
  checkGrow(view, asks, twin, poolOf(view, twin), size);
  const copy = view.table('replication').by('secondary', twin.id).length > 0 ? twin : volume;
  const other = copy === twin ? volume : twin;
  const row = partnerAt(view, copy.array, other.array);
  const misfit = row && quotaMisfit(view, row, { pool: copy.pool, sizes: [size - copy.size], now, growing: true });
  if (!misfit) return;
  const [owner, guest] = [arrayOf(view, copy).name, arrayOf(view, other).name];
  asks.refuse({
    code: misfit.reason,
    field: 'size',
    subject: subjectOf('volume', copy),
    message: `${owner} to ${guest}: ${misfit.message}`,
    mend: `Let ${guest} use more of ${owner}.`,
    offer: nextStep(`Change what ${guest} may use`, 'partner.configure', { array: owner, peer: guest }, 'offers'),
  });
}

/** Effects of growing both sides. */
function bothGrown(view: EstateView, volume: Volume, twin: Volume, size: Bytes, context: PlanContext): Effect[] {
  const first = resized(view, volume, poolOf(view, volume), size, context);
  const overlay = new Overlay(view);
  overlay.apply(first);
  return twin.size >= size ? first : [...first, ...resized(overlay, twin, poolOf(view, twin), size, context)];
}

export const volumeResize: OperationType<Params> = {
  kind: 'volume.resize',
  verb: 'Resize volumes',
  summary: 'Grows or shrinks volumes while hosts work. Shrinking below what is in use is refused.',
  schema,
  form: {
    columns: [3, 4, 7],
    fields: {
      array: the.array,
      volumes: the.volumes,
      size: such('New size', '3 TiB'),
      hostShrunk: folded({ label: 'Host uses less', control: 'switch' }),
      discard: folded({ label: 'Give up the end', control: 'switch' }),
    },
  },
  title: (p) => `Resize ${someOf(p.volumes)} on ${p.array} to ${p.size}`,
  units: (p) => p.volumes.map((volume) => ({ ...p, volumes: [volume] })),
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const volume = askVolume(asks, array, p.volumes[0]!);
    const bytes = asks.value(parseBytes(p.size), 'size', { kind: 'volume', name: p.volumes[0]! });
    if (bytes !== undefined && bytes > Number.MAX_SAFE_INTEGER - PAGE)
      asks.refuse({
        code: 'too-large',
        field: 'size',
        subject: { kind: 'volume', name: p.volumes[0]! },
        message: `${p.size} is beyond the largest size.`,
        mend: 'Write a smaller one.',
      });
    if (asks.refusals.length > 0 || !array || !volume || bytes === undefined) return refused(asks.refusals);
    if (splitsBlock(p.size, bytes, volume.blockSize))
      return refused([blockRefusal(volume.name, bytes, volume.blockSize)]);
    const size = wholePages(bytes);
    const pool = poolOf(view, volume);
    const busy = view.table('job').by('volume', volume.id)[0];
    if (busy)
      asks.refuse({
        code: 'volume-busy',
        field: 'volumes',
        subject: subjectOf('volume', volume),
        message: `${volume.name} is being converted.`,
        mend: 'Wait until that is done.',
      });
    const twin = size === volume.size ? null : twinOf(view, volume.id);
    if (twin && size < volume.size) askUnreplicated(view, asks, volume, 'volumes', 'one side cannot shrink alone');
    else if (twin) askTwin(view, asks, volume, twin, size, context.now);
    if (size < volume.size) checkShrink(view, asks, volume, size, p);
    else if (size > volume.size) checkGrow(view, asks, volume, pool, size);
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const verb = verbOf(size - volume.size);
    const next = size === volume.size ? [] : nextSteps(view, volume, size > volume.size);
    const lost = Math.max(0, dataEnd(volume) - size);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `${verb} ${volume.name}${twin ? ` and its other side at ${arrayOf(view, twin).name}` : ''}: ${formatBytes(volume.size)} → ${formatBytes(size, 'used')}`,
      takes: 2 * SECOND,
      effects:
        size === volume.size
          ? []
          : twin
            ? bothGrown(view, volume, twin, size, context)
            : resized(view, volume, pool, size, context),
      destroys: lost === 0 ? null : `What ${volume.name} holds in its last ${formatBytes(lost, 'used')}`,
      notes: [
        ...(bytes === size
          ? []
          : [`${p.size} is rounded up to ${formatBytes(size, 'used')}: sizes are whole pages of 16 KiB.`]),
        ...(next.length > 0
          ? [
              `${[...new Set(next.filter((step) => step.do === 'host.rescan').map((step) => String(step.params.host)))].join(', ')} must look again${size > volume.size ? ', then the file system can grow' : ''}.`,
            ]
          : []),
      ],
      next,
    });
  },
  foretell(view, draft) {
    const { fields, array, volumes } = volumeFields(view, draft, (volume) =>
      volume.deletedAt === null ? undefined : 'is retired',
    );
    fields.size = { says: 'The new size of each, with its unit.' };
    fields.hostShrunk = { says: 'Only for mapped volumes whose hosts show no file system.' };
    fields.discard = { says: 'Only for volumes that no host sees.' };
    const [volume] = volumes;
    if (!array || !volume) return { fields };
    const pool = poolOf(view, volume);
    const usage = poolUsage(view, pool);
    const end = dataEnd(volume);
    fields.volumes!.says = `${formatBytes(volume.size)} ${volume.provisioning} now; data up to ${formatBytes(end, 'used')}.`;
    const bytes = parseBytes(draftText(draft, 'size'));
    if (!bytes.ok) {
      fields.size.says = `Now ${formatBytes(volume.size)}. It can shrink to ${formatBytes(Math.max(end, PAGE), 'used')}.`;
      return { fields };
    }
    const size = wholePages(bytes.value);
    const more = (size - volume.size) * draftList(draft, 'volumes').length;
    const thick = volume.provisioning === 'thick';
    const word = size >= volume.size ? 'more' : 'less';
    const before = thick ? percentUsed(usage.used, usage.capacity) : percentUsed(usage.promised, usage.size);
    const after = thick
      ? percentUsed(usage.used + Math.ceil(more / pool.extentSize), usage.capacity)
      : percentUsed(usage.promised + more, usage.size);
    if (end > size)
      fields.discard.says = `Data up to ${formatBytes(end, 'used')}: the last ${formatBytes(end - size, 'used')} of it would be gone.`;
    fields.size.says = `${formatBytes(Math.abs(size - volume.size), 'used')} ${word}. ${pool.name} ${thick ? 'filled' : 'promised'} ${before} → ${after} %.`;
    return { fields };
  },
};
