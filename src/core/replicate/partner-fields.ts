import { z } from 'zod';
import { changed, created } from '../estate/effects';
import { type ArrayRow, type Partner } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import { parseAddress } from '../network/address';
import { arrayChoices, draftArray, draftList, draftText } from '../operation/draft';
import { emptied, folded, such } from '../operation/form';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { type Choice, type Draft, type FieldForetold, type Foretold } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { poolUsage } from '../pool/usage';
import { formatBytes, parseBytes } from '../units/bytes';
import { parseDate } from '../units/date';
import { DAY } from '../units/duration';
import { partnerAt } from '../copies/quota';
import { counterpartOf, partnerMisfit, portAt, skewBetween, standingOf } from './partners';
import { PEER_SKEW } from './choices';

export const quotaParams = {
  contact: z.string().max(200).optional().describe('Whom to call there'),
  secretUntil: z.string().optional().describe('The last day of the secret that this array shows; never for no end'),
  offers: z
    .array(z.string())
    .optional()
    .describe('Pools that the other may use and how much of each, such as quay 8 TiB'),
  quota: z.string().optional().describe('Bytes it may use in all, such as 10 TiB; none for no limit beside the pools'),
  quotaVolumes: z.string().optional().describe('Volumes it may have; none for no limit'),
  quotaUntil: z.string().optional().describe('The last day on which it may begin something new; never for no end'),
};
export const quotaFields = {
  offers: emptied(such('It may use', 'quay 8 TiB')),
  quota: folded(such('In all', '10 TiB')),
  quotaVolumes: folded(such('Volumes', '20')),
  quotaUntil: folded(such('Until', '2032-12-31')),
  secretUntil: folded(such('Secret holds until', '2032-12-31')),
  contact: folded(such('Contact', 'storage at Molenhaven, desk 4')),
};

type Quota = z.output<z.ZodObject<typeof quotaParams>>;
const nothing = (text: string): boolean => ['none', 'never'].includes(text.trim().toLowerCase());

/** What is said of a partner's quota; what is not said is left out. */
export function readQuota(asks: Inquiry, view: EstateView, array: ArrayRow, p: Quota): Partial<Partner> {
  const said: Partial<Partner> = {};
  const subject = { kind: 'operation', name: array.name } as const;
  const day = (text: string, field: string) => (nothing(text) ? null : asks.value(parseDate(text), field, subject));
  if (p.contact !== undefined) said.contact = p.contact;
  if (p.secretUntil) {
    const until = day(p.secretUntil, 'secretUntil');
    // The day that is named counts to its end.
    if (until !== undefined) Object.assign(said, { secretUntil: until === null ? null : until + DAY, ended: false });
  }
  if (p.quotaUntil) {
    const until = day(p.quotaUntil, 'quotaUntil');
    if (until !== undefined) said.quotaUntil = until === null ? null : until + DAY;
  }
  if (p.quota) {
    const bytes = nothing(p.quota) ? null : asks.value(parseBytes(p.quota), 'quota', subject);
    if (bytes !== undefined) said.quotaBytes = bytes;
  }
  if (p.quotaVolumes) {
    const count = Number(p.quotaVolumes);
    if (nothing(p.quotaVolumes)) said.quotaVolumes = null;
    else if (Number.isInteger(count) && count >= 0 && count <= 1_000_000) said.quotaVolumes = count;
    else
      asks.refuse({
        code: 'not-a-count',
        field: 'quotaVolumes',
        subject,
        message: `${p.quotaVolumes} is no number of volumes.`,
        mend: 'Write a whole number, or none.',
      });
  }
  if (p.offers) {
    const offers = p.offers.filter((line) => line.trim() !== '').map((line) => offerIn(asks, array, line));
    const found = offers.filter((one) => one !== undefined);
    said.offered = found.map(({ pool }) => pool);
    said.offeredBytes = found.map(({ bytes }) => bytes);
    if (new Set(said.offered).size < said.offered.length)
      asks.refuse({
        code: 'offered-twice',
        field: 'offers',
        subject,
        message: 'One pool is offered twice.',
        mend: 'Write each pool once.',
      });
  }
  return said;
}

/** `quay 8 TiB`: a pool of the array, and how much of it. */
function offerIn(asks: Inquiry, array: ArrayRow, line: string): { pool: string; bytes: number } | undefined {
  const [, name = '', size = ''] = /^(\S+)\s*(.*)$/.exec(line.trim()) ?? [];
  const pool = asks.find('pool', name, 'offers', array);
  const bytes = asks.value(parseBytes(size), 'offers', { kind: 'pool', name }, 'Write it as quay 8 TiB.');
  if (pool?.direct)
    asks.refuse({
      code: 'copies-need-pool',
      field: 'offers',
      subject: subjectOf('pool', pool),
      message: `${pool.name} is a RAID group by itself; it takes no thin copies.`,
      mend: 'Offer a pool.',
    });
  return pool && bytes !== undefined ? { pool: pool.id, bytes } : undefined;
}

/** Addresses that stand in lines. */
export const readAddresses = (asks: Inquiry, lines: readonly string[]): string[] =>
  lines
    .filter((line) => line.trim() !== '')
    .flatMap((line) => asks.value(parseAddress(line, true), 'addresses', { kind: 'operation', name: line })?.ip ?? []);

/** Refuses what the arrays would find of each other at the first word. */
export function askFits(view: EstateView, asks: Inquiry, row: Partner, present?: Partner): void {
  const overlay = new Overlay(view);
  overlay.apply([present ? changed('partner', present, row) : created('partner', row)]);
  const array = arrayOf(view, row);
  const peer = view.table('array').get(row.peer)!;
  const refuse = (code: string, field: string, message: string, mend: string, more: object = {}) =>
    asks.refuse({ code, field, subject: subjectOf('array', array), message, mend, ...more });
  for (const address of row.addresses) {
    const port = portAt(view, address);
    if (!port || port.array === row.peer) continue;
    const self = port.array === row.array;
    return refuse(
      self ? 'peer-self' : 'peer-other',
      'addresses',
      self ? `${address}: that is this array.` : `${address} is ${arrayOf(view, port).name}, not ${peer.name}.`,
      `Write an address of ${peer.name}.`,
    );
  }
  const correctThere = (field: string) => ({
    offer: nextStep(`Correct it at ${peer.name}`, 'partner.configure', { array: peer.name, peer: array.name }, field),
  });
  const own = partnerMisfit(overlay, row);
  const counterpart = counterpartOf(overlay, row);
  if (own?.reason === 'peer-fingerprint-mismatch')
    return refuse(
      own.reason,
      'expectedSecret',
      `${peer.name} shows another secret than ${array.name} would expect. ${own.message}`,
      `Write what ${peer.name} shows, or correct it there.`,
      correctThere('shownSecret'),
    );
  if (own) {
    const mends: Record<string, string> = {
      'peer-unreachable': `Write an address at which ${peer.name} answers, and see that a line leads there.`,
      'peer-port-closed': 'Bring its port up, or write another address.',
      'peer-self': 'Choose the other array and an address of it.',
      'peer-clock-skew': `Set the clock of the array that is off.`,
    };
    const off = own.reason === 'peer-clock-skew' ? [array, peer].find((one) => one.clockOff !== 0) : undefined;
    return refuse(
      own.reason,
      own.reason === 'peer-key-expired' ? 'expectedSecret' : 'addresses',
      own.message,
      mends[own.reason] ?? `Renew it at ${peer.name}.`,
      off ? { offer: nextStep(`Set the clock of ${off.name}`, 'array.set-clock', { array: off.name }) } : {},
    );
  }
  const theirs = counterpart && partnerMisfit(overlay, counterpart);
  if (theirs?.reason === 'peer-fingerprint-mismatch')
    refuse(
      theirs.reason,
      'shownSecret',
      `${peer.name} expects another secret than ${array.name} would show. ${theirs.message}`,
      `Write what ${peer.name} expects, or correct it there.`,
      correctThere('expectedSecret'),
    );
}

export function askDifferent(
  asks: Inquiry,
  array: ArrayRow,
  row: Pick<Partner, 'shownSecret' | 'expectedSecret'>,
): void {
  if (row.shownSecret === null || row.shownSecret !== row.expectedSecret) return;
  asks.refuse({
    code: 'secret-same-both-ways',
    field: 'expectedSecret',
    subject: subjectOf('array', array),
    message: `${array.name} would show the secret that it expects: both ways must differ.`,
    mend: 'Choose a second secret.',
  });
}

const addressesOf = (view: EstateView, array: ArrayRow): string[] =>
  view
    .table('port')
    .by('array', array.id)
    .flatMap((port) => port.addresses.map(({ ip }) => ip))
    .sort();

/** What is found at the addresses that are typed. */
export function addressField(
  view: EstateView,
  draft: Draft,
  array: ArrayRow,
  peer: ArrayRow,
  present?: readonly string[],
): FieldForetold {
  const typed = draftList(draft, 'addresses').filter((text) => text.trim() !== '');
  const suggested = present ? [...present] : addressesOf(view, peer).slice(0, 1);
  if (typed.length === 0)
    return { suggested, says: `${peer.name} answers at ${addressesOf(view, peer).join(', ') || 'no address'}.` };
  const found = typed.map((address) => {
    const port = portAt(view, address.trim());
    if (!port) return `nobody answers at ${address}`;
    const who = arrayOf(view, port);
    return who.id === peer.id
      ? `port ${port.name} ${port.state === 'up' ? 'answers' : 'is down'}`
      : `${address} is ${who.name}`;
  });
  const text = found.join(', ');
  return {
    suggested,
    says: `${text[0]!.toUpperCase()}${text.slice(1)}; clocks differ by ${Math.abs(skewBetween(array, peer))} s, ${PEER_SKEW} s are allowed.`,
  };
}

export function partnerFields(view: EstateView, draft: Draft): Foretold['fields'] {
  const array = draftArray(view, draft);
  const pools = array
    ? view
        .table('pool')
        .by('array', array.id)
        .filter((pool) => !pool.direct)
    : [];
  const free = pools.map((pool) => {
    const { size, promised } = poolUsage(view, pool);
    return `${pool.name} ${formatBytes(Math.max(0, size - promised))}`;
  });
  return {
    array: { choices: arrayChoices(view) },
    addresses: { says: 'Of ports of the other array; one that answers is enough.' },
    shownSecret: { says: 'What the other must expect of it. Never shown again.' },
    expectedSecret: { says: 'What the other shows. Another one than the first.' },
    offers: { says: free.length > 0 ? `Not promised yet: ${free.join(', ')}.` : 'A pool and a size in each line.' },
    quota: { says: 'Beside the limits of its pools.' },
    quotaVolumes: { says: 'Left empty, any number.' },
    quotaUntil: { says: 'What stands then stays; nothing new begins.' },
    secretUntil: { says: 'A finding tells 30 days before.' },
    contact: { says: 'Whom to call before something is changed.' },
  };
}

export const offerWords = (
  view: EstateView,
  { offered, offeredBytes }: Pick<Partner, 'offered' | 'offeredBytes'>,
): string =>
  offered.map((id, k) => `${formatBytes(offeredBytes[k]!)} of ${view.table('pool').get(id)!.name}`).join(' and ') ||
  'nothing';

/** A partner that an operation names by both arrays. */
export function askPartner(view: EstateView, p: { array: string; peer: string }) {
  const asks = inquire(view);
  const array = asks.find('array', p.array, 'array');
  const peer = asks.find('array', p.peer, 'peer');
  const row = array && peer && partnerAt(view, array.id, peer.id);
  if (array && peer && !row)
    asks.refuse({
      code: 'partner-unknown',
      field: 'peer',
      subject: subjectOf('array', array),
      message: `${array.name} was never introduced to ${peer.name}.`,
      mend: 'Introduce it first.',
      offer: nextStep(
        `Introduce ${peer.name}`,
        'partner.introduce',
        { array: array.name, peer: peer.name },
        'addresses',
      ),
    });
  return { asks, array, peer, row };
}

export const peerChoices = (view: EstateView, draft: Draft): Choice[] => {
  const array = draftArray(view, draft);
  return array
    ? view
        .table('partner')
        .by('array', array.id)
        .map((row) => ({ value: view.table('array').get(row.peer)!.name, label: row.name }))
    : [];
};

export const draftPartner = (view: EstateView, draft: Draft): Partner | undefined => {
  const array = draftArray(view, draft);
  const peer = lookUp(view, 'array', draftText(draft, 'peer'));
  return array && peer && partnerAt(view, array.id, peer.id);
};

/** How it stands with a partner, in a sentence. */
export function standingWords(view: EstateView, row: Partner): string {
  const { state, misfit } = standingOf(view, row);
  if (state === 'established') return 'Both agree.';
  if (misfit) return `${misfit.at} finds: ${misfit.message}`;
  return `${row.name} does not know ${arrayOf(view, row).name} yet.`;
}
