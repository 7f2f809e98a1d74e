import { z } from 'zod';
import { changed, type Effect } from '../estate/effects';
import type { Move } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { draftList } from '../operation/draft';
import { several } from '../operation/form';
import { inquire, type Inquiry } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { planned, refused, type OperationType } from '../operation/operation';
import { movedOn, type MoveEvent } from '../move/states';
import { hostOf } from '../estate/relations';
import { counted, someOf } from '../units/counted';
import { copiesOf } from '../copies/area';
import { momentText } from '../units/date';
import { SECOND, type Milliseconds } from '../units/duration';
import { purged } from '../volume/delete';
import { arrayAnswers } from '../volume/health';
import { askMoves, deviceOf, groupOf, moveChoices, refusalOn, stateWords } from './ask';
import { BARRIER, LEAST_PATHS } from './choices';
import { cutBar, mountedAt } from './cut-over';
import { cutValues, cutWords } from './cut-values';
import { logged } from './log';
import { accepted } from './pass';
import { hostsWell, leftLocked } from './proof';
import { poolById, sourceOf, standsStill, staysWithin } from './roads';
import { seconds } from './rounds';

const schema = z.object({ moves: z.array(z.string()).min(1, 'name at least one move') });
type Params = z.output<typeof schema>;

const form = { columns: [2, 3, 4, 7], fields: { moves: several('Moves') } } as const;

/** Refuses what a move's state does not allow; whether it did. */
function askTurn(asks: Inquiry, row: Move, event: MoveEvent): boolean {
  const turn = movedOn(row.state, event);
  if (turn.ok || turn.reason !== 'move-event') return false;
  const states: Partial<Record<MoveEvent['event'], string>> = {
    confirm: 'only one that is whole and waits for a person can be cut over',
    accept: 'only one that is being proven can be accepted',
    'roll-back': 'only one that is being proven can go back',
    abort: 'before the cut it can be aborted, after it rolled back',
  };
  asks.refuse(
    refusalOn(
      row,
      'move-state',
      `${row.name} ${stateWords[row.state]}: ${states[event.event] ?? 'that cannot be'}.`,
      'Leave it out, or wait.',
    ),
  );
  return true;
}

/** What keeps a person from confirming a cut now. */
function askCut(view: EstateView, asks: Inquiry, row: Move, now: Milliseconds): void {
  const values = cutValues(view, row, now);
  const event: MoveEvent = {
    event: 'confirm',
    windowHoldsS: values.opens > now ? 0 : values.until === null ? Infinity : (values.until - now) / SECOND,
    barrierS: BARRIER / SECOND,
    pauseS: (values.pause - BARRIER) / SECOND,
    hostsReportPaths: values.paths === null || values.paths >= LEAST_PATHS,
  };
  if (askTurn(asks, row, event)) return;
  const source = sourceOf(view, row);
  if (!staysWithin(view, row) && row.identity === 'kept' && !arrayAnswers(view, source.id)) {
    const volume = view.table('volume').get(row.volume)!;
    asks.refuse(
      refusalOn(
        row,
        'move-both-would-answer',
        `${source.name} does not answer: once it is back, both arrays would answer to ${volume.naa}.`,
        `Bring ${source.name} up first, so that its paths close in the same step.`,
      ),
    );
    return;
  }
  const why = standsStill(view, row, now) ?? cutBar(view, row);
  if (values.opens > now)
    asks.refuse(
      refusalOn(
        row,
        'move-window-short',
        `The window of ${row.name} opens ${momentText(values.opens)}.`,
        'Confirm then, or change its wave plan.',
      ),
    );
  else if (why !== null) {
    const [mounted] = row.identity === 'new' && !staysWithin(view, row) ? mountedAt(view, row.volume) : [];
    const host = mounted && hostOf(view, mounted);
    asks.refuse(
      refusalOn(
        row,
        'move-barred',
        `${row.name} cannot be cut over: ${why}.`,
        mounted ? `Unmount ${mounted.name} at ${host!.name} first.` : 'Mend that first.',
        {
          ...(mounted
            ? {
                offer: nextStep(`Unmount ${mounted.name}`, 'host-device.unmount', {
                  host: host!.name,
                  device: mounted.name,
                }),
              }
            : {}),
        },
      ),
    );
  } else if (row.turned === false && !row.leaves && copiesOf(view, row.volume).length > 0)
    asks.refuse(
      refusalOn(
        row,
        'move-copies-stay',
        `${counted(copiesOf(view, row.volume).length, 'copy', 'copies')} in time of ${row.name} would stay behind with the old copy.`,
        'Accept what stays behind, or delete the copies first.',
        { offer: nextStep('Accept what stays behind', 'move.configure', { move: row.name, leaves: true }, 'leaves') },
      ),
    );
  else if (row.round !== null || values.pause > row.pauseMax)
    asks.refuse(
      refusalOn(
        row,
        'move-pause-too-long',
        `${row.name} has too much left: hosts would wait ${seconds(values.pause)}; the allowed pause is ${seconds(row.pauseMax)}.`,
        'Wait until it has caught up, or allow a longer pause.',
        { offer: nextStep('Allow a longer pause', 'move.configure', { move: row.name }, 'pauseS') },
      ),
    );
  else if (values.until !== null && values.until - now < values.pause)
    asks.refuse(
      refusalOn(
        row,
        'move-window-short',
        `Its window closes ${momentText(values.until)}, before ${row.name} is cut over.`,
        'Confirm in the next window.',
      ),
    );
  else if (values.paths !== null && values.paths < LEAST_PATHS)
    asks.refuse(
      refusalOn(
        row,
        'move-paths',
        `A host of ${row.name} has ${values.paths} paths to where it goes; ${LEAST_PATHS} are asked for.`,
        'Zone it, or let it log in there first.',
      ),
    );
}

export const moveConfirm: OperationType<Params> = {
  kind: 'move.confirm',
  verb: 'Confirm cuts of moves',
  summary:
    'Volumes that are whole change over, those of one group as one: hosts wait for seconds, and the way back is kept.',
  schema,
  form,
  title: (p) => `Cut ${someOf(p.moves)} over`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const rows = askMoves(view, asks, p.moves, true);
    for (const row of rows) {
      const group = groupOf(row);
      const late = group === '' ? undefined : rows.find((one) => groupOf(one) === group && one.state !== 'waiting');
      if (late && late.id !== row.id && row.state === 'waiting')
        asks.refuse(
          refusalOn(
            row,
            'move-group-not-ready',
            `${row.name} is cut over together with ${late.name}, which ${stateWords[late.state]}.`,
            `Wait for ${late.name}, or take it out of ${row.together}.`,
          ),
        );
      else askCut(view, asks, row, context.now);
    }
    const [first] = rows;
    if (asks.refusals.length > 0 || !first) return refused(asks.refusals.slice(0, 6));
    const pauses = rows.map((row) => Math.ceil(cutValues(view, row, context.now).pause));
    return planned({
      device: deviceOf(view, first),
      title: `Cut ${someOf(rows.map(({ name }) => name))} over: hosts wait ${seconds(Math.max(...pauses))}`,
      takes: SECOND,
      effects: rows.map((row, k) =>
        changed('move', row, {
          state: 'cutting',
          since: context.now,
          // What keeps in step does so up to the cut.
          pause: pauses[k]!,
          nextAt: context.now + pauses[k]!,
          asks: '',
          log: logged(row, context.now, `confirmed; ${cutWords(view, row, context.now)}`),
        }),
      ),
      notes: rows.map((row) => `${cutWords(view, row, context.now)}.`),
      back: `Until ${rows.length === 1 ? 'it is' : 'they are'} accepted, ${rows.length === 1 ? 'it' : 'each'} can be rolled back.`,
    });
  },
  foretell(view, draft, context) {
    const asks = inquire(view);
    const rows = askMoves(view, asks, draftList(draft, 'moves'), true);
    return {
      fields: {
        moves: {
          choices: moveChoices(view, (row) => (row.state === 'waiting' ? undefined : stateWords[row.state])),
          says: sayCut(view, rows, context.now),
        },
      },
    };
  },
};

function sayCut(view: EstateView, rows: readonly Move[], now: Milliseconds): string {
  if (rows.length === 0) return 'What is whole and waits for a person.';
  const pause = Math.max(...rows.map((row) => cutValues(view, row, now).pause));
  const waits = Number.isFinite(pause) ? `hosts wait ${seconds(pause)}` : 'nothing gets over now';
  return rows.length === 1
    ? `${rows[0]!.name}: ${waits}.`
    : `${someOf(
        rows.map(({ name }) => name),
        6,
      )} change over as one: ${waits}.`;
}

/** An operation that turns each of some moves by itself. */
const turning = (how: {
  kind: string;
  verb: string;
  summary: string;
  title: (names: string) => string;
  event: MoveEvent;
  ask?: (view: EstateView, asks: Inquiry, row: Move, now: Milliseconds) => void;
  does: (
    view: EstateView,
    row: Move,
    now: Milliseconds,
    newId: Parameters<typeof purged>[2],
  ) => { title: string; effects: Effect[]; notes?: string[]; destroys?: string; back?: string };
  unfit: (row: Move) => boolean;
  says: string;
}): OperationType<Params> => ({
  kind: how.kind,
  verb: how.verb,
  summary: how.summary,
  schema,
  form,
  title: (p) => how.title(someOf(p.moves)),
  units: (p) => p.moves.map((move) => ({ moves: [move] })),
  plan(view, p, context) {
    const asks = inquire(view);
    const [row] = askMoves(view, asks, p.moves);
    if (!row || asks.refusals.length > 0) return refused(asks.refusals);
    if (!askTurn(asks, row, how.event)) how.ask?.(view, asks, row, context.now);
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const does = how.does(view, row, context.now, context.newId);
    return planned({ device: deviceOf(view, row), takes: SECOND, ...does });
  },
  foretell: (view) => ({
    fields: {
      moves: {
        choices: moveChoices(view, (row) => (how.unfit(row) ? stateWords[row.state] : undefined)),
        says: how.says,
      },
    },
  }),
});

export const moveAccept: OperationType<Params> = turning({
  kind: 'move.accept',
  verb: 'Accept moves',
  summary: 'The old copy is erased, with what stayed behind with it; after that there is no way back.',
  title: (names) => `Accept the move of ${names}`,
  event: { event: 'accept', healthy: true },
  ask(view, asks, row, now) {
    const unwell = hostsWell(view, row);
    if (unwell !== null)
      asks.refuse(
        refusalOn(
          row,
          'move-unhealthy',
          `Not all hosts are well on the new paths of ${row.name}: ${unwell}.`,
          'Mend that, or roll it back.',
        ),
      );
    const locked = leftLocked(view, row, now);
    if (locked !== null)
      asks.refuse(
        refusalOn(row, 'snapshot-locked', `${row.name}: ${locked}.`, 'Accept it then; until then the way back stays.'),
      );
  },
  does(view, row, now) {
    const twin = view.table('volume').get(row.twin!)!;
    const copies = view.table('snapshot').countBy('volume', twin.id);
    return {
      title: `Accept the move of ${row.name}: the old copy in ${sourceOf(view, row).name} ${poolById(view, row.fromPool).name} is erased`,
      effects: [accepted(row, now, 'accepted by a person')],
      notes: copies > 0 ? [`${copies} copies in time go with it.`] : [],
      destroys: `the old copy of ${row.name}`,
    };
  },
  unfit: ({ state }) => state !== 'proving',
  says: 'What is being proven; the old copy goes for good.',
});

export const moveRollBack: OperationType<Params> = turning({
  kind: 'move.roll-back',
  verb: 'Roll moves back',
  summary:
    'What hosts wrote since the cut is copied back while they work; then a person confirms the cut the other way.',
  title: (names) => `Roll ${names} back`,
  event: { event: 'roll-back', reverseIntact: true },
  ask(view, asks, row) {
    const why = cutBar(view, { ...row, fromPool: row.toPool, toPool: row.fromPool });
    const lost = why !== null && /does not answer|is lost|is down/.test(why);
    if (lost)
      asks.refuse(
        refusalOn(
          row,
          'move-no-way-back',
          `The old copy of ${row.name} cannot be reached: ${why}.`,
          'Mend that first.',
        ),
      );
  },
  does: (view, row, now) => ({
    title: `Roll ${row.name} back to ${sourceOf(view, row).name} ${poolById(view, row.fromPool).name}`,
    effects: [
      changed('move', row, {
        state: 'waiting',
        since: now,
        fromPool: row.toPool,
        toPool: row.fromPool,
        turned: !row.turned,
        nextAt: now,
        every: 0,
        stalls: 0,
        reason: '',
        log: logged(row, now, 'rolled back by a person: what was written since goes the other way'),
      }),
    ],
    notes: ['Hosts work on where they are until the cut the other way is confirmed.'],
    back: 'Once it is cut over the other way, it can be rolled back again.',
  }),
  unfit: ({ state }) => state !== 'proving',
  says: 'What is being proven.',
});

export const moveAbort: OperationType<Params> = turning({
  kind: 'move.abort',
  verb: 'Abort moves',
  summary: 'What was copied is dropped, and the volume stays where it is; hosts never noticed.',
  title: (names) => `Abort the move of ${names}`,
  event: { event: 'abort' },
  ask(view, asks, row, now) {
    if (row.twin === null) return;
    const locked = leftLocked(view, row, now);
    if (locked !== null) asks.refuse(refusalOn(row, 'snapshot-locked', `${row.name}: ${locked}.`, 'Wait until then.'));
    const clones = view.table('volume').by('origin', row.twin);
    if (clones.length > 0)
      asks.refuse(
        refusalOn(
          row,
          'clone-shares',
          `${someOf(clones.map(({ name }) => name))} share data with what would go.`,
          'Let them hold their own data first.',
        ),
      );
  },
  does(view, row, now, newId) {
    const twin = row.twin === null ? undefined : view.table('volume').get(row.twin);
    return {
      title: `Abort the move of ${row.name}: it stays in ${poolById(view, row.fromPool).name}`,
      effects: [
        changed('move', row, {
          state: 'aborted',
          twin: null,
          link: null,
          round: null,
          flows: false,
          pit: null,
          every: 0,
          nextAt: null,
          since: now,
          reason: '',
          log: logged(row, now, 'aborted: target, paths and reservations gone'),
        }),
        ...(twin ? purged(view, twin, newId) : []),
      ],
      ...(twin ? { destroys: `what was copied of ${row.name}` } : {}),
    };
  },
  unfit: ({ state }) => state !== 'ready' && state !== 'copying' && state !== 'waiting',
  says: 'What is not cut over yet.',
});
