import { shownBytes } from '../copies/parts';
import type { Move } from '../estate/entities';
import { changedSince } from '../moving/changes';
import { LONG_PROOF, LONG_WAIT } from '../moving/choices';
import { growthWhile } from '../moving/prerequisites';
import { openMoves } from '../moving/roads';
import { formatBytes } from '../units/bytes';
import { momentText } from '../units/date';
import { DAY, formatDuration, SECOND } from '../units/duration';
import { offer, type Check } from './finding';

const ofMove = (row: Move) => ({ kind: 'move', id: row.id, name: row.name }) as const;

export const moveChecks: readonly Check[] = [
  {
    id: 'move-not-converging',
    severity: 'warning',
    title: 'Moves that do not converge',
    *find(view) {
      for (const row of openMoves(view))
        yield row.asks !== ''
          ? {
              subject: ofMove(row),
              says: `${row.name} changes faster than it is copied: its last round left about what it copied.`,
              advice: 'Mirror its new writes, limit what hosts write, or allow a longer pause.',
              mend: offer('Mirror new writes', 'move.configure', { move: row.name, mode: 'mirror' }, 'mode'),
            }
          : null;
    },
  },
  {
    id: 'move-waiting-long',
    severity: 'warning',
    title: 'Moves that wait long for a person',
    *find(view, { now }) {
      for (const row of openMoves(view)) {
        if (row.state !== 'waiting' || now - row.since <= LONG_WAIT) {
          yield null;
          continue;
        }
        const volume = view.table('volume').get(row.volume)!;
        const daily =
          changedSince(view, row, volume, shownBytes(volume), now, now + DAY) + growthWhile(view, volume, DAY / SECOND);
        yield {
          subject: ofMove(row),
          says: `${row.name} waits for a person for ${formatDuration(now - row.since)}; keeping it in step copies ${formatBytes(Math.round(daily), 'used')} a day.`,
          advice: 'Confirm its cut, or abort it.',
          mend: offer('Confirm its cut', 'move.confirm', { moves: [row.name] }),
        };
      }
    },
  },
  {
    id: 'move-not-cleaned',
    severity: 'note',
    title: 'Moves whose old copy still takes room',
    *find(view, { now }) {
      for (const row of openMoves(view)) {
        if (row.state !== 'proving' || now - row.since <= LONG_PROOF || row.twin === null) {
          yield null;
          continue;
        }
        const twin = view.table('volume').get(row.twin)!;
        const held = view.occupancy.allocated(twin.id) * view.table('pool').get(twin.pool)!.extentSize;
        yield {
          subject: ofMove(row),
          says: `The old copy of ${row.name} holds ${formatBytes(held)} since it was cut over ${momentText(row.cutAt ?? row.since)}.`,
          advice: 'Accept the move, or roll it back.',
          mend: offer('Accept it', 'move.accept', { moves: [row.name] }),
        };
      }
    },
  },
];
