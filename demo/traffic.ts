import { changed, type Effect } from '@/core/estate/effects';
import type { EstateView } from '@/core/estate/estate';
import { randomFrom } from '@/core/estate/random';
import { KIB, MIB } from '@/core/units/bytes';

/** What hosts write, in the mean: host and mount point → bytes a second. */
const traffic: Record<string, number> = {
  'gate-1 /srv/tickets': 140 * KIB,
  'keel-backup /srv/pilotage': 12 * KIB,
  'gate-1 /srv/gate-log': 36 * KIB,
  'gate-2 /srv/gate-log': 34 * KIB,
  'gate-2 /srv/scanner': 20 * KIB,
  'gate-2 /srv/crew-rota': 60 * KIB,
  'gate-2 /srv/timetable-1': 445 * KIB,
  'gate-2 /srv/timetable-2': 291 * KIB,
  'radar-vault /srv/radar-1': 4.5 * MIB,
  'radar-vault /srv/radar-2': 3.2 * MIB,
  'cargo-db-1 /srv/cargo': 30 * KIB,
  'deck-1 /stores/deck': 25 * KIB,
  'ledger-1 /srv/ledger': 20 * KIB,
  'keel-backup /srv/keel': 900 * KIB,
  'berth-sim /srv/berths': 8 * KIB,
};

/** Weekends are quiet, and no day is like another: the factor of a day's writing, 1 in the mean of weekdays. */
export function rhythm(day: number): number {
  const weekend = [2, 3].includes(((day % 7) + 7) % 7);
  return (weekend ? 0.55 : 1.1) * (0.85 + 0.3 * randomFrom(`skarholt rhythm ${day}`)());
}

/** Effects that set every host's rate for a day; without one, for the time of the demo. */
export function ratesOf(view: EstateView, factor = 1): Effect[] {
  return [...view.table('hostDevice').values()].map((device) => {
    const mean = traffic[`${view.table('host').get(device.host)!.name} ${device.mountPoint}`] ?? 0;
    return changed('hostDevice', device, { writeRate: Math.round(mean * factor) });
  });
}
