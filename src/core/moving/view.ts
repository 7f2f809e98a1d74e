import { shownBytes } from '../copies/parts';
import type { Move, WavePlan } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import { CUT_STEPS } from '../move/states';
import type { Waves } from '../move/waves';
import { byName } from '../operation/draft';
import { nextStep, type NextStep } from '../operation/next-step';
import { poolUsage } from '../pool/usage';
import { arraysOf, roadsOf, spareRate } from '../replicate/line-shares';
import { openStretches } from '../schedule/hours';
import { formatBytes } from '../units/bytes';
import { counted } from '../units/counted';
import { weekTimeText } from '../units/date';
import { DAY, formatDuration, SECOND, type Milliseconds } from '../units/duration';
import { formatRate } from '../units/rate';
import type { MoveAnswer, MoveBound, MoveGroup, MoveRow, MovesAnswer, MoveStep, Span, WavePlanRow } from './answers';
import { groupOf, stateWords } from './ask';
import { changedSince, lacking } from './changes';
import { LEAST_PATHS } from './choices';
import { cutValues, cutWords } from './cut-values';
import { growthWhile, prerequisites } from './prerequisites';
import { hostsWell, leftLocked } from './proof';
import { movesOf, toCopy, wavesOf } from './waves';
import { planOf, poolById, slotBook, sourceOf, standsStill, staysWithin, waitedFor } from './roads';
import { seconds } from './rounds';
import { windowWords } from './wave-operations';

const placeName = (view: EstateView, pool: string): string => {
  const row = poolById(view, pool);
  return `${arrayOf(view, row).name} ${row.name}`;
};

/** Stretches of a plan's windows from a moment to another. */
function windowSpans(plan: WavePlan | null, from: Milliseconds, to: Milliseconds): Span[] {
  if (plan === null || plan.fromHour === null) return [];
  const spans: Span[] = [];
  for (const open of openStretches({ from: plan.fromHour, until: plan.untilHour, days: plan.days }, from)) {
    if (open.to === null || open.from > to) break;
    spans.push([open.from, open.to]);
  }
  return spans;
}

/** Stretches in which one move copies, neighbours joined. */
function barsOf(waves: Waves | null, id: string, now: Milliseconds): Span[] {
  const bars: [number, number][] = [];
  for (const { fromS, toS, rates } of waves?.course ?? []) {
    if (!(rates[id]! > 0)) continue;
    const [from, to] = [now + fromS * SECOND, now + toS * SECOND];
    const last = bars.at(-1);
    if (last && Math.abs(last[1] - from) < 1) last[1] = to;
    else bars.push([from, to]);
  }
  return bars;
}

/** What is said beside a move's bar. */
function saysOf(
  view: EstateView,
  row: Move,
  still: string | null,
  left: number,
  endsAt: Milliseconds | null,
  now: Milliseconds,
): string {
  const ends = endsAt === null ? '' : `ends ${weekTimeText(endsAt)}`;
  switch (row.state) {
    case 'ready': {
      if (row.held) return 'held by a person';
      const [first] = waitedFor(view, row);
      const full = slotBook(view)(row);
      const why = still ?? (first ? `after ${first.name}` : full ? `waits for a slot` : 'starts');
      return [why, ends].filter(Boolean).join(', ');
    }
    case 'copying':
      return [
        row.asks !== '' ? 'does not converge' : '',
        still ?? (row.round ? formatRate(Math.round(row.round.rate)) : ''),
        ends,
      ]
        .filter(Boolean)
        .join(', ');
    case 'waiting':
      return `${formatBytes(Math.round(left), 'used')} dirty, ${still ?? (row.round ? 'catches up' : `pause ${seconds(cutValues(view, row, now).pause)}`)}`;
    case 'cutting':
      return 'hosts wait';
    case 'proving':
      return `taken over ${weekTimeText(row.cutAt ?? row.since)}, way back kept`;
    case 'cleaning':
      return 'the old copy is erased';
    default:
      return stateWords[row.state];
  }
}

function rowOf(view: EstateView, row: Move, waves: Waves | null, now: Milliseconds): MoveRow {
  const volume = view.table('volume').get(row.volume)!;
  const bytes = shownBytes(volume);
  const going = row.state === 'ready' || row.state === 'copying' || row.state === 'waiting';
  const left = going ? Math.max(0, lacking(view, row, now)) : 0;
  const still = going ? standsStill(view, row, now) : null;
  const finish = waves?.moves.find(({ id }) => id === row.id)?.finishS;
  const endsAt = finish === undefined ? null : now + finish * SECOND;
  const first = row.state === 'ready' || (row.state === 'copying' && row.pit === null);
  return {
    id: row.id,
    name: row.name,
    volume: row.volume,
    volumeName: volume.name,
    array: arrayOf(view, volume).name,
    from: placeName(view, row.fromPool),
    to: placeName(view, row.toPool),
    bytes,
    left,
    share: !first ? 1 : bytes > 0 ? Math.min(1, Math.max(0, 1 - left / bytes)) : 0,
    rate: row.flows && row.round ? row.round.rate : 0,
    state: row.state,
    stateSays: stateWords[row.state],
    held: row.held,
    still,
    asks: row.asks,
    together: row.together,
    waitsFor: waitedFor(view, row).map(({ name }) => name),
    mode: row.mode,
    identity: row.identity,
    turned: row.turned,
    startedAt: row.startedAt,
    wholeAt: row.wholeAt,
    cutAt: row.cutAt,
    endsAt,
    plannedAt: row.plannedAt,
    provenAt:
      row.state === 'proving' && row.proveDays > 0 && row.cutAt !== null ? row.cutAt + row.proveDays * DAY : null,
    bars: barsOf(waves, row.id, now),
    says: saysOf(view, row, still, left, endsAt, now),
    pauseMax: row.pauseMax,
  };
}

/** What is full on the way: arrays and lines by their rates, target pools by their fill. */
function boundsOf(view: EstateView, rows: readonly Move[], waves: Waves, now: Milliseconds): MoveBound[] {
  const { roads } = roadsOf(view, now);
  const byId = new Map(rows.map((row) => [row.id, row]));
  const course = waves.course ?? [];
  const ways = new Set(rows.flatMap((row) => [...arraysOf(view, row), ...(row.link === null ? [] : [row.link])]));
  const bounds = [...ways].map((id): MoveBound => {
    const array = view.table('array').get(id);
    const limit = roads[id] ?? spareRate(view, id);
    return {
      name: array?.name ?? view.table('siteLink').get(id)!.name,
      what: 'rate',
      limit,
      limitSays: `spares ${formatRate(Math.round(limit))}`,
      steps: course.map(({ fromS, toS, rates }) => ({
        from: now + fromS * SECOND,
        to: now + toS * SECOND,
        value: Object.entries(rates).reduce((sum, [move, rate]) => {
          const row = byId.get(move)!;
          return arraysOf(view, row).includes(id) || row.link === id ? sum + rate : sum;
        }, 0),
      })),
    };
  });
  const mean = ({ steps, limit }: MoveBound) =>
    steps.reduce((sum, { from, to, value }) => sum + value * (to - from), 0) / Math.max(1, limit);
  const busiest = bounds.sort((a, b) => mean(b) - mean(a)).slice(0, 2);
  const pools = [...new Set(rows.map(({ toPool }) => toPool))].map((id): MoveBound => {
    const pool = poolById(view, id);
    const usage = poolUsage(view, pool);
    let value = usage.usedBytes;
    const threshold = (usage.size * pool.urgent) / 100;
    const steps = course.map(({ fromS, toS, rates }) => {
      for (const [move, rate] of Object.entries(rates))
        if (byId.get(move)!.toPool === id) value += rate * (toS - fromS);
      return { from: now + fromS * SECOND, to: now + toS * SECOND, value: Math.min(value, usage.size) };
    });
    return {
      name: placeName(view, id),
      what: 'fill',
      limit: threshold,
      limitSays: `urgent ${formatBytes(Math.round(threshold))}`,
      steps: [{ from: now, to: now, value: usage.usedBytes }, ...steps],
    };
  });
  const fullest = pools.sort((a, b) => b.steps.at(-1)!.value / b.limit - a.steps.at(-1)!.value / a.limit)[0];
  return fullest ? [...busiest, fullest] : busiest;
}

/** How far the axis is looked ahead where a plan has windows. */
const AHEAD = 4 * DAY;

function planRow(view: EstateView, plan: WavePlan | null, now: Milliseconds): WavePlanRow {
  const rows = movesOf(view, plan);
  const open = toCopy(rows);
  const waves = open.length > 0 ? wavesOf(view, plan, now, rows, true) : null;
  const found = waves?.ok ? waves.value : null;
  const moves = rows.map((row) => ({ row, answer: rowOf(view, row, found, now) }));
  const groups = new Map<string, { name: string; rows: Move[]; moves: MoveRow[] }>();
  for (const { row, answer } of moves) {
    const key = groupOf(row) || ' ';
    const group = groups.get(key) ?? { name: row.together, rows: [], moves: [] };
    group.rows.push(row);
    group.moves.push(answer);
    groups.set(key, group);
  }
  const endsAt = found ? now + found.makespanS * SECOND : null;
  const firstAt = Math.min(now, ...rows.map(({ startedAt }) => startedAt ?? now));
  return {
    id: plan?.id ?? null,
    name: plan?.name ?? 'Without a plan',
    held: plan?.held ?? false,
    words: plan ? windowWords(plan) : 'at once',
    slots: plan?.slots ?? 0,
    windows: windowSpans(plan, firstAt, Math.max(endsAt ?? now, now) + AHEAD),
    groups: [...groups.values()]
      .map(({ name, rows: own, moves: answers }): MoveGroup => {
        const ends = answers.map(({ endsAt: end, wholeAt }) => end ?? wholeAt);
        return {
          name,
          moves: answers.sort((a, b) => (a.startedAt ?? Infinity) - (b.startedAt ?? Infinity) || byName(a, b)),
          bytes: answers.reduce((sum, { bytes }) => sum + bytes, 0),
          readyAt: ends.some((end) => end === null) ? null : Math.max(...ends.map((end) => end!)),
          canConfirm:
            name !== '' &&
            own.every((row) => row.state === 'waiting') &&
            own.every((row) => cutValues(view, row, now).pause <= row.pauseMax && standsStill(view, row, now) === null),
        };
      })
      .sort((a, b) => byName(a, b)),
    bytes: moves.reduce((sum, { answer }) => sum + answer.bytes, 0),
    copied: moves.reduce((sum, { answer }) => sum + answer.bytes * answer.share, 0),
    endsAt,
    boundAt: found ? now + found.lowerBoundS * SECOND : null,
    ratio: found?.ratio ?? null,
    problem: waves && !waves.ok ? waves.message : '',
    bounds: found ? boundsOf(view, open, found, now) : [],
  };
}

/** All moves: those of each plan with their waves, those without one, and what is over. */
export function movesView(view: EstateView, now: Milliseconds): MovesAnswer {
  const plans = [...view.table('wavePlan').values()].sort(byName);
  const loose = movesOf(view, null);
  return {
    now,
    plans: [...plans.map((plan) => planRow(view, plan, now)), ...(loose.length > 0 ? [planRow(view, null, now)] : [])],
    over: [...view.table('move').values()]
      .filter(({ state }) => state === 'done' || state === 'aborted')
      .sort((a, b) => b.since - a.since)
      .map((row) => ({
        name: row.name,
        state: row.state,
        from: placeName(view, row.fromPool),
        to: placeName(view, row.toPool),
        since: row.since,
        bytes: shownBytes(view.table('volume').get(row.volume)!),
      })),
  };
}

/** A short span to the tenth of a second, a long one in its two greatest parts. */
const spanWords = (span: Milliseconds): string =>
  span < 60 * SECOND ? seconds(span) : formatDuration(Math.round(span / SECOND) * SECOND);

const order: readonly Move['state'][] = [
  'planned',
  'ready',
  'copying',
  'waiting',
  'cutting',
  'proving',
  'cleaning',
  'done',
];

/** The seven steps of a move, with what is to be seen of each (move.md A). */
function stepsOf(view: EstateView, row: Move, now: Milliseconds): MoveStep[] {
  const at = order.indexOf(row.state);
  const is = (state: Move['state']): MoveStep['is'] => {
    const own = order.indexOf(state);
    return at > own ? 'done' : at === own ? 'now' : 'next';
  };
  const within = staysWithin(view, row);
  const volume = view.table('volume').get(row.volume)!;
  const twin = row.twin === null ? undefined : view.table('volume').get(row.twin);
  const checks =
    row.state === 'ready'
      ? prerequisites(
          // The move itself is no reason against it.
          withoutMove(view, row),
          {
            volume,
            to: poolById(view, row.toPool),
            link: row.link === null ? null : view.table('siteLink').get(row.link),
            identity: row.identity,
            leaves: row.leaves,
          },
          now,
        )
      : [];
  const noted = row.log.filter(({ says }) => /hold:|made in|paths there/.test(says));
  const values = row.state === 'waiting' ? cutValues(view, row, now) : null;
  // What is overwritten within a day, and what comes new.
  const changes =
    changedSince(view, row, volume, shownBytes(volume), now, now + DAY) +
    (row.mode === 'mirror' ? 0 : growthWhile(view, volume, DAY / SECOND));
  return [
    {
      title: 'Check',
      is: row.state === 'planned' ? 'now' : 'done',
      at: row.log[0]?.at ?? null,
      lines:
        checks.length > 0
          ? checks.map(({ what, ok, why, refusal }) => ({
              says: `${what}: ${why}`,
              ok,
              ...(refusal ? { mend: refusal.mend, ...(refusal.offer ? { offer: refusal.offer } : {}) } : {}),
            }))
          : noted.filter(({ says }) => says.includes('hold:')),
    },
    {
      title: 'Prepare',
      is: row.state === 'ready' ? 'now' : is('ready'),
      at: row.startedAt,
      lines: [
        ...noted.filter(({ says }) => !says.includes('hold:')),
        ...(row.state === 'ready' ? [{ says: saysOf(view, row, standsStill(view, row, now), 0, null, now) }] : []),
      ],
    },
    {
      title: 'Copy',
      is: is('copying'),
      at: row.wholeAt,
      lines: [
        ...row.rounds.slice(-5).map((round, k, all) => ({
          says: `round ${row.done - all.length + k + 1}: ${formatBytes(Math.round(round.bytes), 'used')} in ${spanWords(round.took)}`,
          at: round.at,
        })),
        ...(row.round
          ? [
              {
                says: `round ${row.done + 1}: ${formatBytes(Math.round(row.round.wire), 'used')} at ${formatRate(Math.round(row.round.rate))}`,
              },
            ]
          : []),
        ...(row.asks !== ''
          ? [
              {
                says: 'hosts change it faster than it is copied: mirror new writes, limit them, allow a longer pause or abort',
                ok: false,
              },
            ]
          : []),
      ],
    },
    {
      title: 'Look once more, confirm',
      is: is('waiting'),
      at: null,
      lines:
        row.state === 'waiting'
          ? [
              { says: cutWords(view, row, now) },
              ...(row.round || (values && values.pause > row.pauseMax)
                ? [{ says: 'it catches up first', ok: false }]
                : []),
              { says: `waiting copies ${formatBytes(Math.round(changes), 'used')} a day` },
              ...(values?.paths !== null && values?.paths !== undefined
                ? [{ says: `${values.paths} new paths at the least host`, ok: values.paths >= LEAST_PATHS }]
                : []),
            ]
          : [{ says: `a person confirms; hosts wait ${seconds(row.pauseMax)} at most` }],
    },
    {
      title: 'Take over',
      is: is('cutting'),
      at: row.cutAt,
      lines: [
        {
          says:
            row.cutAt !== null && row.pause !== null
              ? `${CUT_STEPS.join(', ')}; hosts waited ${seconds(row.pause)}`
              : CUT_STEPS.join(', '),
        },
      ],
    },
    {
      title: 'Prove',
      is: is('proving'),
      at: null,
      lines:
        row.state === 'proving'
          ? [
              { says: hostsWell(view, row) ?? 'all hosts are well on their paths', ok: hostsWell(view, row) === null },
              ...(leftLocked(view, row, now) ? [{ says: leftLocked(view, row, now)!, ok: false }] : []),
              {
                says: `the old copy ${twin?.name ?? ''} holds ${formatBytes(twin ? view.occupancy.allocated(twin.id) * poolById(view, twin.pool).extentSize : 0)} on ${sourceOf(view, row).name}`,
              },
            ]
          : [
              {
                says:
                  row.proveDays === 0
                    ? 'the way back is kept until somebody accepts'
                    : `the way back is kept for ${counted(row.proveDays, 'day')}`,
              },
            ],
    },
    {
      title: 'Clean up',
      is: row.state === 'done' ? 'done' : is('cleaning'),
      at: row.state === 'done' ? row.since : null,
      lines: [
        {
          says: `old copy erased${within ? '' : ', old paths gone'}; after it there is no way back`,
        },
      ],
    },
  ];
}

/** An estate as if a move were not: its own row is no other move's. */
function withoutMove(view: EstateView, row: Move): EstateView {
  const overlay = new Overlay(view);
  overlay.apply([{ kind: 'move', id: row.id, before: row, after: null }]);
  return overlay;
}

/** What a person can do with a move as it stands. */
function verbsOf(row: Move): NextStep[] {
  const moves = { moves: [row.name] };
  const configure = nextStep('Change', 'move.configure', { move: row.name });
  switch (row.state) {
    case 'ready':
    case 'copying':
    case 'waiting':
      return [
        ...(row.state === 'waiting'
          ? [nextStep(row.together === '' ? 'Confirm cut' : `Confirm ${row.together}`, 'move.confirm', moves)]
          : []),
        row.held ? nextStep('Go on', 'move.go-on', moves) : nextStep('Hold', 'move.hold', moves),
        configure,
        nextStep('Stop, put back', 'move.abort', moves),
      ];
    case 'proving':
      return [nextStep('Accept', 'move.accept', moves), nextStep('Roll back', 'move.roll-back', moves), configure];
    default:
      return [];
  }
}

/** One move, with its steps and its log. */
export function moveView(view: EstateView, row: Move, now: Milliseconds): MoveAnswer {
  const plan = planOf(view, row);
  const waves = toCopy([row]).length > 0 ? wavesOf(view, plan, now, movesOf(view, plan), true) : null;
  return {
    ...rowOf(view, row, waves?.ok ? waves.value : null, now),
    steps: stepsOf(view, row, now),
    log: [...row.log].reverse(),
    notes: row.notes,
    verbs: verbsOf(row),
  };
}
