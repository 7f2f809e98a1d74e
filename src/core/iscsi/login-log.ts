import type { Host, HostInterface, Initiator, Proof, Target } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import {
  ALGORITHM_WORDS,
  chapWords,
  proveBy,
  type ChapAlgorithm,
  type ChapExchange,
  type ChapJudge,
  type ChapOutcome,
} from './chap';
import { agreedDigest, disabledRefusal, expectedSecret, loginRefusal, statusWords, type LoginStatus } from './login';
import { grantOf, targetText } from './target';

/** A line of what one side wrote down. No line ever holds a secret. */
export interface LogLine {
  side: 'host' | 'array';
  says: string;
}

export interface LoginTest {
  ok: boolean;
  status: LoginStatus | '0000';
  /** The outcome in words. */
  says: string;
  log: LogLine[];
}

/** What a login needs besides the estate: secrets by their fingerprints, and octets nobody can foresee. */
export interface LoginTools {
  secret(fingerprint: string): Uint8Array | null;
  random(octets: number): Uint8Array;
}

const CHALLENGE_OCTETS = 16;
const algorithms: ChapAlgorithm[] = [7, 6, 5];
const hex = (octets: Uint8Array): string => `0x${[...octets].map((one) => one.toString(16).padStart(2, '0')).join('')}`;

/**
 * A login as it would run: security negotiation with a real CHAP exchange (RFC 1994, RFC 7143 §12.1), the access list, then digests. Both
 * sides keep their own log. Responses are computed from the sealed secrets, not from their fingerprints.
 */
export function testLogin(
  view: EstateView,
  host: Host,
  target: Target,
  tools: LoginTools,
  from?: Pick<HostInterface, 'addresses'>,
): LoginTest {
  const log: LogLine[] = [];
  const at = (side: LogLine['side'], says: string) => log.push({ side, says });
  const end = (status: LoginStatus | '0000', says: string): LoginTest => {
    if (status !== '0000') at('array', `Login response: status ${status}, ${statusWords[status]}.`);
    at('host', status === '0000' ? 'Full feature phase.' : `Login failed: ${says}`);
    return { ok: status === '0000', status, says, log };
  };
  const name = host.presents ?? '';
  at('host', `Login request: InitiatorName=${name || '(none)'}, TargetName=${target.iqn}, SessionType=Normal.`);
  const closed = name === '' ? null : disabledRefusal(view, target);
  if (closed) return end('0301', closed.message);
  const { auth } = grantOf(target, { name, host, ...(from ? { from } : {}) });
  const initiator = view
    .table('initiator')
    .by('host', host.id)
    .find((row) => row.name === name);
  if (name === '') at('array', 'InitiatorName is missing.');
  else if (auth === 'none') at('array', 'AuthMethod=None.');
  else {
    const failure = security(view, host, target, auth, initiator, tools, at);
    if (failure) return end(failure.status, failure.says);
  }
  const refusal = loginRefusal(view, host, target, from);
  if (refusal) return end(refusal.status ?? '0200', refusal.message);
  at(
    'array',
    `Operational: HeaderDigest=${agreedDigest(host.headerDigest, target.headerDigest)}, DataDigest=${agreedDigest(host.dataDigest, target.dataDigest)}, MaxConnections=${target.maxConnections}.`,
  );
  at(
    'array',
    `${initiator ? `${initiator.name} is on the access list` : `Whoever asks is let in`}; login response: status 0000, success.`,
  );
  return end('0000', `${host.name} is let in.`);
}

function security(
  view: EstateView,
  host: Host,
  target: Target,
  auth: Proof,
  initiator: Initiator | undefined,
  tools: LoginTools,
  at: (side: LogLine['side'], says: string) => void,
): { status: LoginStatus; says: string } | null {
  at('host', `AuthMethod=CHAP${host.chapSecret === null ? ',None' : ''}.`);
  at(
    'array',
    `AuthMethod=CHAP${target.authServer ? `, asks ${view.table('authServer').get(target.authServer)?.name}` : ''}.`,
  );
  if (host.chapSecret === null) return { status: '0201', says: `${host.name} has no secret to answer with.` };
  const server = target.authServer ? view.table('authServer').get(target.authServer) : undefined;
  if (target.authServer && server?.state !== 'up')
    return { status: '0301', says: `${server?.name ?? 'The authentication server'} does not answer.` };
  const prover = { algorithms, name: host.chapName || (host.presents ?? ''), secret: tools.secret(host.chapSecret) };
  const judge: ChapJudge = {
    algorithms,
    secretOf(given) {
      const print = expectedSecret(view, target, given, initiator);
      return print ? tools.secret(print) : null;
    },
    own: target.chapSecret ? tools.secret(target.chapSecret) : null,
  };
  const mine = proveBy(prover, judge, tools.random(1)[0]!, tools.random(CHALLENGE_OCTETS));
  tell(mine, prover.name, 'array', 'host', at);
  if (!mine.ok)
    return {
      status: '0201',
      says: `${chapWords[mine.reason]}${mine.reason === 'unknown-chap-name' ? `: ${prover.name}` : ''}.`,
    };
  if (auth !== 'mutual' && host.targetSecret === null) return null;
  const back = proveBy(
    {
      algorithms,
      name: target.chapName || target.iqn,
      secret: target.chapSecret ? tools.secret(target.chapSecret) : null,
    },
    {
      algorithms,
      secretOf: () => (host.targetSecret ? tools.secret(host.targetSecret) : null),
      own: tools.secret(host.chapSecret),
    },
    tools.random(1)[0]!,
    tools.random(CHALLENGE_OCTETS),
    mine.exchange,
  );
  tell(back, target.chapName || target.iqn, 'host', 'array', at);
  return back.ok
    ? null
    : {
        status: '0201',
        says: `${targetText(view, target)} could not prove itself to ${host.name}: ${chapWords[back.reason]}.`,
      };
}

/** What goes over the wire in one direction, as each side writes it down. */
function tell(
  outcome: ChapOutcome,
  name: string,
  judge: LogLine['side'],
  prover: LogLine['side'],
  at: (side: LogLine['side'], says: string) => void,
): void {
  const exchange: ChapExchange | null = outcome.exchange;
  if (exchange) {
    at(
      judge,
      `CHAP_A=${exchange.algorithm} (${ALGORITHM_WORDS[exchange.algorithm]}), CHAP_I=${exchange.identifier}, CHAP_C=${hex(exchange.challenge)}.`,
    );
    at(prover, `CHAP_N=${name}, CHAP_R=${hex(exchange.response)}.`);
  }
  at(judge, outcome.ok ? `The answer of ${name} holds.` : `Refused: ${chapWords[outcome.reason]}.`);
}
