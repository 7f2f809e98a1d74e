import type { Replication } from '../estate/entities';
import { writingOf } from '../copies/writing';
import type { EstateView } from '../estate/estate';
import { addedBy, logState, mirrorNeed, resyncTime } from '../replicate/mirror';
import { lineRate } from '../replicate/line';
import { sidesOf } from '../replicate/sides';
import { LOG_OUTAGE } from '../replicate/choices';
import { formatBytes, GIB } from '../units/bytes';
import { formatDuration, HOUR } from '../units/duration';
import { formatRate } from '../units/rate';
import { offer, type Check, type Found } from './finding';
import { replicationCheck } from './replicate-checks';

const LONG_RESYNC = 4 * HOUR;
const FULL_SOON = 2 * HOUR;

const each = (
  id: string,
  severity: Check['severity'],
  title: string,
  look: (view: EstateView, row: Replication, now: number) => Omit<Found, 'subject'> | null,
): Check =>
  replicationCheck(
    id,
    severity,
    title,
    (view, row, { now }) => (row.mode === 'sync' ? look(view, row, now) : null),
    true,
  );

const changing = (row: Replication) => (row.stretch === null ? 'replication.configure' : 'stretch.configure');
const lineOf = (view: EstateView, row: Replication) => view.table('siteLink').get(row.link)!;

export const mirrorChecks: Check[] = [
  each('sync-latency-budget', 'warning', 'Mirrors that cost a write more than they may', (view, row) => {
    const { ms, volume, write } = addedBy(lineOf(view, row), sidesOf(view, row).source);
    if (row.budget === null || ms <= row.budget) return null;
    return {
      says: `Mirroring adds ${ms.toFixed(2)} ms to each write of ${formatBytes(write.ioBytes)} to ${volume.name}; ${row.budget} ms are allowed.`,
      advice: 'Look at the length and the round trip of its line, or allow more.',
      mend: offer('Allow more', changing(row), { replication: row.name }, 'budget'),
    };
  }),
  each('sync-link-no-spare', 'warning', 'Mirrors whose line has no spare', (view, row) => {
    const link = lineOf(view, row);
    const spare = view
      .table('siteLink')
      .by('site', link.sites[0]!)
      .filter((one) => one.id !== link.id && one.state === 'up' && one.sites.includes(link.sites[1]!))
      .reduce((sum, one) => sum + lineRate(one).bytesPerS, 0);
    const need = mirrorNeed(writingOf(view, sidesOf(view, row).source), row.wireRatio).bytesPerS;
    if (need <= spare) return null;
    return {
      says: `Losing ${link.name} stops or slows ${row.name}: it needs ${formatRate(Math.round(need))}, and ${spare === 0 ? 'no other line leads there' : `the others bring ${formatRate(Math.round(spare))}`}.`,
      advice: 'Add a line between both sites.',
      mend: offer('Note another link', 'site-link.create', {
        from: view.table('site').get(link.sites[0]!)!.name,
        to: view.table('site').get(link.sites[1]!)!.name,
      }),
    };
  }),
  each('sync-dirty-growing', 'warning', 'Lost mirrors that take long to be whole again', (view, row, now) => {
    if (row.state !== 'broken') return null;
    const time = resyncTime(view, row, now);
    if (time !== null && time <= LONG_RESYNC) return null;
    return {
      says:
        time === null
          ? `${row.name} would never be whole again over its line.`
          : `To make ${row.name} whole again would take ${formatDuration(time)}.`,
      advice: 'Widen the line, or let hosts write less.',
      mend:
        row.stretch === null
          ? offer('Change its line', 'replication.configure', { replication: row.name }, 'link')
          : offer('Change the line', 'site-link.configure', { link: lineOf(view, row).name }, 'speed'),
    };
  }),
  each('journal-fill-soon', 'error', 'Logs that are full soon', (view, row, now) => {
    const log = logState(view, row, now);
    if (!log || (!log.over && (log.fullIn === null || log.fullIn >= FULL_SOON))) return null;
    return {
      says: log.over
        ? `The log of ${row.name} is full: only what changed is known now, not in which order.`
        : `The log of ${row.name} is full in ${formatDuration(log.fullIn!)}.`,
      advice: 'Bring the other side back, or grow the log.',
      mend: growLog(view, row),
    };
  }),
  each('journal-too-small', 'warning', 'Logs that bridge too little', (view, row, now) => {
    const log = logState(view, row, now);
    if (!log || log.minimum === null || log.size >= log.minimum) return null;
    return {
      says: `The log of ${row.name} has ${formatBytes(log.size, 'used')} and bridges ${formatDuration(log.bridges ?? 0)} of the busiest hours; ${formatDuration(LOG_OUTAGE)} take ${formatBytes(log.minimum, 'used')}.`,
      advice: 'Grow it; both sides grow together.',
      mend: growLog(view, row, Math.ceil(log.minimum / GIB)),
    };
  }),
];

/** Growing a log: the volume at its first side, with which the other one grows. */
function growLog(view: EstateView, row: Replication, gib?: number) {
  const log = view.table('volume').get(row.logs[0]!)!;
  return offer(
    `Grow ${log.name}`,
    'volume.resize',
    {
      array: view.table('array').get(log.array)!.name,
      volumes: [log.name],
      ...(gib === undefined ? {} : { size: `${gib} GiB` }),
    },
    'size',
  );
}
