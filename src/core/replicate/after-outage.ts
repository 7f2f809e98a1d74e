import type { Replication } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { byName } from '../operation/draft';
import { formatBytes } from '../units/bytes';
import { momentText } from '../units/date';
import { formatDuration, type Milliseconds } from '../units/duration';
import { bytesAtRisk, isMirrored, lagOf, pitOf } from './carry';
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

function hurtOf(view: EstateView, after: EstateView, row: Replication, now: Milliseconds): ReplicationHurt | null {
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
