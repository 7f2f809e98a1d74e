import type { MissingReason } from '../../attach/sessions';
import { mendFor, reasons } from '../../trace/reasons';
import { targetsOf, targetText } from '../../iscsi/target';
import type { Target } from '../../estate/entities';
import type { EstateView } from '../../estate/estate';
import { arrayOf } from '../../estate/relations';
import { badReferrals, referralText } from '../../nvme/refer';
import { offer, type Check } from '../finding';
import { aboutHost, traceOf, wantedGaps } from './context';
import { stopped } from '../../units/counted';

const aboutTarget = (view: EstateView, target: Target) =>
  target.main
    ? { kind: 'array' as const, id: target.array, name: arrayOf(view, target).name }
    : { kind: 'target' as const, id: target.id, name: target.name };

/** Hosts that a target or subsystem turns away for one of the reasons. */
const turnedAway = (id: string, title: string, ...why: MissingReason[]): Check => ({
  id,
  severity: 'error',
  title,
  *find(view, { attach }) {
    for (const pairing of attach().pairings()) {
      yield null;
      const gap = wantedGaps(pairing).find((one) => why.includes(one.reason));
      if (gap)
        yield {
          subject: aboutHost(pairing.host),
          says: `${pairing.host.name} at ${pairing.array.name}: ${stopped(gap.message)}`,
          advice: reasons[gap.reason].advice,
          mend: mendFor({ view, host: pairing.host, array: pairing.array, gap }),
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
        yield null;
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
          advice: reasons[gap!.reason].advice,
          mend: mendFor({ view, host: pairing.host, array: pairing.array, gap: gap! }),
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
        yield null;
        for (const target of targetsOf(view, array.id)) {
          if (target.auth !== 'none' || told.has(target.id)) continue;
          const key = target.main ? null : target.id;
          if (!sessions.up.some((session) => session.transport === 'iscsi' && session.target === key)) continue;
          told.add(target.id);
          yield {
            subject: aboutTarget(view, target),
            says: `${targetText(view, target)} lets iSCSI initiators in by their name alone.`,
            advice: 'Demand CHAP once every host has a secret.',
            mend: offer('Demand CHAP', 'target.configure', {
              array: array.name,
              name: target.name,
              auth: 'one-way',
            }),
          };
        }
      }
    },
  },
  {
    id: 'target-open',
    severity: 'warning',
    title: 'Targets that let anyone in',
    *find(view) {
      for (const target of view.table('target').values()) {
        yield null;
        if (!target.anyone || !target.enabled || target.usual === 'none') continue;
        yield {
          subject: aboutTarget(view, target),
          says: `${targetText(view, target)} lets in initiators that nobody has on record${target.auth === 'none' ? ', without any proof' : ''}.`,
          advice: 'Let in only those on record, or only those it names.',
          mend: offer('Let in those on record', 'target.configure', {
            array: arrayOf(view, target).name,
            name: target.name,
            anyone: false,
          }),
        };
      }
    },
  },
  turnedAway('isns-not-visible', 'Targets that are not offered', 'not-discovered'),
  turnedAway('nqn-not-allowed', 'Host NQNs that are not allowed', 'nqn-not-allowed'),
  turnedAway('target-disabled', 'Targets that are switched off', 'target-disabled'),
  turnedAway('session-limit', 'Targets that take no more sessions', 'session-limit'),
  turnedAway('session-reinstated', 'Sessions that push each other out', 'session-reinstated'),
  turnedAway('initiator-unknown', 'Names that are not on record', 'initiator-unknown', 'no-initiator'),
  {
    id: 'referral-loop',
    severity: 'warning',
    title: 'Referrals that lead nowhere or in a circle',
    *find(view) {
      for (const array of view.table('array').values())
        for (const { referral, says } of badReferrals(view, array))
          yield {
            subject: { kind: 'array', id: array.id, name: array.name },
            says,
            advice: 'Take the referral out, or correct its address. Hosts follow the rest all the same.',
            mend: offer('Take the referral out', 'array.configure', {
              array: array.name,
              referrals: array.referrals.filter((one) => one !== referral).map(referralText),
            }),
          };
    },
  },
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
