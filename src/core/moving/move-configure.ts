import { z } from 'zod';
import { changed } from '../estate/effects';
import type { Move } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { draftNumber, draftText, orNone } from '../operation/draft';
import { emptied, folded, pick, several, such } from '../operation/form';
import { inquire, lookUp } from '../operation/inquiry';
import { movedWords, type FieldWords } from '../operation/moved';
import { flag } from '../operation/params';
import { planned, refused, type OperationType } from '../operation/operation';
import { counted, someOf } from '../units/counted';
import { SECOND } from '../units/duration';
import { formatRate } from '../units/rate';
import { askMoves, deviceOf, moveChoices, refusalOn, stateWords } from './ask';
import { lacking } from './changes';
import { foretoldCopy } from './foretold';
import { logged } from './log';
import { openMoves, planOf, standsStill } from './roads';
import { ratesOf, seconds } from './rounds';
import { askPause, foreseenRate, readCap, wavePlanChoices } from './move-fields';
import { wavesRefusal } from './waves';

const schema = z.object({
  move: z.string(),
  wavePlan: z.string().optional().describe('Within whose windows it goes; empty for none'),
  together: z.string().max(64).optional(),
  after: z.array(z.string()).optional().describe('Moves whose copy must be whole before it starts'),
  pauseS: z.coerce.number().positive().max(600).optional(),
  cap: z.string().optional().describe('Most bytes a second; none for no limit'),
  weight: z.coerce.number().positive().max(1000).optional(),
  mode: z.enum(['rounds', 'mirror']).optional(),
  leaves: flag.optional().describe('What cannot go along may stay behind'),
  proveDays: z.coerce.number().int().min(0).max(365).optional(),
  notes: z.string().max(1000).optional(),
});
type Params = z.output<typeof schema>;

const words = (view: EstateView): FieldWords<Move> => ({
  wavePlan: (id) => (id === null ? 'by no wave plan' : `by wave plan ${view.table('wavePlan').get(id)!.name}`),
  together: (name) => (name === '' ? 'cut over by itself' : `cut over with ${name}`),
  waitsFor: (ids) =>
    ids.length === 0
      ? 'waits for none'
      : `waits for ${someOf(ids.flatMap((id) => view.table('move').get(id)?.name ?? []))}`,
  pauseMax: (pause) => `hosts wait ${seconds(pause)} at most`,
  cap: (cap) => (cap === null ? 'no limit of its rate' : `at most ${formatRate(cap)}`),
  weight: (weight) => `weight ${weight}`,
  mode: (mode) => (mode === 'mirror' ? 'new writes go to both sides' : 'round after round'),
  leaves: (may) => (may ? 'what cannot go along stays behind' : 'nothing stays behind'),
  proveDays: (days) => (days === 0 ? 'kept until somebody accepts' : `accepted after ${counted(days, 'day')}`),
  notes: () => 'other notes',
});

export const moveConfigure: OperationType<Params> = {
  kind: 'move.configure',
  verb: 'Change a move',
  summary:
    'Its pause, rate, weight, windows and group, or mirrored writes where rounds do not converge; what is not named stays.',
  schema,
  form: {
    columns: [2, 3, 4],
    fields: {
      move: pick('Move'),
      pauseS: such('Pause at most, s', '4'),
      mode: 'How',
      cap: such('Bytes a second at most', '100 MiB/s'),
      weight: 'Weight',
      wavePlan: pick('Wave plan'),
      together: such('Cut over together', 'Wave 1'),
      after: folded(emptied(several('After'))),
      leaves: folded({ label: 'Accept what stays behind', control: 'switch' }),
      proveDays: folded('Erase old copy after, days'),
      notes: folded('Notes'),
    },
  },
  title: (p) => `Change the move of ${p.move}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const row = asks.find('move', p.move, 'move');
    const plan = p.wavePlan?.trim() ? asks.find('wavePlan', p.wavePlan, 'wavePlan') : null;
    const after = p.after?.flatMap((name) => asks.find('move', name, 'after') ?? []);
    if (!row || asks.refusals.length > 0 || plan === undefined) return refused(asks.refusals);
    const cap = p.cap === undefined ? row.cap : readCap(asks, p.cap, row.name);
    const pauseMax = p.pauseS === undefined ? row.pauseMax : Math.round(p.pauseS * SECOND);
    askPause(asks, pauseMax, row.name);
    if (row.state === 'done' || row.state === 'aborted' || row.state === 'cutting' || row.state === 'cleaning')
      asks.refuse(
        refusalOn(
          row,
          'move-state',
          `${row.name} ${stateWords[row.state]}; nothing of it can be changed.`,
          'Leave it as it is.',
          { field: 'move' },
        ),
      );
    const fields: Partial<Move> = {
      ...(p.wavePlan === undefined ? {} : { wavePlan: plan?.id ?? null }),
      ...(p.together === undefined ? {} : { together: p.together.trim() }),
      ...(after === undefined ? {} : { waitsFor: after.map(({ id }) => id) }),
      ...(p.pauseS === undefined ? {} : { pauseMax }),
      ...(p.cap === undefined ? {} : { cap }),
      ...(p.weight === undefined ? {} : { weight: p.weight }),
      ...(p.mode === undefined ? {} : { mode: p.mode }),
      ...(p.leaves === undefined ? {} : { leaves: p.leaves }),
      ...(p.proveDays === undefined ? {} : { proveDays: p.proveDays }),
      ...(p.notes === undefined ? {} : { notes: p.notes }),
    };
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const next: Move = { ...row, ...fields };
    const moved = movedWords(row, next, words(view));
    const asksAnew =
      row.state === 'waiting' && row.round === null && (next.mode !== row.mode || pauseMax !== row.pauseMax);
    const same = JSON.stringify(row) === JSON.stringify(next);
    const effect = changed('move', row, {
      ...fields,
      // What it waits for is judged anew by what now holds.
      ...(same ? {} : { stalls: 0, asks: '' as const, log: logged(row, context.now, `changed: ${moved}`) }),
      ...(asksAnew ? { nextAt: context.now } : {}),
    });
    const overlay = new Overlay(view);
    overlay.apply([effect]);
    const short = p.after !== undefined || p.wavePlan !== undefined ? wavesRefusal(overlay, next, context.now) : null;
    if (short) return refused([short]);
    return planned({
      device: deviceOf(view, row),
      title: `Change the move of ${row.name}: ${moved}`,
      takes: SECOND,
      effects: [effect],
    });
  },
  foretell(view, draft, context) {
    const row = lookUp(view, 'move', draftText(draft, 'move'));
    const volume = row && view.table('volume').get(row.volume);
    const pauseMax = draftNumber(draft, 'pauseS', (row?.pauseMax ?? 4000) / SECOND) * SECOND;
    const mode = (draftText(draft, 'mode') || row?.mode) === 'mirror' ? ('mirror' as const) : ('rounds' as const);
    const [source, target] = row ? [row.fromPool, row.toPool].map((id) => view.table('pool').get(id)!.array) : [];
    const rate = row && source && target ? (ratesOf(row).at(-1) ?? foreseenRate(view, source, target, row.cap)) : 0;
    const copy = row && volume ? foretoldCopy(view, { mode, pauseMax }, volume, rate, context.now) : null;
    return {
      fields: {
        move: {
          choices: moveChoices(view, () => undefined),
          says: row ? `${row.name} ${stateWords[row.state]}; ${counted(row.done, 'round')} so far.` : 'Which.',
        },
        pauseS: {
          ...(row ? { suggested: String(row.pauseMax / SECOND) } : {}),
          says: pauseSays(copy),
        },
        mode: {
          choices: [
            { value: 'rounds', label: 'Rounds' },
            { value: 'mirror', label: 'Mirror new writes' },
          ],
          ...(row ? { suggested: row.mode } : {}),
          says: 'Mirrored, it converges always, and each write waits for both sides.',
        },
        cap: { says: row?.cap ? `Now ${formatRate(row.cap)}.` : 'Now its share.' },
        weight: {
          ...(row ? { suggested: String(row.weight) } : {}),
          says: 'Against the others on the same line or array.',
        },
        wavePlan: {
          choices: orNone(wavePlanChoices(view)),
          ...(row ? { suggested: planOf(view, row)?.name ?? '' } : {}),
          says: 'Within whose windows it goes.',
        },
        together: {
          ...(row ? { suggested: row.together } : {}),
          says: 'Moves under the same words are cut over as one.',
        },
        after: {
          choices: openMoves(view)
            .filter(({ id }) => id !== row?.id)
            .map(({ name }) => ({ value: name, label: name })),
          ...(row ? { suggested: row.waitsFor.flatMap((id) => view.table('move').get(id)?.name ?? []) } : {}),
          says: 'It starts when their copy is whole.',
        },
        leaves: { says: 'Copies in time, limits and classes that cannot go along.' },
        proveDays: { ...(row ? { suggested: String(row.proveDays) } : {}), says: '0 for when somebody accepts.' },
        notes: { says: row?.notes ? `So far: ${row.notes}` : 'Nothing is noted yet.' },
      },
    };
  },
};

const holdSchema = z.object({ moves: z.array(z.string()).min(1, 'name at least one move') });
type HoldParams = z.output<typeof holdSchema>;

const canHold = ({ state }: Move): boolean => state === 'ready' || state === 'copying' || state === 'waiting';

const holding = (held: boolean, words: { kind: string; verb: string; summary: string }): OperationType<HoldParams> => ({
  ...words,
  schema: holdSchema,
  form: { columns: [2, 3, 4], fields: { moves: several('Moves') } },
  title: (p) => (held ? `Hold ${someOf(p.moves)}` : `Let ${someOf(p.moves)} go on`),
  units: (p) => p.moves.map((move) => ({ moves: [move] })),
  plan(view, p, context) {
    const asks = inquire(view);
    const [row] = askMoves(view, asks, p.moves);
    if (!row || asks.refusals.length > 0) return refused(asks.refusals);
    if (!canHold(row))
      asks.refuse(
        refusalOn(
          row,
          'move-state',
          `${row.name} ${stateWords[row.state]}: nothing of it can be held.`,
          'Leave it out.',
        ),
      );
    else if (row.held === held)
      asks.refuse(
        refusalOn(
          row,
          held ? 'move-held' : 'move-not-held',
          held ? `${row.name} is held already.` : `Nobody holds ${row.name}.`,
          'Leave it out.',
        ),
      );
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const left = Math.round(lacking(view, row, context.now));
    const still = held ? null : standsStill(view, { ...row, held: false }, context.now);
    return planned({
      device: deviceOf(view, row),
      title: held ? `Hold ${row.name}: what is copied stays` : `Let ${row.name} go on`,
      takes: SECOND,
      effects: [changed('move', row, { held, log: logged(row, context.now, held ? 'held by a person' : 'goes on') })],
      notes: [
        ...(held && left > 0 && row.state === 'waiting'
          ? [`What hosts change meanwhile is copied when it goes on.`]
          : []),
        ...(still === null ? [] : [`It stands still yet: ${still}.`]),
        ...(held ? [] : []),
      ],
    });
  },
  foretell: (view) => ({
    fields: {
      moves: {
        choices: moveChoices(view, (row) => {
          if (!canHold(row)) return stateWords[row.state];
          if (row.held !== held) return undefined;
          return held ? 'is held' : 'is not held';
        }),
        says: held ? 'Nothing more is copied until somebody lets them go on.' : 'From where they were.',
      },
    },
  }),
});

export const moveHold: OperationType<HoldParams> = holding(true, {
  kind: 'move.hold',
  verb: 'Hold moves',
  summary: 'Nothing more is copied; what is copied stays, and hosts notice nothing.',
});

export const moveGoOn: OperationType<HoldParams> = holding(false, {
  kind: 'move.go-on',
  verb: 'Let moves go on',
  summary: 'Moves that a person holds are copied on from where they were.',
});

/** What is foretold of the wait at the cut. */
function pauseSays(copy: ReturnType<typeof foretoldCopy> | null): string {
  if (copy === null) return 'Most that hosts wait at the cut.';
  return copy.outcome === 'converged'
    ? `It converges: hosts would wait ${seconds(copy.pause)}.`
    : 'It would not converge: each round leaves about what it copied.';
}
