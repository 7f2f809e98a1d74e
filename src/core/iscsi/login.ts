import type { ArrayRow, DigestOffer, Host, Initiator } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { diagnose, type KnownName } from '../naming/diagnose';
import type { Choice } from '../operation/operation';

/** Login status class and detail (RFC 7143 §11.13) that simulated targets give. */
export type LoginStatus = '0200' | '0201' | '0202' | '0203' | '0301' | '0302';

export type LoginReason =
  | 'no-initiator'
  | 'initiator-unknown'
  | 'access-none'
  | 'chap-failed'
  | 'chap-mutual-failed'
  | 'auth-server-down'
  | 'digest-none-common'
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

/** Names of all hosts and arrays, as a diagnosis wants them. */
export function knownNames(view: EstateView): KnownName[] {
  const owner = (host: string) => view.table('host').get(host)?.name ?? '';
  const found: KnownName[] = [];
  for (const row of view.table('initiator').values())
    found.push({
      name: row.name,
      role: row.name.startsWith('nqn.') ? 'host' : /^[0-9a-f]{16}$/.test(row.name) ? 'port' : 'initiator',
      owner: owner(row.host),
    });
  for (const array of view.table('array').values()) {
    found.push({ name: array.iqn, role: 'target', owner: array.name });
    if (array.wwnn) found.push({ name: array.wwnn, role: 'node', owner: array.name });
  }
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

/** A host that sends a name nobody has on record for it, in words; null where its name is known. Whatever the target demands, this comes first. */
export function nameRefusal(view: EstateView, host: Host, array: ArrayRow): LoginRefusal | null {
  const names = iscsiNames(view, host);
  if (host.presents === null || names.length === 0)
    return { reason: 'no-initiator', status: '0202', message: `${host.name} has no initiator on record.` };
  if (names.some((row) => row.name === host.presents)) return null;
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
  const status = (array.auth === 'none' ? null : chapRefusal(view, host, array, undefined))?.status ?? '0202';
  return {
    reason: 'initiator-unknown',
    status,
    message: `${status === '0202' ? 'Not authorised' : status === '0201' ? 'Authentication failed' : 'Service unavailable'} (${status}): ${hint}`,
  };
}

/**
 * How a target answers the host, apart from the network between them; null where it lets the host in. Order: the name, authentication, access
 * list, negotiation (the standard leaves it open). Secrets are compared by their fingerprints, which are equal just where the secrets are.
 */
export function loginRefusal(view: EstateView, host: Host, array: ArrayRow): LoginRefusal | null {
  const stranger = nameRefusal(view, host, array);
  if (stranger) return stranger;
  const initiator = iscsiNames(view, host).find((row) => row.name === host.presents)!;
  if (array.auth === 'none' && host.targetSecret !== null)
    return {
      reason: 'chap-mutual-failed',
      message: `${host.name} wants ${array.name} to prove itself, and the target takes part in no CHAP: let it demand mutual CHAP, or take the array’s secret off the host.`,
    };
  const proof = array.auth === 'none' ? null : chapRefusal(view, host, array, initiator);
  if (proof) return proof;
  const level = view
    .table('access')
    .by('initiator', initiator.id)
    .find((row) => row.array === array.id)?.level;
  if (level === 'none')
    return {
      reason: 'access-none',
      status: '0202',
      message: `Not authorised (0202): ${array.name} keeps ${initiator.name} out.`,
    };
  if (
    agreedDigest(host.headerDigest, array.headerDigest) === null ||
    agreedDigest(host.dataDigest, array.dataDigest) === null
  )
    return {
      reason: 'digest-none-common',
      status: '0200',
      message: `Login refused (0200): ${host.name} and ${array.name} share no digest.`,
    };
  return null;
}

function chapRefusal(
  view: EstateView,
  host: Host,
  array: ArrayRow,
  initiator: Initiator | undefined,
): LoginRefusal | null {
  const no = (reason: LoginReason, why: string, status: LoginStatus = '0201'): LoginRefusal => ({
    reason,
    status,
    message: `${status === '0201' ? 'Authentication failed (0201)' : 'Service unavailable (0301)'}: ${why}`,
  });
  if (host.chapSecret === null) return no('chap-failed', `${array.name} demands CHAP, and ${host.name} has no secret.`);
  const name = host.chapName || host.presents!;
  let expected: string | null;
  if (array.authServer) {
    const server = view.table('authServer').get(array.authServer);
    if (server?.state !== 'up')
      return no('auth-server-down', `${array.name} asks ${server?.name ?? 'a server'}, which does not answer.`, '0301');
    expected = server.accounts.find((account) => account.name === name)?.secret ?? null;
    if (expected === null) return no('chap-failed', `${server.name} knows no ${name}.`);
  } else {
    const record =
      initiator ??
      view
        .table('initiator')
        .by('host', host.id)
        .find((row) => (row.chapName || row.name) === name);
    expected = record && (record.chapName || record.name) === name ? record.chapSecret : null;
    if (expected === null)
      return no(
        'chap-failed',
        record?.chapSecret
          ? `the CHAP name ${name} is not the one on record, ${record.chapName || record.name}.`
          : `no secret is on record for ${name}.`,
      );
  }
  if (expected !== host.chapSecret) return no('chap-failed', `the secret ${host.name} sends is not the one on record.`);
  if (array.auth === 'mutual' || host.targetSecret !== null) {
    if (array.chapSecret === null || host.targetSecret === null || array.chapSecret !== host.targetSecret)
      return no(
        'chap-mutual-failed',
        `${array.name} could not prove itself to ${host.name}: check the array’s secret at the host.`,
      );
  }
  return null;
}
