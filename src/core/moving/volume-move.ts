import { z } from 'zod';
import { created } from '../estate/effects';
import { rowOf, type ArrayRow, type Move, type Pool, type Volume, type WavePlan } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { arrayOf, poolOf, siteOf } from '../estate/relations';
import { arrayChoices, byName, draftFlag, draftList, draftNumber, draftText, orNone } from '../operation/draft';
import { folded, pick, several, such, the } from '../operation/form';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import {
  planned,
  refused,
  type Draft,
  type Foretold,
  type OperationType,
  type PlanContext,
} from '../operation/operation';
import { flag } from '../operation/params';
import { subjectOf, type Refusal } from '../operation/refusal';
import { COUNTED_IO, poolHeadrooms } from '../performance/pool-headroom';
import { availableExtents } from '../pool/usage';
import { spareRate } from '../replicate/line-shares';
import { formatBytes } from '../units/bytes';
import { someOf, uncapital } from '../units/counted';
import { momentText } from '../units/date';
import { formatDuration, SECOND, type Milliseconds } from '../units/duration';
import { formatRate, parseRate } from '../units/rate';
import { askVolume, volumeFields } from '../volume/ask';
import { BARRIER } from './choices';
import { moveBar } from './fitness';
import { foretoldCopy, type ForetoldCopy } from './foretold';
import { needAt, prerequisites, promisedTo } from './prerequisites';
import { lineFor, openMoves, windowOf } from './roads';
import { seconds } from './rounds';
import { wavesRefusal } from './waves';

export const moveParams = {
  to: z.string().optional().describe('The array it goes to; without it the one it is on'),
  pool: z.string().describe('The pool there'),
  identity: z
    .enum(['kept', 'new'])
    .default('kept')
    .describe('Whether hosts keep their device, or look again and find another one'),
  wavePlan: z.string().optional().describe('The wave plan within whose windows and slots it goes'),
  together: z.string().max(64).optional().describe('Moves under one such name are cut over together'),
  after: z.array(z.string()).default([]).describe('Moves whose copy must be whole before it starts'),
  pauseS: z.coerce.number().positive().max(600).default(4).describe('Most seconds that hosts wait at the cut'),
  cap: z.string().optional().describe('Most bytes a second, such as 100 MiB/s'),
  weight: z.coerce
    .number()
    .positive()
    .max(1000)
    .default(1)
    .describe('Its share of lines and arrays against the others'),
  mode: z.enum(['rounds', 'mirror']).default('rounds').describe('Round after round, or each new write to both sides'),
  leaves: flag.default(false).describe('What cannot go along may stay behind: copies in time, limits, a class'),
  proveDays: z.coerce
    .number()
    .int()
    .min(0)
    .max(365)
    .default(7)
    .describe('Days after which the old copy is erased by itself; 0 for when somebody accepts'),
  notes: z.string().max(1000).optional(),
};
const schema = z.object({
  array: z.string(),
  volumes: z.array(z.string()).min(1, 'name at least one volume'),
  ...moveParams,
});
export type MoveParams = z.output<typeof schema>;

export const moveForm = {
  to: pick('To array'),
  pool: pick('Its pool'),
  identity: 'Identity',
  wavePlan: pick('Wave plan'),
  together: folded(such('Cut over together', 'Wave 1')),
  after: folded(several('After')),
  pauseS: such('Pause at most, s', '4'),
  cap: folded(such('Bytes a second at most', '100 MiB/s')),
  weight: folded('Weight'),
  mode: folded('How'),
  leaves: { label: 'Accept what stays behind', control: 'switch' },
  proveDays: folded('Erase old copy after, days'),
  notes: folded('Notes'),
} as const;

/** Bytes a second that one more move would get, as far as the arrays go: others that are copied there share them. */
export function foreseenRate(view: EstateView, from: string, to: string, cap: number | null): number {
  const share = (array: string) => {
    const busy = openMoves(view).filter(
      (row) =>
        row.state === 'copying' && [row.fromPool, row.toPool].some((id) => view.table('pool').get(id)!.array === array),
    ).length;
    return spareRate(view, array) / (busy + 1);
  };
  return Math.min(cap ?? Infinity, share(from), share(to));
}

/** A cap in bytes a second; null for none. */
export function readCap(asks: Inquiry, text: string | undefined, name: string): number | null {
  if (!text || text.trim() === '' || text.trim().toLowerCase() === 'none') return null;
  const rate = asks.value(parseRate(text), 'cap', { kind: 'move', name });
  if (rate === 0)
    asks.refuse({
      code: 'move-cap-zero',
      field: 'cap',
      subject: { kind: 'move', name },
      message: `${name} would never be copied.`,
      mend: 'Name 1 MiB/s or more, or leave it empty.',
    });
  return rate ?? null;
}

/** Refuses a pause that cutting over alone would not hold. */
export function askPause(asks: Inquiry, pauseMax: Milliseconds, name: string): void {
  if (pauseMax > BARRIER) return;
  asks.refuse({
    code: 'move-pause-below-barrier',
    field: 'pauseS',
    subject: { kind: 'move', name },
    message: `Switching alone takes ${seconds(BARRIER)}; the allowed pause is ${seconds(pauseMax)}.`,
    mend: 'Allow 2 s or more.',
  });
}

/** The name of a move: its volume's, numbered where an earlier move bears it. */
function nameFor(view: EstateView, volume: Volume): string {
  for (let number = 1; ; number++) {
    const name = number === 1 ? volume.name : `${volume.name} ${number}`;
    if (!lookUp(view, 'move', name)) return name;
  }
}

const copyWords = (copy: ForetoldCopy): string =>
  copy.outcome === 'converged'
    ? `whole after ${formatDuration(Math.max(SECOND, Math.round(copy.takes / SECOND) * SECOND))} in ${copy.rounds.length === 1 ? 'one round' : `${copy.rounds.length} rounds`}, then hosts wait ${seconds(copy.pause)}`
    : 'hosts change it faster than it would be copied: allow a longer pause, or mirror it';

export const volumeMove: OperationType<MoveParams> = {
  kind: 'volume.move',
  verb: 'Move volumes',
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

const startWords = (plan: WavePlan | null, now: Milliseconds): string[] => {
  const { from } = windowOf(plan, now);
  return from > now ? [`It starts when the window of ${plan!.name} opens, ${momentText(from)}.`] : [];
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

const poolChoice = (view: EstateView, to: Pool, volumes: readonly Volume[]) => {
  const free = Math.max(0, availableExtents(view, to) * to.extentSize - promisedTo(view, to));
  const need = volumes.reduce((sum, volume) => sum + needAt(volume, to), 0);
  const own = volumes.length > 0 && volumes.every(({ pool }) => pool === to.id);
  const unfit = own
    ? 'is where they lie'
    : need > free
      ? `lacks room for ${formatBytes(need - free, 'used')}`
      : undefined;
  return { value: to.name, label: `${to.name}, ${formatBytes(free)} free`, ...(unfit ? { unfit } : {}) };
};

export const wavePlanChoices = (view: EstateView) =>
  [...view.table('wavePlan').values()].sort(byName).map(({ name }) => ({ value: name, label: name }));

/** What is foretold of all fields but those that say which volumes. */
export function moveForetold(
  view: EstateView,
  draft: Draft,
  array: ArrayRow | undefined,
  volumes: readonly Volume[],
  now: Milliseconds,
): Foretold['fields'] {
  const target = lookUp(view, 'array', draftText(draft, 'to')) ?? array;
  const to = target && lookUp(view, 'pool', draftText(draft, 'pool'), target.id);
  const [volume] = volumes;
  const pauseMax = Math.max(0, draftNumber(draft, 'pauseS', 4)) * SECOND;
  const mode = draftText(draft, 'mode') === 'mirror' ? ('mirror' as const) : ('rounds' as const);
  const rate = array && target ? foreseenRate(view, array.id, target.id, null) : 0;
  const copies = to ? volumes.map((one) => foretoldCopy(view, { mode, pauseMax }, one, rate, now)) : [];
  const worst = copies.reduce<ForetoldCopy | null>((a, b) => (a === null || b.pause > a.pause ? b : a), null);
  const plan = lookUp(view, 'wavePlan', draftText(draft, 'wavePlan'));
  const lines =
    volume && to && target && array
      ? volumes.flatMap((one) =>
          prerequisites(
            view,
            {
              volume: one,
              to,
              link: lineFor(view, array, target),
              identity: draftText(draft, 'identity') === 'new' ? 'new' : 'kept',
              leaves: draftFlag(draft, 'leaves'),
            },
            now,
          ).map((line) => ({ ...line, volume: one })),
        )
      : [];
  const no = lines.filter(({ ok }) => !ok);
  const within = array !== undefined && target?.id === array.id;
  return {
    to: {
      choices: arrayChoices(view),
      ...(array ? { suggested: array.name } : {}),
      says: within || !target ? 'The same array: hosts notice nothing.' : `At ${siteOf(view, target).name}.`,
    },
    pool: {
      choices: target
        ? [...view.table('pool').by('array', target.id)]
            .filter(({ direct }) => !direct)
            .sort(byName)
            .map((one) => poolChoice(view, one, volumes))
        : [],
      says:
        lines.length === 0
          ? 'Where they are to lie.'
          : no.length === 0
            ? `All ${lines.length} prerequisites hold.`
            : `${no.length} of ${lines.length} prerequisites do not hold; ${no[0]!.volume.name}: ${uncapital(no[0]!.what)}, ${no[0]!.why}.`,
    },
    identity: {
      choices: [
        { value: 'kept', label: 'Kept: hosts go on with their device' },
        { value: 'new', label: 'New: hosts look again' },
      ],
      suggested: 'kept',
      says: within ? 'Within one array it stays.' : 'Kept, the old paths close in the step in which the new ones open.',
    },
    wavePlan: {
      choices: orNone(wavePlanChoices(view)),
      says: plan
        ? (startWords(plan, now)[0] ?? 'Its window is open.')
        : 'Without one it starts at once, as slots are free.',
    },
    together: { says: 'Moves under the same words are confirmed and cut over as one.' },
    after: {
      choices: openMoves(view)
        .filter(({ state }) => state === 'ready' || state === 'copying')
        .map(({ name }) => ({ value: name, label: name })),
      says: 'It starts when their copy is whole.',
    },
    pauseS: {
      suggested: '4',
      says:
        worst === null
          ? `Switching alone takes ${seconds(BARRIER)}.`
          : worst.outcome === 'converged'
            ? `${copyWords(worst)}.`.replace(/^w/, 'W')
            : `${copyWords(worst)}.`.replace(/^h/, 'H'),
    },
    cap: {
      says:
        rate > 0 && Number.isFinite(rate)
          ? `Alone it gets ${formatRate(Math.round(rate))} now.`
          : 'Empty for its share.',
    },
    weight: { suggested: '1', says: 'Against other moves and copies on the same line or array.' },
    mode: {
      choices: [
        { value: 'rounds', label: 'Rounds' },
        { value: 'mirror', label: 'Mirror new writes' },
      ],
      suggested: 'rounds',
      says: 'Mirrored, it converges always, and each write waits for both sides.',
    },
    leaves: {
      says:
        no.find(({ refusal }) => refusal?.field === 'leaves')?.why ??
        'Copies in time, limits and classes that cannot go along.',
    },
    proveDays: { suggested: '7', says: 'Until then the way back is kept, and the old copy takes its room.' },
    notes: { says: 'Why, and who was asked.' },
  };
}

function foretellMove(view: EstateView, draft: Draft, context: { now: Milliseconds }): Foretold {
  const { fields, array, volumes } = volumeFields(view, draft, (volume) => moveBar(view, volume) ?? undefined);
  if (draftList(draft, 'volumes').length > 0 && volumes.length > 0) {
    const pools = [...new Set(volumes.map((volume) => poolOf(view, volume).name))];
    fields.volumes!.says = `In ${someOf(pools)} on ${arrayOf(view, volumes[0]!).name}.`;
  }
  return { fields: { ...fields, ...moveForetold(view, draft, array, volumes, context.now) } };
}
