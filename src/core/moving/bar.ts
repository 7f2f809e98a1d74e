import type { Effect } from '../estate/effects';
import type { Kind, Move, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { nextStep } from '../operation/next-step';
import { subjectOf, type Refusal } from '../operation/refusal';
import { stateWords } from './ask';
import { moveOf, openMoves, staysWithin } from './roads';

/** Fields of a volume that both sides of a move must agree on, and what they are called. */
const agreed: Partial<Record<keyof Volume, string>> = {
  size: 'its size cannot change',
  provisioning: 'it cannot be made another kind',
  deletedAt: 'it cannot be retired',
  pool: 'it cannot be taken elsewhere',
};

/** Kinds of rows that give a volume something of its own, which the other side of a move must not have. */
const given: { [K in Kind]?: string } = {
  mapping: 'shown to nobody',
  snapshot: 'copied by nobody',
  hostDevice: 'seen by nobody',
  limitUse: 'put under no limit',
  tierUse: 'put under no policy',
  allotmentUse: 'taken by nobody',
  classUse: 'put under no class',
};

const openNow = ({ state }: Move): boolean => state !== 'done' && state !== 'aborted';

/**
 * What effects of an operation other than a move's own would harm of a move that is not over; empty where nothing. `undoes` are the effects
 * of the step that they take back, if they do: moves that it asked for may go with it.
 */
export function barredByMoves(view: EstateView, effects: readonly Effect[], undoes: readonly Effect[] = []): Refusal[] {
  if (openMoves(view).length === 0) return [];
  const asked = undoes.filter(({ before }) => !before);
  const own = new Set([...effects, ...asked].flatMap(({ kind, id, after }) => (kind === 'move' && after ? [id] : [])));
  // Giving an outside LUN back takes the move of the volume in front of it along.
  for (const { kind, before, after } of effects)
    if (kind === 'outsideLun' && before?.front && after?.front === null) {
      const going = moveOf(view, before.front);
      if (going) own.add(going.id);
    }
  const found = new Map<string, Refusal>();
  const bar = (row: Move | null, message: (row: Move) => string) => {
    if (!row || !openNow(row) || own.has(row.id) || found.has(row.id)) return;
    found.set(row.id, {
      code: 'volume-moving',
      subject: subjectOf('move', row),
      message: message(row),
      mend:
        row.state === 'proving'
          ? 'Accept the move or roll it back first.'
          : 'Wait until the move is over, or abort it.',
      offer:
        row.state === 'proving'
          ? nextStep(`Accept the move of ${row.name}`, 'move.accept', { moves: [row.name] })
          : nextStep(`Abort the move of ${row.name}`, 'move.abort', { moves: [row.name] }),
    });
  };
  const name = (id: string) => view.table('volume').get(id)?.name ?? id;
  const tells = (row: Move) => `the move of ${row.name} ${stateWords[row.state]}`;
  for (const { kind, id, before, after } of effects) {
    if (kind === 'volume' && before) {
      const row = moveOf(view, id);
      if (!row) continue;
      const twin = row.twin === id;
      if (!after) bar(row, (one) => `${before.name} is ${twin ? 'one side' : 'the subject'} of a move: ${tells(one)}.`);
      else {
        const field = (Object.keys(agreed) as (keyof Volume)[]).find((one) => before[one] !== after[one]);
        if (field) bar(row, (one) => `${before.name} goes to another pool, and ${agreed[field]!}: ${tells(one)}.`);
        else if (twin && after.written < before.written)
          bar(row, (one) => `${before.name} is one side of a move: ${tells(one)}.`);
      }
    } else if (kind === 'volume' && after?.origin) {
      const twin = view.table('move').by('twin', after.origin)[0] ?? null;
      bar(
        twin,
        (one) => `${name(after.origin!)} goes when the move is over, and nothing may rest on it: ${tells(one)}.`,
      );
    } else if (kind === 'move' && before && !after)
      bar(before, (one) => `${one.name} goes from or to it: ${tells(one)}.`);
    else if (kind === 'siteLink' && !after)
      bar(openMoves(view).find(({ link }) => link === id) ?? null, (one) => `${one.name} goes over it: ${tells(one)}.`);
    else if (kind === 'job' && after && !before && after.volume !== null)
      bar(moveOf(view, after.volume), (one) => `${name(after.volume!)} goes to another pool: ${tells(one)}.`);
    else if (kind === 'replication' && after) {
      const members = [...after.primaries, ...after.secondaries, ...after.logs];
      const had = before ? [...before.primaries, ...before.secondaries, ...before.logs] : [];
      for (const volume of members) {
        const row = had.includes(volume) ? null : moveOf(view, volume);
        if (row && (row.twin === volume || !staysWithin(view, row)))
          bar(row, (one) => `${name(volume)} goes to another array: ${tells(one)}.`);
      }
    } else if (given[kind] && after && !before) {
      const { volume } = after as { volume: string | null };
      const row = volume === null ? null : (view.table('move').by('twin', volume)[0] ?? null);
      bar(row, (one) => `${name(volume!)} is one side of a move, and ${given[kind]!}: ${tells(one)}.`);
    }
  }
  return [...found.values()];
}
