import { type ArrayRow, type Pool, type Volume, type WavePlan } from '../estate/entities';
import { type EstateView } from '../estate/estate';
import { siteOf } from '../estate/relations';
import { arrayChoices, byName, draftFlag, draftNumber, draftText, orNone } from '../operation/draft';
import { lookUp } from '../operation/inquiry';
import { type Draft, type Foretold } from '../operation/operation';
import { formatBytes } from '../units/bytes';
import { uncapital } from '../units/counted';
import { momentText } from '../units/date';
import { formatDuration, SECOND, type Milliseconds } from '../units/duration';
import { formatRate } from '../units/rate';
import type { PlaceAnswer } from '../service/place';
import { bestPlaces } from './best-place';
import { BARRIER } from './choices';
import { foretoldCopy, type ForetoldCopy } from './foretold';
import { prerequisites } from './prerequisites';
import { extentsBesideMoves, needAt } from '../volume/promised';
import { lineFor, openMoves, windowOf } from './roads';
import { seconds } from './rounds';

import { foreseenRate, wavePlanChoices } from './move-fields';
/** How a copy goes, within a sentence. */
export const copyWords = (copy: ForetoldCopy): string =>
  copy.outcome === 'converged'
    ? `whole after ${formatDuration(Math.max(SECOND, Math.round(copy.takes / SECOND) * SECOND))} in ${copy.rounds.length === 1 ? 'one round' : `${copy.rounds.length} rounds`}, then hosts wait ${seconds(copy.pause)}`
    : 'hosts change it faster than it would be copied: allow a longer pause, or mirror it';

/** When a move starts that waits for its window. */
export const startWords = (plan: WavePlan | null, now: Milliseconds): string[] => {
  const { from } = windowOf(plan, now);
  return from > now ? [`It starts when the window of ${plan!.name} opens, ${momentText(from)}.`] : [];
};

const poolChoice = (view: EstateView, to: Pool, volumes: readonly Volume[], places: PlaceAnswer | null) => {
  const score = places?.pools.find(({ id }) => id === to.id)?.score ?? null;
  const free = extentsBesideMoves(view, to) * to.extentSize;
  const need = volumes.reduce((sum, volume) => sum + needAt(volume, to), 0);
  const own = volumes.length > 0 && volumes.every(({ pool }) => pool === to.id);
  const short = need > free ? `lacks room for ${formatBytes(need - free, 'used')}` : undefined;
  const unfit = own ? 'is where they lie' : short;
  return {
    value: to.name,
    label: `${to.name}, ${formatBytes(free)} free${score === null ? '' : `, fits ${Math.round(score)} of 100`}`,
    ...(unfit ? { unfit } : {}),
  };
};

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
  const places = target ? bestPlaces(view, target, volumes) : null;
  /** The best first, as they are ranked; what is not ranked last. */
  const order = (name: string): number => {
    const at = places?.pools.findIndex((one) => one.name === name) ?? -1;
    return at < 0 ? Infinity : at;
  };
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
            .map((one) => poolChoice(view, one, volumes, places))
            .sort((a, b) => order(a.value) - order(b.value))
        : [],
      says:
        lines.length === 0
          ? (places?.says ?? 'Where they are to lie.')
          : no.length === 0
            ? `All ${lines.length} prerequisites hold.`
            : `${no.length} of ${lines.length} prerequisites ${no.length === 1 ? 'does' : 'do'} not hold; ${no[0]!.volume.name}: ${uncapital(no[0]!.what)}, ${no[0]!.why}.`,
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
