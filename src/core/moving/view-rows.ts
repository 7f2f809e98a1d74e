import { shownBytes } from '../copies/parts';
import type { Move, WavePlan } from '../estate/entities';
import { type EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import type { Waves } from '../move/waves';
import { openStretches } from '../schedule/hours';
import { formatBytes } from '../units/bytes';
import { weekTimeText } from '../units/date';
import { DAY, SECOND, type Milliseconds } from '../units/duration';
import { formatRate } from '../units/rate';
import type { MoveRow, Span } from './answers';
import { stateWords } from './ask';
import { lacking } from './changes';
import { cutValues } from './cut-values';
import { poolById, slotBook, standsStill, waitedFor } from './roads';
import { seconds } from './rounds';

/** `array pool` */
export const placeName = (view: EstateView, pool: string): string => {
  const row = poolById(view, pool);
  return `${arrayOf(view, row).name} ${row.name}`;
};

/** Stretches of a plan's windows from a moment to another. */
export function windowSpans(plan: WavePlan | null, from: Milliseconds, to: Milliseconds): Span[] {
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
export function saysOf(
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

export function rowOf(view: EstateView, row: Move, waves: Waves | null, now: Milliseconds): MoveRow {
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
