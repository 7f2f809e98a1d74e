import type { EstateView } from '../estate/estate';
import type { Inquiry } from '../operation/inquiry';
import { LEAST_OCTETS } from './chap';
import { targetText } from './target';

/** How a sealed secret is written in an operation: by its keyed fingerprint. */
export const sealedText = (fingerprint: string): string => `sealed:${fingerprint}`;
/** How one that may not be used is written: why, and its octets. */
export const unfitText = (reason: string, octets: number): string => `unfit:${reason}:${octets}`;

const words: Record<string, (octets: string) => string> = {
  'secret-too-short': (octets) => `The secret has ${octets} octets; ${LEAST_OCTETS} are needed.`,
  'secret-too-long': (octets) => `The secret has ${octets} octets; 255 is the most.`,
  'secret-not-text': () => 'A secret is one text.',
  'secret-bad-hex': () => 'After 0x a secret takes pairs of the digits 0-9 and a-f.',
};

/** The fingerprint of a secret that was given; null for `none`; undefined where none is given or it is refused. */
export function askSecret(
  asks: Inquiry,
  text: string | undefined,
  field: string,
  whose: string,
): string | null | undefined {
  if (text === undefined || text === '') return undefined;
  if (text === 'none') return null;
  const [kind, first = '', octets = ''] = text.split(':');
  const subject = { kind: 'operation', name: whose } as const;
  if (kind === 'sealed' && /^[0-9a-f]{16,}$/.test(first)) return first;
  if (kind === 'unfit' && first === 'secret-unknown')
    asks.refuse({
      code: first,
      field,
      subject,
      message: 'That sealed secret is not known here.',
      mend: 'Write the secret again.',
    });
  else if (kind === 'unfit' && words[first])
    asks.refuse({ code: first, field, subject, message: words[first](octets), mend: 'Choose another one.' });
  else
    asks.refuse({
      code: 'secret-open',
      field,
      subject,
      message: 'A secret was given in the open.',
      mend: 'Hand it in through the interface or the API, which seal it.',
    });
  return undefined;
}

/**
 * Refuses a secret that proves the other direction already (RFC 7143, security clause: the two ways must differ): what hosts prove themselves with
 * stands at initiators, hosts and accounts of targets and authentication servers, what targets do at them and, as it is expected, at hosts.
 */
export function refuseSameBothWays(
  view: EstateView,
  asks: Inquiry,
  secret: string | null | undefined,
  { proves, field, whose }: { proves: 'host' | 'target'; field: string; whose: string },
): void {
  if (!secret) return;
  const holder =
    proves === 'host'
      ? (proverOf(view, secret) ??
        expectedBy([...view.table('host').values()].find((row) => row.targetSecret === secret)?.name))
      : ([...view.table('initiator').values()].find((row) => row.chapSecret === secret)?.name ??
        [...view.table('authServer').values()]
          .flatMap((row) => row.accounts)
          .find((account) => account.secret === secret)?.name ??
        [...view.table('target').values()].flatMap((row) => row.accounts).find((account) => account.secret === secret)
          ?.name ??
        [...view.table('host').values()].find((row) => row.chapSecret === secret)?.name);
  if (holder === undefined) return;
  asks.refuse({
    code: 'secret-same-both-ways',
    field,
    subject: { kind: 'operation', name: whose },
    message:
      proves === 'host'
        ? `${holder} proves itself with that secret already: both ways must differ.`
        : `${whose} would prove itself with the secret of ${holder}: both ways must differ.`,
    mend: 'Choose a second secret.',
  });
}

const proverOf = (view: EstateView, secret: string): string | undefined => {
  const target = [...view.table('target').values()].find((row) => row.chapSecret === secret);
  return target && targetText(view, target);
};

const expectedBy = (host: string | undefined): string | undefined =>
  host === undefined ? undefined : `The array that ${host} expects`;
