import type { DigestOffer, Host, HostInterface, Initiator, Proof, Target } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { diagnose, type KnownName } from '../naming/diagnose';
import type { Choice } from '../operation/operation';
import { arrayGrants, grantOf, lesser, targetText } from './target';
import { capital } from '../units/counted';

/** Login status class and detail (RFC 7143 §11.13) that simulated targets give. */
export type LoginStatus = '0200' | '0201' | '0202' | '0203' | '0207' | '0301' | '0302';

export type LoginReason =
  | 'no-initiator'
  | 'initiator-unknown'
  | 'access-none'
  | 'chap-failed'
  | 'chap-mutual-failed'
  | 'auth-server-down'
  | 'digest-none-common'
  | 'target-disabled'
  | 'session-limit'
  | 'not-discovered'
  | 'not-logged-in';

export interface LoginRefusal {
  reason: LoginReason;
  status?: LoginStatus;
  message: string;
}

/** What each status says, in words. */
export const statusWords: Record<LoginStatus, string> = {
  '0200': 'initiator error: nothing both sides accept',
  '0201': 'authentication failed',
  '0202': 'not authorised',
  '0203': 'target not found',
  '0207': 'missing parameter',
  '0301': 'service unavailable',
  '0302': 'out of resources',
};

const digests: Record<DigestOffer, readonly string[]> = {
  none: ['None'],
  crc32c: ['CRC32C'],
  either: ['CRC32C', 'None'],
};

/** The digest both sides settle on: the first the initiator offers that the target takes; null where there is none (RFC 7143 §13.1). */
export const agreedDigest = (initiator: DigestOffer, target: DigestOffer): string | null =>
  digests[initiator].find((one) => digests[target].includes(one)) ?? null;

/** As forms offer them. */
export const digestChoices: Choice[] = [
  { value: 'either', label: 'CRC32C, else none' },
  { value: 'crc32c', label: 'CRC32C only' },
  { value: 'none', label: 'None' },
];

/** What an initiator of this name is, by its form. */
function roleOfName(name: string): KnownName['role'] {
  if (name.startsWith('nqn.')) return 'host';
  return /^[0-9a-f]{16}$/.test(name) ? 'port' : 'initiator';
}

/** Names of all hosts and arrays, as a diagnosis wants them. */
export function knownNames(view: EstateView): KnownName[] {
  const owner = (host: string) => view.table('host').get(host)?.name ?? '';
  const found: KnownName[] = [];
  for (const row of view.table('initiator').values())
    found.push({
      name: row.name,
      role: roleOfName(row.name),
      owner: owner(row.host),
    });
  for (const array of view.table('array').values()) {
    if (array.wwnn) found.push({ name: array.wwnn, role: 'node', owner: array.name });
  }
  for (const target of view.table('target').values())
    found.push({ name: target.iqn, role: 'target', owner: targetText(view, target) });
  for (const subsystem of view.table('subsystem').values())
    found.push({ name: subsystem.nqn, role: 'subsystem', owner: subsystem.name });
  for (const row of view.table('interface').values())
    if (row.wwnn) found.push({ name: row.wwnn, role: 'node', owner: row.host ? owner(row.host) : row.name });
  return found;
}

/** The initiator on record that the name a host sends is let in by. */
export const initiatorOf = (view: EstateView, host: Host): Initiator | undefined =>
  host.presents === null
    ? undefined
    : view
        .table('initiator')
        .by('host', host.id)
        .find((row) => row.name === host.presents);

/** The iSCSI names of a host that are on record. */
const iscsiNames = (view: EstateView, host: Host): Initiator[] =>
  view
    .table('initiator')
    .by('host', host.id)
    .filter((row) => !row.name.startsWith('nqn.') && !/^[0-9a-f]{16}$/.test(row.name));

/** Where a login comes from: a rule of the target may ask for it. */
type From = Pick<HostInterface, 'addresses'>;

/** A host that sends a name nobody has on record for it, in words; null where its name is known. Whatever the target demands, this comes first. */
export function nameRefusal(view: EstateView, host: Host, target: Target, from?: From): LoginRefusal | null {
  const names = iscsiNames(view, host);
  if (host.presents === null)
    return {
      reason: 'no-initiator',
      status: '0207',
      message: names.length === 0 ? `${host.name} has no initiator on record.` : `${host.name} sends no iSCSI name.`,
    };
  if (target.anyone || names.some((row) => row.name === host.presents)) return null;
  if (names.length === 0)
    return { reason: 'no-initiator', status: '0202', message: `${host.name} has no initiator on record.` };
  const found = diagnose(
    host.presents,
    'initiator',
    names.map((row) => ({ name: row.name, role: 'initiator' as const, owner: host.name })),
  );
  const hint =
    found.is === 'near-miss'
      ? `${host.presents} logs in, on record is ${found.known.name}: ${found.distance === 1 ? 'one letter differs' : 'two letters differ'}, at position ${found.position}.`
      : `${host.presents} logs in, on record is ${names.map((row) => row.name).join(', ')}.`;
  // A target that demands CHAP asks for the name's secret before it looks the name up on its list.
  const { auth } = grantOf(target, { name: host.presents, host, ...(from ? { from } : {}) });
  const status = (auth === 'none' ? null : chapRefusal(view, host, target, auth, undefined))?.status ?? '0202';
  return {
    reason: 'initiator-unknown',
    status,
    message: `${capital(statusWords[status])} (${status}): ${hint}`,
  };
}

/**
 * How a target answers the host, apart from the network between them; null where it lets the host in. Order: the name, whether the target is on,
 * authentication, access, negotiation (the standard leaves it open). Secrets are compared by their fingerprints, which are equal just where the
 * secrets are. `from` is the interface that asks, where a rule goes by addresses.
 */
export function loginRefusal(view: EstateView, host: Host, target: Target, from?: From): LoginRefusal | null {
  const stranger = nameRefusal(view, host, target, from);
  if (stranger) return stranger;
  const closed = disabledRefusal(view, target);
  if (closed) return closed;
  const initiator = iscsiNames(view, host).find((row) => row.name === host.presents);
  const grant = grantOf(target, { name: host.presents, host, ...(from ? { from } : {}) });
  if (grant.auth === 'none' && host.targetSecret !== null)
    return {
      reason: 'chap-mutual-failed',
      message: `${host.name} wants ${targetText(view, target)} to prove itself, and the target takes part in no CHAP: let it demand mutual CHAP, or take the array’s secret off the host.`,
    };
  const proof = grant.auth === 'none' ? null : chapRefusal(view, host, target, grant.auth, initiator);
  if (proof) return proof;
  if (lesser(grant.level, arrayGrants(view, initiator, target.array)) === 'none')
    return {
      reason: 'access-none',
      status: '0202',
      message: `Not authorised (0202): ${targetText(view, target)} ${
        grant.level !== 'none'
          ? `keeps ${host.presents} out`
          : grant.by === null
            ? `lets in only whom it names, and ${host.presents} is not among them`
            : `keeps ${grant.by === host.presents ? grant.by : `${host.name} out by its rule for ${grant.by}`}${grant.by === host.presents ? ' out' : ''}`
      }.`,
    };
  if (
    agreedDigest(host.headerDigest, target.headerDigest) === null ||
    agreedDigest(host.dataDigest, target.dataDigest) === null
  )
    return {
      reason: 'digest-none-common',
      status: '0200',
      message: `Login refused (0200): ${host.name} and ${targetText(view, target)} share no digest.`,
    };
  return null;
}

export const disabledRefusal = (view: EstateView, target: Target): LoginRefusal | null =>
  target.enabled
    ? null
    : {
        reason: 'target-disabled',
        status: '0301',
        message: `Service unavailable (0301): target ${targetText(view, target)} is switched off.`,
      };

/**
 * The secret by which a target judges who calls himself `name`: its own account of that name, else what stands on record for the initiator; where it
 * asks an authentication server, that server's account alone. Null where there is none.
 */
export function expectedSecret(
  view: EstateView,
  target: Target,
  name: string,
  initiator: Initiator | undefined,
): string | null {
  if (target.authServer)
    return (
      view
        .table('authServer')
        .get(target.authServer)
        ?.accounts.find((account) => account.name === name)?.secret ?? null
    );
  const account = target.accounts.find((one) => one.name === name);
  if (account) return account.secret;
  return initiator && (initiator.chapName || initiator.name) === name ? initiator.chapSecret : null;
}

function chapRefusal(
  view: EstateView,
  host: Host,
  target: Target,
  auth: Proof,
  initiator: Initiator | undefined,
): LoginRefusal | null {
  const who = targetText(view, target);
  const no = (reason: LoginReason, why: string, status: LoginStatus = '0201'): LoginRefusal => ({
    reason,
    status,
    message: `${status === '0201' ? 'Authentication failed (0201)' : 'Service unavailable (0301)'}: ${why}`,
  });
  if (host.chapSecret === null) return no('chap-failed', `${who} demands CHAP, and ${host.name} has no secret.`);
  const name = host.chapName || host.presents!;
  const record =
    initiator ??
    view
      .table('initiator')
      .by('host', host.id)
      .find((row) => (row.chapName || row.name) === name);
  const expected = expectedSecret(view, target, name, record);
  if (target.authServer) {
    const server = view.table('authServer').get(target.authServer);
    if (server?.state !== 'up')
      return no('auth-server-down', `${who} asks ${server?.name ?? 'a server'}, which does not answer.`, '0301');
    if (expected === null) return no('chap-failed', `${server.name} knows no ${name}.`);
  } else if (expected === null)
    return no(
      'chap-failed',
      record?.chapSecret
        ? `the CHAP name ${name} is not the one on record, ${record.chapName || record.name}.`
        : `no secret is on record for ${name}.`,
    );
  if (expected !== host.chapSecret) return no('chap-failed', `the secret ${host.name} sends is not the one on record.`);
  if (auth === 'mutual' || host.targetSecret !== null) {
    if (target.chapSecret === null || host.targetSecret === null || target.chapSecret !== host.targetSecret)
      return no(
        'chap-mutual-failed',
        `${who} could not prove itself to ${host.name}: check the array’s secret at the host.`,
      );
  }
  return null;
}
