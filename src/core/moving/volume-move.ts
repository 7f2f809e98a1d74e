import { z } from 'zod';
import { created } from '../estate/effects';
import { rowOf, type Move, type Volume } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { arrayOf, poolOf } from '../estate/relations';
import { draftList } from '../operation/draft';
import { the } from '../operation/form';
import { inquire, lookUp } from '../operation/inquiry';
import {
  planned,
  refused,
  type Draft,
  type Foretold,
  type OperationType,
  type PlanContext,
} from '../operation/operation';
import { subjectOf, type Refusal } from '../operation/refusal';
import { COUNTED_IO, poolHeadrooms } from '../performance/pool-headroom';
import { formatBytes } from '../units/bytes';
import { someOf, uncapital } from '../units/counted';
import { SECOND, type Milliseconds } from '../units/duration';
import { askVolume, volumeFields } from '../volume/ask';
import { moveBar } from './fitness';
import { foretoldCopy } from './foretold';
import { prerequisites } from './prerequisites';
import { needAt } from '../volume/promised';
import { lineFor } from './roads';
import { wavesRefusal } from './waves';

import { askPause, foreseenRate, moveForm, moveParams, readCap } from './move-fields';
import { copyWords, moveForetold, startWords } from './move-foretold';
const schema = z.object({
  array: z.string(),
  volumes: z.array(z.string()).min(1, 'name at least one volume'),
  ...moveParams,
});
type MoveParams = z.output<typeof schema>;

/** The name of a move: its volume's, numbered where an earlier move bears it. */
function nameFor(view: EstateView, volume: Volume): string {
  for (let number = 1; ; number++) {
    const name = number === 1 ? volume.name : `${volume.name} ${number}`;
    if (!lookUp(view, 'move', name)) return name;
  }
}

export const volumeMove: OperationType<MoveParams> = {
  kind: 'volume.move',
  verb: 'Move volumes as zoned',
  summary:
    'Volumes go to another pool or array while hosts work with them; a person confirms the cut, and the way back is kept.',
  schema,
  form: { columns: [2, 3, 4, 7], fields: { array: the.array, volumes: the.volumes, ...moveForm } },
  title: (p) => `Move ${someOf(p.volumes)} of ${p.array} to ${p.to && p.to !== p.array ? `${p.to} ` : ''}${p.pool}`,
  units: (p) => p.volumes.map((volume) => ({ ...p, volumes: [volume] })),
  check: (view, p, context) => [...headroomAsked(view, p), ...windowsShort(view, p, context)],
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const volume = array && askVolume(asks, array, p.volumes[0]!);
    const target = array && (p.to ? asks.find('array', p.to, 'to') : array);
    const to = target && asks.find('pool', p.pool, 'pool', target);
    const plan = p.wavePlan ? asks.find('wavePlan', p.wavePlan, 'wavePlan') : null;
    const after = p.after.flatMap((name) => asks.find('move', name, 'after') ?? []);
    if (asks.refusals.length > 0 || !volume || !target || !to || plan === undefined) return refused(asks.refusals);
    const name = nameFor(view, volume);
    const cap = readCap(asks, p.cap, name);
    const pauseMax = Math.round(p.pauseS * SECOND);
    askPause(asks, pauseMax, name);
    const link = lineFor(view, array, target);
    const lines = prerequisites(view, { volume, to, link, identity: p.identity, leaves: p.leaves }, context.now);
    for (const { refusal } of lines) if (refusal) asks.refuse(refusal);
    if (asks.refusals.length > 0) return refused(asks.refusals.slice(0, 4));
    const row = rowOf('move', {
      id: context.newId('move'),
      name,
      volume: volume.id,
      fromPool: volume.pool,
      toPool: to.id,
      link: link?.id ?? null,
      identity: p.identity,
      wavePlan: plan?.id ?? null,
      together: p.together?.trim() ?? '',
      waitsFor: after.map(({ id }) => id),
      weight: p.weight,
      cap,
      pauseMax,
      mode: p.mode,
      leaves: p.leaves,
      proveDays: p.proveDays,
      notes: p.notes ?? '',
      since: context.now,
      log: [
        {
          at: context.now,
          says: `${lines.length} of ${lines.length} hold: ${someOf(
            lines.map(({ what }) => uncapital(what)),
            12,
          )}`,
        },
      ],
    });
    const copy = foretoldCopy(view, row, volume, foreseenRate(view, array.id, target.id, cap), context.now);
    return planned({
      device: { kind: 'array', id: target.id, name: target.name },
      title: `Move ${volume.name} to ${target.id === array.id ? '' : `${target.name} `}${to.name}: ${formatBytes(needAt(volume, to), 'used')}, ${copyWords(copy)}`,
      takes: SECOND,
      effects: [created('move', row)],
      notes: [
        ...startWords(plan, context.now),
        'Nothing changes for hosts before somebody confirms the cut.',
        ...(p.identity === 'new'
          ? [`Hosts of ${volume.name} unmount before the cut, look again after it and find another device.`]
          : []),
        ...(copy.outcome === 'converged' ? [] : [`${volume.name}: ${copyWords(copy)}.`]),
        ...lines
          .filter(({ what }) => what === 'Copies in time' || what === 'Limits and tier policy')
          .flatMap(({ why }) => (why.startsWith('none') ? [] : [`${volume.name}: ${why}.`])),
      ],
    });
  },
  foretell: foretellMove,
};

/** Whether the windows of the plan are long enough for what goes by it, with these moves: asked of all at once. */
function windowsShort(view: EstateView, p: MoveParams, context: PlanContext): Refusal[] {
  const plan = p.wavePlan ? lookUp(view, 'wavePlan', p.wavePlan) : undefined;
  const array = lookUp(view, 'array', p.array);
  const target = p.to ? lookUp(view, 'array', p.to) : array;
  const to = target && lookUp(view, 'pool', p.pool, target.id);
  if (!plan || plan.fromHour === null || !array || !target || !to) return [];
  const link = lineFor(view, array, target);
  if (link === undefined) return [];
  const rows = p.volumes.flatMap((ref, k): Move[] => {
    const volume = lookUp(view, 'volume', ref, array.id);
    return volume
      ? [
          rowOf('move', {
            id: `asked ${k}`,
            name: volume.name,
            volume: volume.id,
            fromPool: volume.pool,
            toPool: to.id,
            link: link?.id ?? null,
            wavePlan: plan.id,
            since: context.now,
          }),
        ]
      : [];
  });
  const overlay = new Overlay(view);
  overlay.apply(rows.map((row) => created('move', row)));
  const short = rows[0] ? wavesRefusal(overlay, rows[0], context.now) : null;
  return short ? [short] : [];
}

/** Whether the target's array could serve the volumes too in its worst single-failure state: asked of all at once. */
function headroomAsked(view: EstateView, p: MoveParams): Refusal[] {
  const array = lookUp(view, 'array', p.array);
  const target = p.to ? lookUp(view, 'array', p.to) : array;
  const to = target && lookUp(view, 'pool', p.pool, target.id);
  if (!array || !target || !to || target.id === array.id) return [];
  const iops = p.volumes.reduce((sum, ref) => {
    const activity = lookUp(view, 'volume', ref, array.id)?.activity;
    return sum + (activity ? activity.reads + activity.writes : 0);
  }, 0);
  const left = iops > 0 ? poolHeadrooms(view, target.id).get(to.id) : undefined;
  if (!left || left.used + iops <= left.limit) return [];
  const spare = Math.max(0, Math.floor(left.limit - left.used));
  return [
    {
      code: 'move-headroom',
      field: 'pool',
      subject: subjectOf('pool', to),
      message: `${someOf(p.volumes)} ask for ${Math.round(iops)} I/O a second; ${to.name} has ${spare} left with one part failed (${left.at}, ${left.state}, by I/O of ${COUNTED_IO.ioBytes / 1024} KiB).`,
      mend: 'Choose another pool, limit them first, or move fewer.',
    },
  ];
}

function foretellMove(view: EstateView, draft: Draft, context: { now: Milliseconds }): Foretold {
  const { fields, array, volumes } = volumeFields(view, draft, (volume) => moveBar(view, volume) ?? undefined);
  if (draftList(draft, 'volumes').length > 0 && volumes.length > 0) {
    const pools = [...new Set(volumes.map((volume) => poolOf(view, volume).name))];
    fields.volumes!.says = `In ${someOf(pools)} on ${arrayOf(view, volumes[0]!).name}.`;
  }
  return { fields: { ...fields, ...moveForetold(view, draft, array, volumes, context.now) } };
}
