import type { HostDevice, Mapping, Replication, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { resultOf, type SiteResult } from '../stretch/decide';
import type { SiteName } from '../stretch/state';

/** The stretched pair of which a volume is a leg, and which; null for any other. */
export interface Leg {
  row: Replication & { stretch: NonNullable<Replication['stretch']> };
  site: SiteName;
}

export const isStretched = (row: Replication): row is Leg['row'] => row.stretch !== null;

export function legOf(view: EstateView, volume: string): Leg | null {
  const table = view.table('replication');
  if (table.countBy('stretched', '') === 0) return null;
  const [as] = table.by('primary', volume);
  if (as && isStretched(as)) return { row: as, site: 'A' };
  const [to] = table.by('secondary', volume);
  return to && isStretched(to) ? { row: to, site: 'B' } : null;
}

/** What a leg is at this moment: alone, as one of both, old, silent, or down. */
export const legState = ({ row, site }: Leg): SiteResult => resultOf(row.stretch.pair[site]);

/** Volumes that are one to hosts: both legs of a stretched one, the first first; else the volume itself. */
export function legsOf(view: EstateView, volume: string): string[] {
  const leg = legOf(view, volume);
  if (!leg) return [volume];
  const { primaries, secondaries } = leg.row;
  const k = (leg.site === 'A' ? primaries : secondaries).indexOf(volume);
  return [primaries[k]!, secondaries[k]!];
}

/** The volume under whose identity hosts know another: the first leg of a stretched one; else itself. */
export const shownAs = (view: EstateView, volume: string): string => legsOf(view, volume)[0]!;

/** The volume that holds what hosts work with: the leg that leads of a stretched one; else itself. */
export function leadOf(view: EstateView, volume: string): string {
  const leg = legOf(view, volume);
  return leg ? legsOf(view, volume)[leg.row.source === 'P' ? 0 : 1]! : volume;
}

/** Why a leg does not hold what hosts work with now, in words after its name; null where it does, and for any other volume. */
export function oldLegWhy(view: EstateView, volume: string): string | null {
  const leg = legOf(view, volume);
  if (!leg || leadOf(view, volume) === volume || legState(leg) === 'BOTH') return null;
  return `holds an older image: ${leg.row.name} goes on at its other site`;
}

/** The volume whose data a device gives its host. */
export const dataOf = (view: EstateView, { volume }: Pick<HostDevice, 'volume'>): Volume =>
  view.table('volume').get(leadOf(view, volume))!;

/** Devices through which hosts work with the data of a volume: none with that of a leg that does not lead. */
export function devicesOn(view: EstateView, volume: string): readonly HostDevice[] {
  return leadOf(view, volume) === volume ? view.table('hostDevice').by('volume', shownAs(view, volume)) : [];
}

/** How a host is shown a volume: a mapping, or one for each leg of a stretched one. */
export function mappingsOf(view: EstateView, host: string, volume: string): Mapping[] {
  return legsOf(view, volume).flatMap(
    (leg) =>
      view
        .table('mapping')
        .by('volume', leg)
        .find((one) => one.host === host) ?? [],
  );
}

/** The device that a host has made of a volume, or of both legs of a stretched one. */
export function deviceAt(view: EstateView, host: string, volume: string): HostDevice | undefined {
  const shown = shownAs(view, volume);
  return view
    .table('hostDevice')
    .by('host', host)
    .find((row) => row.volume === shown);
}

/** Whether a mapping stands for what its host sees: of both legs of a stretched volume the first that is mapped there. */
export function isFirstWay(view: EstateView, mapping: Mapping): boolean {
  if (view.table('replication').countBy('stretched', '') === 0) return true;
  return mappingsOf(view, mapping.host, mapping.volume)[0]?.id === mapping.id;
}
