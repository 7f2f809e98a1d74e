import type { OutsideLun } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { inquire } from '../operation/inquiry';
import { nextStep, type NextStep } from '../operation/next-step';
import { formatBytes } from '../units/bytes';
import { counted, someOf } from '../units/counted';
import { momentText } from '../units/date';
import type { Milliseconds } from '../units/duration';
import type { OutsideLunAnswer, OutsideRow, OutsideStep } from './answers';
import { backOf } from './ask';
import { askKept } from './keep';
import { frontOf, outsideState } from './state';
import { rowOf } from './view';

type Line = OutsideStep['lines'][number];

/** What was read of it. */
function inspected(row: OutsideRow): Line[] {
  if (row.size === null) return [{ says: 'Size, serial, what lies on it: nothing is known yet.' }];
  return [
    { says: `${formatBytes(row.size)}, sectors of ${row.sector} B, serial ${row.serial}` },
    { says: row.holds ?? 'Nothing was ever written on it.' },
    ...(row.writtenAt === null
      ? []
      : [{ says: row.writing ? 'A host writes to it now.' : `Last written ${momentText(row.writtenAt)}.` }]),
  ];
}

/** What must hold before it is shown to this array alone. */
function keeping(view: EstateView, row: OutsideLun, now: Milliseconds): Line[] {
  if (row.state !== 'inspected') return [];
  const asks = inquire(view);
  askKept(view, asks, row, now);
  if (asks.refusals.length === 0)
    return [{ says: 'No host writes, none has it mounted, nobody reserves it.', ok: true }];
  return asks.refusals.map(({ message, mend, offer }) => ({
    says: message.replace(`${row.name}: `, ''),
    ok: false,
    mend,
    ...(offer ? { offer } : {}),
  }));
}

const loggedAt = (row: OutsideLun, says: RegExp): Milliseconds | null =>
  row.log.filter((line) => says.test(line.says)).at(-1)?.at ?? null;

const order: readonly OutsideRow['state'][] = ['found', 'inspected', 'fenced', 'fronted', 'copying', 'moved', 'done'];

/** A LUN with its way in: with its data, or as blank room. */
export function outsideLunView(view: EstateView, row: OutsideLun, now: Milliseconds): OutsideLunAnswer {
  const answer = rowOf(view, row, now);
  const { state, move } = outsideState(view, row);
  const at = order.indexOf(state);
  const array = answer.array;
  const one = { array, luns: [row.name] };
  const is = (first: number, last = first): OutsideStep['is'] => {
    if (at > last) return 'done';
    return at >= first ? 'now' : 'next';
  };
  const step = (
    title: string,
    place: number,
    when: Milliseconds | null,
    lines: Line[],
    verbs: NextStep[] = [],
  ): OutsideStep => ({ title, is: is(place), at: when, lines, verbs: is(place) === 'now' ? verbs : [] });
  const free = state === 'found' || state === 'inspected';
  const keepable = keeping(view, row, now).every(({ ok }) => ok !== false);
  const front = frontOf(view, row);
  const blank = nextStep('Use it as blank room', 'storage.blank-room', one);
  const steps: OutsideStep[] =
    state === 'member'
      ? [
          { title: 'Inspect', is: 'done', at: row.inspectedAt, lines: inspected(answer), verbs: [] },
          {
            title: 'Blank room',
            is: answer.pool === null ? 'now' : 'done',
            at: loggedAt(row, /^erased/),
            lines: [
              {
                says:
                  answer.pool === null
                    ? 'A group of one that no pool uses yet.'
                    : `Room of pool ${answer.pool}, which is as safe as its worst group.`,
              },
            ],
            verbs: [],
          },
        ]
      : [
          step('Inspect', 0, row.inspectedAt, inspected(answer), [nextStep('Inspect it', 'outside.inspect', one)]),
          step(
            'Show it to here alone',
            1,
            loggedAt(row, /^shown to/),
            at < 2
              ? [
                  { says: answer.hosts.length > 0 ? `Seen by ${someOf(answer.hosts)}.` : 'No host is shown it.' },
                  ...keeping(view, row, now),
                ]
              : [
                  {
                    says:
                      row.formerly.length > 0
                        ? `${counted(row.formerly.length, 'host')} no longer ${row.formerly.length === 1 ? 'sees' : 'see'} it there.`
                        : 'Nobody else saw it.',
                  },
                ],
            keepable ? [nextStep('Bring it in with its data', 'storage.bring-in', one)] : [],
          ),
          step(
            'Serve hosts from here',
            2,
            loggedAt(row, /^serves hosts/),
            front
              ? [
                  { says: `Volume ${front.name}, one to one, one hop further than any other.` },
                  { says: answer.hosts.length > 0 ? `Seen by ${someOf(answer.hosts)}.` : 'No host is shown it yet.' },
                ]
              : [{ says: 'The same size, nothing copied; hosts find another device with the same data.' }],
            [nextStep('Show it from here', 'outside.front', { array, lun: row.name })],
          ),
          {
            title: 'Move its data into a pool',
            is: is(3, 4),
            at: move?.cutAt ?? null,
            lines: [
              {
                says:
                  state === 'copying'
                    ? `Goes to ${view.table('pool').get(move!.toPool)!.name} while hosts work; a person confirms the cut.`
                    : at > 4
                      ? `Lies in ${answer.front?.pool ?? 'a pool'}; what is written goes to ${row.name} as well.`
                      : 'While hosts work; the way back is kept.',
              },
            ],
            verbs:
              state === 'fronted' && front
                ? [nextStep('Move it into a pool', 'volume.move', { array, volumes: [front.name] }, 'pool')]
                : [],
          },
          step(
            'Let it go',
            5,
            loggedAt(row, /^let go/),
            [{ says: move && state === 'moved' ? 'Once its move is accepted.' : 'What lies on it stays untouched.' }],
            [
              move
                ? nextStep('Accept its move', 'move.accept', { moves: [move.name] })
                : nextStep('Let it go', 'outside.release', one),
            ],
          ),
        ];
  const verbs: NextStep[] = [
    ...(free && backOf(view, row).deletedAt === null && answer.hosts.length === 0 ? [blank] : []),
    ...(state === 'inspected' ? [nextStep('Inspect again', 'outside.inspect', one)] : []),
    ...(['fenced', 'fronted', 'moved'].includes(state) ? [nextStep('Give it back', 'outside.give-back', one)] : []),
    ...(state === 'member' && answer.pool === null ? [nextStep('Let it go', 'outside.release', one)] : []),
    ...(state === 'done' ? [nextStep('Look again', 'outside.rescan', { array })] : []),
  ];
  return { ...answer, steps, log: [...row.log].reverse(), verbs };
}
