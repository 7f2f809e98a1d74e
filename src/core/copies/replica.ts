import type { Replication, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
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

/** The volume at the other side of a replication; null for none. */
export function twinOf(view: EstateView, volume: string): Volume | null {
  const found = replicaOf(view, volume);
  if (!found) return null;
  const { row, side } = found;
  const [own, other] = side === 'P' ? [row.primaries, row.secondaries] : [row.secondaries, row.primaries];
  return view.table('volume').get(other[own.indexOf(volume)]!) ?? null;
}

/** Why hosts may not write to a volume on account of its replication, in words after its name; null where they may. */
export function replicaBar(view: EstateView, volume: string): string | null {
  const found = replicaOf(view, volume);
  if (!found) return null;
  const { row, side } = found;
  if ((side === 'P' ? row.accessP : row.accessS) === 'yes') return null;
  return row.source === side && row.state !== 'failed-over'
    ? `is closed to hosts by replication ${row.name}`
    : `receives replication ${row.name}`;
}

/** Refuses what would leave both sides of a replication unlike each other. */
export function askUnreplicated(view: EstateView, asks: Inquiry, volume: Volume, field: string, what: string): void {
  const found = replicaOf(view, volume.id);
  if (!found) return;
  asks.refuse({
    code: 'replication-side',
    field,
    subject: subjectOf('volume', volume),
    message: `${volume.name} is a side of replication ${found.row.name}; ${what}.`,
    mend: `Remove ${found.row.name} first: both data sets stay.`,
    offer: nextStep(`Remove ${found.row.name}`, 'replication.remove', { replication: found.row.name }),
  });
}
