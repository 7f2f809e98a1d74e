import type { MissingReason } from '../../attach/sessions';
import { mendFor, adviceFor } from '../../trace/mends';
import { offer, type Check } from '../finding';
import { aboutHost, traceOf, wantedGaps } from './context';

/** Hosts that a target or subsystem turns away for one of the reasons. */
const turnedAway = (id: string, title: string, ...reasons: MissingReason[]): Check => ({
  id,
  severity: 'error',
  title,
  *find(view, { attach }) {
    for (const pairing of attach().pairings()) {
      const gap = wantedGaps(pairing).find((one) => reasons.includes(one.reason));
      if (gap)
        yield {
          subject: aboutHost(pairing.host),
          says: `${pairing.host.name} at ${pairing.array.name}: ${gap.message}`.replace(/\.?$/, '.'),
          advice: adviceFor(gap.reason),
          mend: mendFor(view, pairing.host, pairing.array, gap),
          trace: traceOf(view, pairing.host, pairing.mappings[0]!),
        };
    }
  },
});

export const loginChecks: Check[] = [
  {
    id: 'sessions-missing',
    severity: 'warning',
    title: 'Sessions that are missing',
    *find(view, { attach }) {
      for (const pairing of attach().pairings()) {
        const up = pairing.sessions.up.filter((session) => session.transport !== 'fc');
        const gaps = wantedGaps(pairing).filter((gap) => gap.transport !== 'fc');
        if (gaps.length === 0) continue;
        const [gap] = gaps;
        yield {
          subject: aboutHost(pairing.host),
          says: `${up.length} of ${up.length + gaps.length} sessions of ${pairing.host.name} at ${pairing.array.name}: ${gap!.message}`.replace(
            /\.?$/,
            '.',
          ),
          advice: adviceFor(gap!.reason),
          mend: mendFor(view, pairing.host, pairing.array, gap!),
          trace: traceOf(view, pairing.host, pairing.mappings[0]!),
        };
      }
    },
  },
  {
    id: 'chap-same-both-ways',
    severity: 'error',
    title: 'One secret for both ways',
    *find(view) {
      for (const host of view.table('host').values())
        if (host.chapSecret !== null && host.chapSecret === host.targetSecret)
          yield {
            subject: aboutHost(host),
            says: `${host.name} proves itself with the secret it expects of arrays: either could pose as the other.`,
            advice: 'Choose a second secret.',
            mend: offer('Enter another', 'host.configure', { host: host.name }, 'chapSecret'),
          };
    },
  },
  turnedAway('chap-failed', 'Logins that fail by CHAP', 'chap-failed', 'chap-mutual-failed'),
  {
    id: 'chap-not-required',
    severity: 'warning',
    title: 'Targets that ask for no proof',
    *find(view, { attach }) {
      const told = new Set<string>();
      for (const { array, sessions } of attach().pairings()) {
        if (array.auth !== 'none' || told.has(array.id)) continue;
        if (!sessions.up.some((session) => session.transport === 'iscsi')) continue;
        told.add(array.id);
        yield {
          subject: { kind: 'array', id: array.id, name: array.name },
          says: `${array.name} lets iSCSI initiators in by their name alone.`,
          advice: 'Demand CHAP once every host has a secret.',
          mend: offer('Demand CHAP', 'target.configure', { array: array.name, auth: 'one-way' }),
        };
      }
    },
  },
  turnedAway('isns-not-visible', 'Targets that are not offered', 'not-discovered'),
  turnedAway('nqn-not-allowed', 'Host NQNs that are not allowed', 'nqn-not-allowed'),
  turnedAway('initiator-unknown', 'Names that are not on record', 'initiator-unknown', 'no-initiator'),
  {
    id: 'keep-alive-off',
    severity: 'warning',
    title: 'Hosts without keep-alive',
    *find(view) {
      for (const host of view.table('host').values())
        if (host.nqn !== null && host.keepAlive === 0)
          yield {
            subject: aboutHost(host),
            says: `${host.name} sends no keep-alive: a dead path stays unnoticed.`,
            advice: 'Set a keep-alive time-out.',
            mend: offer('Set 5 s', 'host.configure', { host: host.name, keepAlive: '5000' }),
          };
    },
  },
];
