import { shownBytes } from '../copies/parts';
import type { Move } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { CUT_STEPS, moveStates } from '../move/states';
import { nextStep, type NextStep } from '../operation/next-step';
import { formatBytes } from '../units/bytes';
import { counted } from '../units/counted';
import { DAY, formatDuration, SECOND, type Milliseconds } from '../units/duration';
import { formatRate } from '../units/rate';
import type { MoveAnswer, MoveStep } from './answers';
import { changedSince } from './changes';
import { LEAST_PATHS } from './choices';
import { cutValues, cutWords } from './cut-values';
import { growthWhile, prerequisites } from './prerequisites';
import { hostsWell, leftLocked } from './proof';
import { movesOf, toCopy, wavesOf } from './waves';
import { planOf, poolById, sourceOf, standsStill, staysWithin } from './roads';
import { seconds } from './rounds';

import { rowOf, saysOf } from './view-rows';
/** A short span to the tenth of a second, a long one in its two greatest parts. */
const spanWords = (span: Milliseconds): string =>
  span < 60 * SECOND ? seconds(span) : formatDuration(Math.round(span / SECOND) * SECOND);

const order = moveStates.filter((state) => state !== 'aborted');

/** The seven steps of a move, with what is to be seen of each (move.md A). */
function stepsOf(view: EstateView, row: Move, now: Milliseconds): MoveStep[] {
  const at = order.findIndex((state) => state === row.state);
  const is = (state: Move['state']): MoveStep['is'] => {
    const own = order.findIndex((one) => one === state);
    if (at > own) return 'done';
    return at === own ? 'now' : 'next';
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
