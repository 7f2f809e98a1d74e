import { changed, compacted, type Effect } from '../estate/effects';
import { Overlay } from '../estate/estate';
import { draftArray } from '../operation/draft';
import { inquire } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { planned, refused, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { lunSilence } from '../raid/health';
import { someOf } from '../units/counted';
import { SECOND } from '../units/duration';
import { askLun, backOf, lunChoices, noted, outsideOf, ownArrayChoices, refusalOn, stateWords } from './ask';
import { draftLuns, eachLun, lunsForm, lunsSchema, type LunsParams } from './luns-form';
import { broughtUpToDate } from './give-back';
import { takenOut } from './stand';
import { frontOf, outsideState } from './state';

export const outsideRelease: OperationType<LunsParams> = {
  kind: 'outside.release',
  verb: 'Let outside LUNs go',
  summary:
    'A LUN whose data was moved in, or whose room is no longer used, is no longer held behind this array; what lies on it stays untouched.',
  schema: lunsSchema,
  form: { columns: [1, 2, 3], fields: lunsForm },
  title: (p) => `Let ${someOf(p.luns)} go`,
  units: eachLun,
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const row =
      array &&
      askLun(view, asks, array, p.luns[0]!, ['fronted', 'member'], 'Only what stands behind this array can be let go.');
    if (!array || !row) return refused(asks.refusals);
    const { state, move } = outsideState(view, row);
    const front = frontOf(view, row);
    const drive = view.table('drive').get(row.drive!)!;
    const group = drive.raidGroup === null ? undefined : view.table('raidGroup').get(drive.raidGroup);
    const pool = group?.pool ? view.table('pool').get(group.pool) : undefined;
    if (front && state !== 'moved')
      asks.refuse(
        refusalOn(
          row,
          'outside-not-moved',
          `${front.name} lies on ${row.name}${state === 'copying' ? ', and is on its way into a pool' : ''}.`,
          'Move it into a pool first, or give the LUN back.',
          {
            subject: subjectOf('volume', front),
            ...(state === 'copying'
              ? {}
              : {
                  offer: nextStep(
                    `Move ${front.name} into a pool`,
                    'volume.move',
                    { array: array.name, volumes: [front.name] },
                    'pool',
                  ),
                }),
          },
        ),
      );
    else if (front && move)
      asks.refuse(
        refusalOn(
          row,
          'volume-moving',
          `The way back of ${front.name} leads to ${row.name}.`,
          'Accept its move first.',
          {
            subject: subjectOf('move', move),
            offer: nextStep(`Accept the move of ${move.name}`, 'move.accept', { moves: [move.name] }),
          },
        ),
      );
    else if (pool)
      asks.refuse(
        refusalOn(
          row,
          'import-in-other-pool',
          `${row.name} is room of pool ${pool.name}.`,
          `Take ${group!.name} out of it first.`,
          {
            subject: subjectOf('pool', pool),
            offer: nextStep(`Take ${group!.name} out`, 'pool.remove-group', {
              array: array.name,
              name: pool.name,
              raidGroup: group!.name,
            }),
          },
        ),
      );
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const overlay = new Overlay(view);
    const effects: Effect[] = [];
    const put = (made: readonly Effect[]) => {
      overlay.apply(made);
      effects.push(...made);
    };
    const reached = lunSilence(view, array.id, row.volume) === null;
    // Until now all that was written went to the LUN as well.
    if (front && reached) put(broughtUpToDate(overlay, backOf(view, row), front, context.now, context.newId));
    if (front) put([changed('volume', overlay.table('volume').get(row.volume)!, { activity: null, workload: null })]);
    const present = overlay.table('outsideLun').get(row.id)!;
    put(takenOut(overlay, row));
    put([
      changed('outsideLun', present, {
        state: 'done',
        drive: null,
        front: null,
        formerly: [],
        log: noted(present, context.now, 'let go, its content untouched'),
      }),
    ]);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Let ${row.name} of ${outsideOf(view, row).name} go: what lies on it stays`,
      takes: 3 * SECOND,
      effects: compacted(effects),
      notes: [
        ...(front ? [`${front.name} no longer has a way back to ${row.name}.`] : []),
        'A look over the fabric finds it again.',
      ],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    return {
      fields: {
        array: { choices: ownArrayChoices(view) },
        luns: {
          choices: lunChoices(view, array, (row) => {
            if (row.state !== 'fronted' && row.state !== 'member') return stateWords[row.state];
            const { state, move } = outsideState(view, row);
            if (row.state === 'fronted' && (state !== 'moved' || move)) return 'hosts still go by it';
            return null;
          }),
          says:
            draftLuns(view, draft).length > 0
              ? 'There is no way back after it.'
              : 'Moved in, or room that no pool uses.',
        },
      },
    };
  },
};
