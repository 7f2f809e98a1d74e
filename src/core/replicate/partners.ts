import type { ArrayRow, Partner, Port } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import { arrayAnswers } from '../volume/health';
import { PEER_SKEW, PEER_VERSIONS } from './choices';
import { partnerAt } from '../copies/quota';
import { peerCheck } from './peer';
import type { ParseFailure } from '../units/parsed';

/** The same pair as the other side sees it. */
export const counterpartOf = (view: EstateView, row: Pick<Partner, 'array' | 'peer'>): Partner | undefined =>
  partnerAt(view, row.peer, row.array);

/** The port at an address. */
export const portAt = (view: EstateView, address: string): Port | undefined => view.table('port').by('ip', address)[0];

/** The address at which the partner is asked: the first at which a port of it is up. */
function asked(view: EstateView, row: Partner): { address: string; port: Port | undefined } {
  const all = row.addresses.map((address) => ({ address, port: portAt(view, address) }));
  return all.find(({ port }) => port?.array === row.peer && port.state === 'up') ?? all[0]!;
}

/** Lines between the sites of two arrays that are up; null where they are at one site. */
function linesBetween(view: EstateView, a: ArrayRow, b: ArrayRow): number | null {
  if (a.site === b.site) return null;
  return view
    .table('siteLink')
    .by('site', a.site)
    .filter((link) => link.sites.includes(b.site) && link.state === 'up').length;
}

export const skewBetween = (a: ArrayRow, b: ArrayRow): number => (b.clockOff - a.clockOff) / 1000;

/**
 * What an array finds when it asks its partner, the first that does not fit; null where all fits. What one side shows and the other expects are
 * fingerprints; `now` counts only for a secret that has come to its end.
 */
export function partnerMisfit(view: EstateView, row: Partner): ParseFailure | null {
  const self = arrayOf(view, row);
  const { address, port } = asked(view, row);
  const found = port && arrayOf(view, port);
  const other = counterpartOf(view, row);
  const lines = found ? linesBetween(view, self, found) : null;
  const result = peerCheck({
    selfId: self.name,
    peerId: found?.name ?? address,
    reachable: found !== undefined && arrayAnswers(view, found.id) && lines !== 0,
    portOpen: port?.state === 'up',
    skewS: found ? skewBetween(self, found) : 0,
    maxSkewS: PEER_SKEW,
    now: other?.secretUntil ?? 0,
    notAfter: other?.ended ? other.secretUntil : null,
    fingerprintSeen: other?.shownSecret ?? row.expectedSecret ?? '',
    fingerprintConfirmed: row.expectedSecret ?? '',
    confirmedBySelf: true,
    confirmedByPeer: other !== undefined,
    versions: PEER_VERSIONS,
    peerVersions: PEER_VERSIONS,
    knownPeers: [],
  });
  return result.ok ? null : result;
}

export interface Standing {
  state: 'offered' | 'failing' | 'established';
  /** What does not fit, and the array that finds it. */
  misfit: { code: string; message: string; at: string } | null;
}

/** How two arrays stand with each other, as one of them has it: both must have been introduced, and each find the other as it expects. */
export function standingOf(view: EstateView, row: Partner): Standing {
  const other = counterpartOf(view, row);
  for (const one of other ? [row, other] : [row]) {
    const misfit = partnerMisfit(view, one);
    if (misfit)
      return {
        state: 'failing',
        misfit: { code: misfit.reason, message: misfit.message, at: arrayOf(view, one).name },
      };
  }
  return { state: other ? 'established' : 'offered', misfit: null };
}

/** Why two arrays may not copy to each other, in words; null where they may. */
export function unpartneredWhy(view: EstateView, from: string, to: string): string | null {
  const row = partnerAt(view, from, to);
  const name = (id: string) => view.table('array').get(id)!.name;
  if (!row) return `${name(from)} does not know ${name(to)}`;
  const { state, misfit } = standingOf(view, row);
  if (state === 'established') return null;
  return misfit ? `${misfit.at}: ${misfit.message.replace(/\.$/, '')}` : `${name(to)} does not know ${name(from)} yet`;
}

/** Whether two arrays may copy to each other. */
export const arePartners = (view: EstateView, from: string, to: string): boolean =>
  unpartneredWhy(view, from, to) === null;
