import { dateText } from '../units/date';
import type { Milliseconds } from '../units/duration';
import { notParsed, parsed, type Parsed } from '../units/parsed';

/** What one array finds of another with which it is to replicate. Fingerprints are of secrets or keys; the core sees nothing else of them. */
export interface PeerSeen {
  selfId: string;
  peerId: string;
  reachable: boolean;
  portOpen: boolean;
  /** Seconds by which its clock is ahead. */
  skewS: number;
  maxSkewS: number;
  now: Milliseconds;
  /** While its key holds; a secret has no such dates. */
  notBefore?: Milliseconds | null;
  notAfter?: Milliseconds | null;
  /** What it presents, and what a person entered or compared here. */
  fingerprintSeen: string;
  fingerprintConfirmed: string;
  confirmedBySelf: boolean;
  confirmedByPeer: boolean;
  versions: readonly number[];
  peerVersions: readonly number[];
  knownPeers: readonly string[];
}

/**
 * Whether two arrays are, or are about to be, partners (protect.md J); the first thing that does not fit is the answer. Reasons: peer-unreachable,
 * peer-port-closed, peer-self, peer-clock-skew, peer-key-not-yet-valid, peer-key-expired, peer-fingerprint-mismatch, peer-version,
 * peer-already-peered.
 */
export function peerCheck(seen: PeerSeen): Parsed<{ state: 'established' | 'awaiting-confirmation'; version: number }> {
  const { peerId, skewS, maxSkewS, now, notBefore = null, notAfter = null } = seen;
  const common = seen.versions.filter((version) => seen.peerVersions.includes(version));
  if (!seen.reachable) return notParsed('peer-unreachable', `${peerId} does not answer.`);
  if (!seen.portOpen) return notParsed('peer-port-closed', `${peerId} is up but its port is closed (firewall?).`);
  if (peerId === seen.selfId) return notParsed('peer-self', 'That is this array.');
  if (Math.abs(skewS) > maxSkewS)
    return notParsed('peer-clock-skew', `Clocks differ by ${Math.round(Math.abs(skewS))} s; allowed ${maxSkewS}.`);
  if (notBefore !== null && now < notBefore)
    return notParsed('peer-key-not-yet-valid', `Its key starts on ${dateText(notBefore)}; check the clocks.`);
  if (notAfter !== null && now >= notAfter)
    return notParsed('peer-key-expired', `Its key ended on ${dateText(notAfter)}; renew it there.`);
  if (seen.fingerprintSeen !== seen.fingerprintConfirmed)
    return notParsed(
      'peer-fingerprint-mismatch',
      'This is not the key or secret you confirmed. Do not go on; call the other side.',
    );
  if (common.length === 0)
    return notParsed(
      'peer-version',
      `No common protocol version (${seen.versions.join(', ')} here, ${seen.peerVersions.join(', ')} there).`,
    );
  if (seen.knownPeers.includes(peerId)) return notParsed('peer-already-peered', `${peerId} is connected already.`);
  return parsed({
    state: seen.confirmedBySelf && seen.confirmedByPeer ? 'established' : 'awaiting-confirmation',
    version: Math.max(...common),
  });
}
