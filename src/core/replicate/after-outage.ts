import { isMirrored } from '../copies/replica';
import { pauseWords } from '../stretch/told';
import { placeNames } from './stretched';
import { pauseOf, silentWords } from './stretch-words';
import { otherSite, siteNames } from '../stretch/state';
import { decisionOf } from '../stretch/decide';
import { type Leg, isStretched } from '../copies/legs';
import type { Replication } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { byName } from '../operation/draft';
import { formatBytes } from '../units/bytes';
import { momentText } from '../units/date';
import { formatDuration, type Milliseconds } from '../units/duration';
import { bytesAtRisk, lagOf, pitOf } from './carry';
import { targetOf } from './roles';
import { happenedTo, presentRoles, sidesOf, unreachedWhy } from './sides';

/** What an outage does to a replication. */
export interface ReplicationHurt {
  id: string;
  name: string;
  /** Its source is lost and something or nothing of it is left elsewhere, or it only breaks off. */
  verdict: 'back-to' | 'nothing' | 'breaks-off';
  says: string;
}

/** What becomes of replications when something is out: `after` is the estate with it out. Those that it does not touch are left out. */
export const replicationsHurt = (view: EstateView, after: EstateView, now: Milliseconds): ReplicationHurt[] =>
  [...view.table('replication').values()].sort(byName).flatMap((row) => hurtOf(view, after, row, now) ?? []);

/** What an outage does to a stretched pair; null where both sites serve as before. */
function pairHurt(view: EstateView, after: EstateView, row: Leg['row']): ReplicationHurt | null {
  const then = after.table('replication').get(row.id)!;
  if (!isStretched(then)) return null;
  const serving = (one: Leg['row']) => decisionOf(one.stretch.pair).serving;
  const [was, is] = [serving(row), serving(then)];
  if (was.join() === is.join()) return null;
  const names = placeNames(view, row);
  const one = { id: row.id, name: row.name };
  if (is.length === 2) return null;
  if (is.length === 0) {
    const why = siteNames.filter((site) => then.stretch.pair[site].up).map((site) => silentWords(then, site, names));
    return { ...one, verdict: 'nothing', says: `neither site goes on${why.length > 0 ? `: ${why.join('; ')}` : ''}` };
  }
  const [site] = is;
  const other = names[otherSite(site!)];
  const pause = pauseOf(view, row, site!);
  return {
    ...one,
    verdict: 'breaks-off',
    says: `goes on at ${names[site!]} alone${was.includes(otherSite(site!)) ? `, after ${pauseWords(pause)} without an answer` : ''}; ${other} ${then.stretch.pair[otherSite(site!)].up ? 'falls silent' : 'is lost'}`,
  };
}

function hurtOf(view: EstateView, after: EstateView, row: Replication, now: Milliseconds): ReplicationHurt | null {
  if (isStretched(row)) return pairHurt(view, after, row);
  if (happenedTo(after, row).length === 0) return null;
  const [before, roles] = [presentRoles(view, row), presentRoles(after, row)];
  const { sourceSite, targetSite } = sidesOf(view, row);
  const one = { id: row.id, name: row.name };
  const target = targetOf(roles);
  if (roles.sites[roles.source] === 'down' && before.sites[roles.source] === 'up') {
    const pit = pitOf(row, now);
    if (roles.sites[target] === 'down' || pit === null || !row.image)
      return { ...one, verdict: 'nothing', says: `nothing whole is left of it at ${targetSite}` };
    const lost = isMirrored(row)
      ? 'nothing lost'
      : `${formatDuration(lagOf(row, now))}, about ${formatBytes(Math.round(bytesAtRisk(view, row, now)), 'used')} lost`;
    return { ...one, verdict: 'back-to', says: `back to ${momentText(pit)} at ${targetSite}; ${lost}` };
  }
  if (roles.state !== 'BROKEN' || before.state === 'BROKEN') return null;
  const waits = row.mode === 'sync' && row.onLoss === 'fence';
  return {
    ...one,
    verdict: 'breaks-off',
    says: `breaks off, ${unreachedWhy(after, row)}; ${waits ? `hosts at ${sourceSite} wait` : `hosts at ${sourceSite} go on`}`,
  };
}
