import { trafficRates } from '../attach/port-load';
import type { SiteLink } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import type { Milliseconds } from '../units/duration';
import type { BytesPerSecond } from '../units/rate';
import { mirroredRate } from './mirror';

/** Bytes a second that hosts send over a line by the inter-switch links and the networks that run over it. */
export function hostsOver(
  view: EstateView,
  { id, isls, networks }: Pick<SiteLink, 'id' | 'isls' | 'networks'>,
): BytesPerSecond {
  if (isls.length + networks.length === 0) return 0;
  const rates = trafficRates(view);
  return [id, ...isls].reduce((sum, one) => sum + (rates.get(one) ?? 0), 0);
}

/** Bytes a second that moves send over a line now. */
const movesOver = (view: EstateView, { id }: Pick<SiteLink, 'id'>): BytesPerSecond =>
  view
    .table('move')
    .by('link', id)
    .reduce((sum, { round, flows }) => sum + (round && flows ? round.rate : 0), 0);

/** Bytes a second that go over a line now: what is copied, what is mirrored, what moves, and what hosts send. */
export const sentOver = (view: EstateView, link: SiteLink, now: Milliseconds): BytesPerSecond =>
  view
    .table('replication')
    .by('link', link.id)
    .reduce(
      (sum, row) => sum + (row.carrying?.rate ?? 0),
      mirroredRate(view, link, now) + hostsOver(view, link) + movesOver(view, link),
    );
