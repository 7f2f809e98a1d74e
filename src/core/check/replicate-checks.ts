import { keptBytes } from '../replicate/reserve';
import { writingOf } from '../copies/writing';
import type { Replication } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { subjectOf } from '../operation/refusal';
import { riskWords } from '../replicate/ask';
import { bytesAtRisk, lagOf } from '../replicate/carry';
import { needOfLine, scarcestHour, shareOf, type Share } from '../replicate/planner';
import { hourWords } from '../units/week';
import { strangers } from '../replicate/replication-extend';
import { sidesOf } from '../replicate/sides';
import { formatBytes } from '../units/bytes';
import { someOf } from '../units/counted';
import { dateText, timeText } from '../units/date';
import { DAY, formatDuration, MINUTE } from '../units/duration';
import { formatRate } from '../units/rate';
import { offer, type Check, type CheckContext, type Found, type Severity } from './finding';

const BROKEN_LONG = 15 * MINUTE;
const TREND = 3;
/** From which share of a reserve on it is told. */
const NEARLY = 0.8;

/** A check of each replication. */
export const replicationCheck = (
  id: string,
  severity: Severity,
  title: string,
  look: (view: EstateView, row: Replication, context: CheckContext) => Omit<Found, 'subject'> | null,
  /** Stretched ones have no source and target: most say nothing of them. */
  stretchedToo = false,
): Check => ({
  id,
  severity,
  title,
  *find(view, context) {
    for (const row of view.table('replication').values()) {
      const found = row.stretch === null || stretchedToo ? look(view, row, context) : null;
      yield found && { subject: { ...subjectOf('replication', row), id: row.id }, ...found };
    }
  },
});

const newestCycles = (view: EstateView, row: Replication, many: number) =>
  [...view.table('cycle').by('replication', row.id)].sort((a, b) => b.finishedAt - a.finishedAt).slice(0, many);

/** What a replication gets, and from whom where it is not its line that leaves no more. */
const sharedWords = (view: EstateView, { bytesPerS, array }: Share): string =>
  `${array === null ? 'it gets' : `${view.table('array').get(array)!.name} leaves it`} ${formatRate(Math.round(bytesPerS))}`;

export const replicateChecks: Check[] = [
  replicationCheck('replication-lag-over-rpo', 'error', 'Replications behind their promise', (view, row, { now }) => {
    const lag = lagOf(row, now);
    // Until the first copy is whole nothing is promised yet; the view says how far it is.
    if (row.rpo === null || lag <= row.rpo || row.pit === null || row.state === 'failed-over') return null;
    return {
      says: `${row.name} is ${formatDuration(lag)} behind, ${formatDuration(row.rpo)} promised; ${formatBytes(bytesAtRisk(view, row, now), 'used')} at risk.`,
      advice: row.reason
        ? `${row.reason[0]!.toUpperCase()}${row.reason.slice(1)}.`
        : 'Look at what holds it back: its line, its share, its interval.',
      mend: offer('Change its pace', 'replication.configure', { replication: row.name }),
    };
  }),
  replicationCheck('replication-lag-trend', 'warning', 'Replications that fall behind', (view, row) => {
    const last = newestCycles(view, row, TREND).filter((cycle) => cycle.result === 'done');
    if (last.length < TREND || !last.every((cycle, k) => k === 0 || cycle.lagAfter < last[k - 1]!.lagAfter))
      return null;
    const { source } = sidesOf(view, row);
    const link = view.table('siteLink').get(row.link)!;
    const need = needOfLine(writingOf(view, source), row).bytesPerS;
    return {
      says: `${row.name} falls behind: ${need === null ? 'no line would do' : `it needs ${formatRate(Math.round(need))}`}, and ${sharedWords(view, shareOf(view, link, row.weight, row))}.`,
      advice: 'Raise its share, or lengthen its interval.',
      mend: offer(
        'Raise its share',
        'replication.configure',
        { replication: row.name, weight: row.weight * 2 },
        'weight',
      ),
    };
  }),
  replicationCheck('replication-infeasible', 'warning', 'Promises that a line cannot keep', (view, row) => {
    if (row.rpo === null) return null;
    if (row.mode === 'sync') return null;
    const scarce = scarcestHour(view, row, writingOf(view, sidesOf(view, row).source));
    if (scarce && scarce.need <= scarce.share.bytesPerS) return null;
    return {
      says: scarce
        ? `To lose at most ${formatDuration(row.rpo)}, ${row.name} needs ${formatRate(Math.round(scarce.need))}; ${sharedWords(view, scarce.share)} on ${hourWords(scarce.hour)}.`
        : `${row.name} is cut every ${formatDuration(row.interval)}, which leaves no time to send within ${formatDuration(row.rpo)}.`,
      advice: 'Promise less, use another link, or raise its share.',
      mend: offer('Change its pace', 'replication.configure', { replication: row.name }, 'rpo'),
    };
  }),
  replicationCheck('replication-back-to-back', 'warning', 'Replications without a pause', (view, row) => {
    const last = newestCycles(view, row, TREND).filter((cycle) => cycle.result === 'done');
    // Each was cut when the one before it was over, not at its tick.
    const rushed = last.filter((cycle, k) => k + 1 < last.length && cycle.pit - last[k + 1]!.pit > row.interval);
    if (last.length < TREND || rushed.length < TREND - 1 || row.state !== 'protected') return null;
    return {
      says: `${row.name} copies without pause: each cycle takes longer than the ${formatDuration(row.interval)} between two.`,
      advice: 'Lengthen the interval.',
      mend: offer('Lengthen the interval', 'replication.configure', { replication: row.name }, 'interval'),
    };
  }),
  replicationCheck(
    'replication-source-reserve',
    'warning',
    'Sources that keep too little room',
    (view, row, { now }) => {
      const { source } = keptBytes(view, row);
      const used = bytesAtRisk(view, row, now);
      if (source === 0 || row.pit === null || row.mode === 'sync' || used <= source * NEARLY) return null;
      const pool = view.table('pool').get(row.reservePools[row.source === 'P' ? 0 : 1]!)!;
      return {
        says: `${formatBytes(Math.round(used), 'used')} of ${formatBytes(source)} that ${pool.name} keeps for ${row.name} are taken: beyond it all must be compared.`,
        advice: 'Raise the reserve, or let it copy more often.',
        mend: offer('Raise the reserve', 'replication.configure', { replication: row.name }, 'sourceReserve'),
      };
    },
  ),
  replicationCheck('replication-full-compare', 'note', 'Replications that compare all', (view, row) => {
    if (row.compare !== 'all' || row.pit === null || row.carrying === null) return null;
    return {
      says: `${row.name} must compare all of ${formatBytes(Math.round(row.carrying.changed), 'used')}: which extents changed is not known.`,
      advice: 'Let it finish.',
      mend: null,
    };
  }),
  replicationCheck(
    'replication-paused-long',
    'warning',
    'Replications that are paused for long',
    (view, row, { now }) =>
      row.state === 'paused' && now - row.since > DAY
        ? {
            says: `${row.name} is paused since ${timeText(row.since)} UTC. ${riskWords(view, row, now)}`,
            advice: 'Let it go on.',
            mend: offer('Let it go on', 'replication.resume', { replication: row.name }),
          }
        : null,
  ),
  replicationCheck('replication-broken', 'error', 'Replications that are broken off', (view, row, { now }) =>
    row.state === 'broken' && now - row.since > BROKEN_LONG
      ? {
          says: `${row.name} stopped at ${timeText(row.since)} UTC: ${row.reason}.`,
          advice: 'Repair the line or the array; it catches up by itself.',
          mend: null,
        }
      : null,
  ),
  replicationCheck(
    'replication-member-missing',
    'warning',
    'Volumes that their workload is copied without',
    (view, row) => {
      const left = strangers(view, row);
      if (left.length === 0) return null;
      return {
        says: `${someOf(left.map(({ name }) => name))} joined ${row.name} later and ${left.length === 1 ? 'is' : 'are'} not copied with it: were ${sidesOf(view, row).sourceSite} lost, nothing of it would come back whole.`,
        advice: 'Copy what joined later, too.',
        mend: offer('Copy it, too', 'replication.extend', { replication: row.name }),
      };
    },
  ),
  replicationCheck('replication-target-full', 'error', 'Targets without room', (view, row) => {
    if (row.state === 'paused' || !row.reason.includes('no room')) return null;
    const { target, targetSite } = sidesOf(view, row);
    const pool = view.table('pool').get(target[0]!.pool)!;
    return {
      says: `${pool.name} at ${targetSite} cannot take the next cycle of ${row.name}.`,
      advice: 'Free space there, or keep fewer images.',
      mend: offer('Extend the pool', 'pool.extend', {
        array: view.table('array').get(pool.array)!.name,
        name: pool.name,
      }),
    };
  }),
  replicationCheck(
    'replication-old-source-waiting',
    'warning',
    'Failovers that nobody has ended',
    (view, row, { now }) => {
      const reached = row.linkState === 'up' && row.siteP === 'up' && row.siteS === 'up';
      if (row.state !== 'failed-over' || !reached || now - row.since <= DAY) return null;
      return {
        says: `${row.name} runs unprotected at ${sidesOf(view, row).targetSite} since ${dateText(row.since)}.`,
        advice: 'Reverse it, or undo the failover.',
        mend: offer('Reverse it', 'replication.reverse', { replication: row.name }),
      };
    },
  ),
];
