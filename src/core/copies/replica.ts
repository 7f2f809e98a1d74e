import type { Replication, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { resultOf, answersHosts } from '../stretch/decide';
import { siteNames } from '../stretch/state';
import type { Inquiry } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { subjectOf } from '../operation/refusal';

/** The replication of which a volume is a side; null for none. */
export function replicaOf(view: EstateView, volume: string): { row: Replication; side: 'P' | 'S' } | null {
  const table = view.table('replication');
  const [as] = table.by('primary', volume);
  if (as) return { row: as, side: 'P' };
  const [to] = table.by('secondary', volume);
  return to ? { row: to, side: 'S' } : null;
}

/** The replication whose log a volume is; null for none. */
export const logOwner = (view: EstateView, volume: string): Replication | null =>
  view.table('replication').by('log', volume)[0] ?? null;

/** Every write stands at both sides before it is acknowledged. */
export const isMirrored = ({ mode, state }: Pick<Replication, 'mode' | 'state'>): boolean =>
  mode === 'sync' && state === 'protected';

/** Its target is brought forward cycle by cycle. */
export const cuts = (row: Pick<Replication, 'mode' | 'state'>): boolean =>
  row.state === 'copying' || (row.state === 'protected' && !isMirrored(row));

/** Whether hosts of a mirror wait, since its other side is lost and they were to. */
export function isFenced({
  mode,
  onLoss,
  state,
  stretch,
}: Pick<Replication, 'mode' | 'onLoss' | 'state' | 'stretch'>): boolean {
  if (state !== 'broken' || mode !== 'sync') return false;
  return stretch === null ? onLoss === 'fence' : !siteNames.some((site) => resultOf(stretch.pair[site]) === 'SOLO');
}

/** Whether hosts of a volume wait for the other side of its mirror. */
export function waitsForMirror(view: EstateView, volume: string): boolean {
  const found = replicaOf(view, volume);
  return found !== null && (found.row.stretch !== null || found.row.source === found.side) && isFenced(found.row);
}

/** Whether what hosts write to a volume is held for a moment: while it changes places, or until the other side of its mirror is back. */
export const writesAreHeld = (view: EstateView, volume: string): boolean =>
  view.table('move').countBy('cutting', volume) > 0 || waitsForMirror(view, volume);

/** The volume at the other side of a replication; null for none. */
export function twinOf(view: EstateView, volume: string): Volume | null {
  const found = replicaOf(view, volume);
  const log = found ? null : logOwner(view, volume);
  if (log) return view.table('volume').get(log.logs.find((id) => id !== volume)!) ?? null;
  if (!found) return null;
  const { row, side } = found;
  const [own, other] = side === 'P' ? [row.primaries, row.secondaries] : [row.secondaries, row.primaries];
  return view.table('volume').get(other[own.indexOf(volume)]!) ?? null;
}

/** Why a leg of a stretched volume takes no writes; null where it does. */
function legBar(row: Replication, { pair }: NonNullable<Replication['stretch']>, side: 'P' | 'S'): string | null {
  if (isFenced(row)) return `waits: neither site of ${row.name} goes on`;
  const state = resultOf(pair[side === 'P' ? 'A' : 'B']);
  if (answersHosts(state)) return null;
  return state === 'STALE'
    ? `holds an older image, which ${row.name} refreshes`
    : `is silent: ${row.name} goes on at the other site`;
}

/** Why hosts may not write to a volume on account of its replication, in words after its name; null where they may. */
export function replicaBar(view: EstateView, volume: string): string | null {
  const found = replicaOf(view, volume);
  const log = found ? null : logOwner(view, volume);
  if (log) return `is the log of replication ${log.name}`;
  if (!found) return null;
  const { row, side } = found;
  if (row.stretch !== null) return legBar(row, row.stretch, side);
  if (waitsForMirror(view, volume))
    return `waits: replication ${row.name} is to lose nothing, and its other side is lost`;
  if ((side === 'P' ? row.accessP : row.accessS) === 'yes') return null;
  return row.source === side && row.state !== 'failed-over'
    ? `is closed to hosts by replication ${row.name}`
    : `receives replication ${row.name}`;
}

/** Refuses what would leave both sides of a replication unlike each other. */
export function askUnreplicated(view: EstateView, asks: Inquiry, volume: Volume, field: string, what: string): void {
  const row = replicaOf(view, volume.id)?.row ?? logOwner(view, volume.id);
  if (!row) return;
  if (row.stretch !== null) {
    asks.refuse({
      code: 'replication-side',
      field,
      subject: subjectOf('volume', volume),
      message: `${volume.name} is a leg of ${row.name}, which is stretched; ${what}.`,
      mend: `Take a leg of ${row.name} away first: the data stays.`,
      offer: nextStep(`Take a leg of ${row.name} away`, 'stretch.dissolve', { replication: row.name }),
    });
    return;
  }
  asks.refuse({
    code: 'replication-side',
    field,
    subject: subjectOf('volume', volume),
    message: `${volume.name} is ${row.logs.includes(volume.id) ? 'the log' : 'a side'} of replication ${row.name}; ${what}.`,
    mend: `Remove ${row.name} first: both data sets stay.`,
    offer: nextStep(`Remove ${row.name}`, 'replication.remove', { replication: row.name }),
  });
}
