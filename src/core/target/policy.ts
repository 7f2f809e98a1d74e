import { z } from 'zod';
import { emptied, folded, pick, secret, such } from '../operation/form';
import { accessLevels, digestOffers, proofs, type ArrayRow, type Target } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { portOf } from '../estate/relations';
import { digestChoices } from '../iscsi/login';
import { askSecret, refuseSameBothWays } from '../iscsi/secret';
import { portalsOf, targetText } from '../iscsi/target';
import { parseIscsiName } from '../naming/iscsi';
import { parseAddress } from '../network/address';
import { arrayChoices, byName, draftText } from '../operation/draft';
import { lookUp, type Inquiry } from '../operation/inquiry';
import { secretWords, type FieldWords, withNamed } from '../operation/moved';
import type { Choice, Draft, Foretold } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { capital } from '../units/counted';
import { saidOr } from '../operation/said';

const digest = z.enum(digestOffers).optional();

/** What can be said of a target, at its making and later. */
export const targetPolicy = z.object({
  enabled: z.boolean().optional().describe('Off: it answers no login'),
  portals: z
    .union([z.literal('all'), z.array(z.string()).min(1, 'choose at least one portal')])
    .optional()
    .describe(
      "Ports, with a TCP port and a portal group where they differ: 'a-e0', 'a-e0:3261', 'a-e0:3261 2'; or 'all'",
    ),
  anyone: z.boolean().optional().describe('Lets initiators in that nobody has on record'),
  usual: z.enum(accessLevels).optional().describe('What an initiator may that no exception names'),
  exceptions: z
    .array(z.string())
    .optional()
    .describe("Such as 'gate-1 read-only', '10.40.1.0/24 none', 'iqn… read-write mutual'"),
  auth: z.enum(proofs).optional().describe('What initiators must prove at login'),
  authServer: z.string().optional().describe('Who judges the proof; none for the array itself'),
  account: z.string().optional().describe('A CHAP name of its own'),
  accountSecret: z.string().optional().describe('The secret of that account; none drops it'),
  chapName: z.string().optional().describe('By which it proves itself'),
  chapSecret: z.string().optional().describe('By which it proves itself; 12 octets at least'),
  headerDigest: digest,
  dataDigest: digest,
  sessionLimit: z
    .union([z.literal('none'), z.coerce.number().int().min(1, 'at least one session')])
    .optional()
    .describe('Most sessions at a time'),
  maxConnections: z.coerce.number().int().min(1).max(65535).optional().describe('Connections of one session'),
  isns: z.boolean().optional().describe('Registers with the name servers'),
});
export type TargetPolicy = z.output<typeof targetPolicy>;

export const authWords = { none: 'no authentication', 'one-way': 'CHAP one-way', mutual: 'CHAP both ways' };
const levelWords = { 'read-write': 'read and write', 'read-only': 'only read', none: 'nothing' };

/** `10.40.1.0/24 read-only`, with what is demanded where that differs. */
export const ruleText = (rule: Target['rules'][number]): string =>
  [rule.who, rule.level, rule.auth].filter(Boolean).join(' ');

export function portalRef(view: EstateView, portal: NonNullable<Target['portals']>[number]): string {
  const name = portOf(view, portal).name;
  return `${name}${portal.tcp === null ? '' : `:${portal.tcp}`}${portal.group === null ? '' : ` ${portal.group}`}`;
}

/** What of a target moves, in words. */
export const targetWords = (view: EstateView): FieldWords<Target> => ({
  enabled: (on) => (on ? 'switched on' : 'switched off'),
  portals: (portals) =>
    portals === null
      ? 'answers at every iSCSI port'
      : `answers at ${portals.map((one) => portalRef(view, one)).join(', ')}`,
  anyone: (on) => (on ? 'lets anyone in' : 'lets in initiators on record'),
  usual: (level) => `initiators may ${levelWords[level]}`,
  rules: (rules) => (rules.length === 0 ? 'no exceptions' : `exceptions ${rules.map(ruleText).join('; ')}`),
  auth: (auth) => authWords[auth],
  authServer: (id) =>
    id === null ? 'judges logins itself' : `logins judged by ${view.table('authServer').get(id)!.name}`,
  accounts: (accounts) => `accounts ${accounts.map((one) => one.name).join(', ') || 'none'}`,
  chapName: (name) => (name === '' ? 'its CHAP name is its target name' : `CHAP name ${name}`),
  chapSecret: secretWords('secret to prove itself with'),
  headerDigest: (offer) => `header digest ${offer}`,
  dataDigest: (offer) => `data digest ${offer}`,
  sessionLimit: (most) => (most === null ? 'any number of sessions' : `at most ${most} sessions`),
  maxConnections: (most) => `${most} ${most === 1 ? 'connection' : 'connections'} a session`,
  isns: (on) => (on ? 'registers with the name servers' : 'registers no longer'),
});

/** Portals as they are written, read: `a-e0`, `a-e0:3261`, `a-e0:3261 2`. */
function readPortals(asks: Inquiry, array: ArrayRow, wanted: NonNullable<TargetPolicy['portals']>): Target['portals'] {
  if (wanted === 'all' || (wanted.length === 1 && wanted[0]!.trim() === 'all')) return null;
  return wanted.flatMap((text) => {
    const [, name = '', tcp, group] = /^(\S+?)(?::(\d+))?(?:\s+(\d+))?$/.exec(text.trim()) ?? [];
    const port = asks.find('port', name || text, 'portals', array);
    if (!port) return [];
    const refuse = (code: string, message: string, mend: string): void =>
      asks.refuse({ code, field: 'portals', subject: subjectOf('port', port), message, mend });
    if (port.role !== 'iscsi')
      refuse('port-role-off', `${port.name} does not serve iSCSI.`, 'Give it that role first, or choose another port.');
    const number = tcp === undefined ? null : Number(tcp);
    if (number !== null && (number < 1 || number > 65535))
      refuse('bad-port', `${tcp} is no TCP port; they run from 1 to 65535.`, 'Write another one.');
    const tag = group === undefined ? null : Number(group);
    if (tag !== null && tag > 65535)
      refuse('bad-portal-group', `${group} is no portal group tag; they run from 0 to 65535.`, 'Write another one.');
    return [{ port: port.id, tcp: number, group: tag }];
  });
}

/** Exceptions as they are written, read: who, the level, and what is demanded where it differs. */
function readRules(
  view: EstateView,
  asks: Inquiry,
  texts: readonly string[],
  month: string,
  notes: string[],
): Target['rules'] {
  const seen = new Set<string>();
  return texts.flatMap((text) => {
    const [who = '', level = 'read-write', auth, ...rest] = text.trim().split(/\s+/);
    const subject = { kind: 'initiator', name: who } as const;
    const refuse = (code: string, message: string, mend: string): [] => {
      asks.refuse({ code, field: 'exceptions', subject, message, mend });
      return [];
    };
    const known = accessLevels.find((one) => one === level);
    const proof = auth === undefined ? null : proofs.find((one) => one === auth);
    if (!known || proof === undefined || rest.length > 0)
      return refuse(
        'bad-exception',
        `“${text}” is no exception.`,
        'Write who, then read-write, read-only or none, and if need be none, one-way or mutual: gate-1 read-only mutual.',
      );
    const name = readWho(view, asks, who, month, notes);
    if (name === undefined) return [];
    if (seen.has(name))
      return refuse('exception-twice', `${name} is named twice among the exceptions.`, 'Leave one of them out.');
    seen.add(name);
    return [{ who: name, level: known, auth: proof }];
  });
}

/** An initiator's name, an address or prefix, or the name of a host, which must resolve. */
function readWho(view: EstateView, asks: Inquiry, who: string, month: string, notes: string[]): string | undefined {
  const field = 'exceptions';
  if (/^(iqn|eui|naa)\./i.test(who)) {
    const name = asks.value(parseIscsiName(who, month), field, { kind: 'initiator', name: who });
    if (name && view.table('initiator').by('iqn', name).length === 0)
      notes.push(`${name} is no initiator’s on record.`);
    return name;
  }
  if (/^[\d.]+(\/\d+)?$/.test(who) || who.includes(':')) {
    const [ip = '', prefix] = who.split('/');
    const read = asks.value(parseAddress(ip, true), field, {
      kind: 'network',
      name: who,
    });
    if (!read) return undefined;
    const most = read.ip.includes(':') ? 128 : 32;
    if (prefix !== undefined && Number(prefix) > most) {
      asks.refuse({
        code: 'bad-prefix',
        field,
        subject: { kind: 'network', name: who },
        message: `/${prefix} is no prefix of such an address; it runs to /${most}.`,
        mend: 'Write another one.',
      });
      return undefined;
    }
    return prefix === undefined ? read.ip : `${read.ip}/${Number(prefix)}`;
  }
  const host = lookUp(view, 'host', who);
  if (host) return host.name;
  asks.refuse({
    code: 'name-does-not-resolve',
    field,
    subject: { kind: 'host', name: who },
    message: `${who} resolves to no address: no host of that name is on record.`,
    mend: 'Write an initiator name, an address, a prefix, or the name of a host on record.',
  });
  return undefined;
}

/** The target as the policy leaves it, or refusals. */
export function applyPolicy(
  view: EstateView,
  asks: Inquiry,
  array: ArrayRow,
  target: Target,
  p: TargetPolicy,
  { month, notes }: { month: string; notes: string[] },
): Target {
  const server =
    p.authServer && p.authServer !== 'none' ? asks.find('authServer', p.authServer, 'authServer') : undefined;
  const who = targetText(view, target);
  const secret = askSecret(asks, p.chapSecret, 'chapSecret', who);
  const accountSecret = askSecret(asks, p.accountSecret, 'accountSecret', p.account ?? who);
  if (p.accountSecret && !p.account)
    asks.refuse({
      code: 'parameter-missing',
      field: 'account',
      subject: subjectOf('target', target),
      message: 'A secret is given for an account, and no account is named.',
      mend: 'Write the CHAP name.',
    });
  const others = target.accounts.filter((one) => one.name !== p.account);
  const after: Target = {
    ...withNamed(
      target,
      p,
      'enabled',
      'anyone',
      'usual',
      'auth',
      'chapName',
      'headerDigest',
      'dataDigest',
      'maxConnections',
      'isns',
    ),
    portals: p.portals === undefined ? target.portals : readPortals(asks, array, p.portals),
    rules: p.exceptions === undefined ? target.rules : readRules(view, asks, p.exceptions, month, notes),
    authServer: p.authServer === 'none' ? null : (server?.id ?? target.authServer),
    accounts:
      p.account && accountSecret !== undefined
        ? [...others, ...(accountSecret === null ? [] : [{ name: p.account, secret: accountSecret }])]
        : target.accounts,
    chapSecret: secret === undefined ? target.chapSecret : secret,
    sessionLimit: saidOr(p.sessionLimit, target.sessionLimit, 'none'),
  };
  const mutual = after.auth === 'mutual' || after.rules.some((rule) => rule.auth === 'mutual');
  if (mutual && after.chapSecret === null)
    asks.refuse({
      code: 'chap-secret-missing',
      field: 'chapSecret',
      subject: subjectOf('target', target),
      message: `${who} cannot prove itself without a secret.`,
      mend: 'Give it one of 12 octets or more.',
    });
  refuseSameBothWays(view, asks, after.chapSecret, { proves: 'target', field: 'chapSecret', whose: who });
  refuseSameBothWays(view, asks, accountSecret, { proves: 'host', field: 'accountSecret', whose: p.account ?? who });
  if (after.chapSecret !== null && after.accounts.some((one) => one.secret === after.chapSecret))
    asks.refuse({
      code: 'secret-same-both-ways',
      field: accountSecret ? 'accountSecret' : 'chapSecret',
      subject: subjectOf('target', target),
      message: `${who} would prove itself with the secret of one of its accounts: both ways must differ.`,
      mend: 'Choose a second secret.',
    });
  if (after.anyone && after.usual !== 'none') notes.push('Whoever reaches a portal is let in.');
  const portals = portalsOf(view, after);
  if (portals.length === 0) notes.push(`${array.name} has no iSCSI port at which it could answer.`);
  return after;
}

const proofChoices: Choice[] = proofs.map((value) => ({
  value,
  label: capital(authWords[value]),
}));

/** How the policy of a target is filled in, at its making and later. */
export const policyForm = {
  auth: 'Demands',
  usual: 'Initiators may',
  exceptions: emptied(such('Except', 'gate-1 read-only')),
  portals: { label: 'Answers at', control: 'lines', placeholder: 'all' },
  enabled: 'On',
  authServer: folded(pick('Judged by')),
  chapName: folded('Its CHAP name'),
  chapSecret: folded(secret('Its secret')),
  account: folded('Own account'),
  accountSecret: folded(secret('Its secret')),
  anyone: folded('Anyone'),
  headerDigest: folded('Header digest'),
  dataDigest: folded('Data digest'),
  sessionLimit: folded(such('Sessions, at most', 'none')),
  maxConnections: folded('Connections each'),
  isns: folded('Registers'),
} as const;

export function policyFields(
  view: EstateView,
  draft: Draft,
  array: ArrayRow | undefined,
  target: Target | undefined,
): Foretold['fields'] {
  const ports = array
    ? [...view.table('port').by('array', array.id)].filter((port) => port.role === 'iscsi').sort(byName)
    : [];
  const fields: Foretold['fields'] = {
    array: { choices: arrayChoices(view) },
    enabled: { says: 'Off: it answers no login, and its LUNs are out of reach.' },
    portals: {
      says: `All, or one a line: a port, with a TCP port and a portal group where they differ, such as ${ports[0]?.name ?? 'a-e0'}:3261 2.${ports.length > 0 ? ` ${ports.map((port) => `${port.name} has ${port.addresses.map(({ ip }) => ip).join(', ')}`).join('; ')}.` : ''}`,
    },
    anyone: { says: 'On: also initiators that nobody has on record.' },
    usual: {
      choices: accessLevels.map((value) => ({
        value,
        label:
          value === 'none' ? 'Nothing: only exceptions get in' : value === 'read-only' ? 'Only read' : 'Read and write',
      })),
      says: 'For whoever no exception names.',
    },
    exceptions: {
      says: 'One a line: an initiator, a host, an address or a prefix; then read-write, read-only or none; then what it must prove, if that differs.',
    },
    auth: { choices: proofChoices },
    authServer: {
      choices: [
        { value: 'none', label: 'The array itself' },
        ...[...view.table('authServer').values()].sort(byName).map((row) => ({ value: row.name, label: row.name })),
      ],
    },
    account: { says: 'A CHAP name that holds at this target alone.' },
    accountSecret: { says: 'Never shown again. Write none to drop the account.' },
    chapName: { says: 'Empty: its target name.' },
    chapSecret: { says: 'Needed for mutual CHAP. Never shown again.' },
    headerDigest: { choices: digestChoices, says: 'Both sides must share one.' },
    dataDigest: { choices: digestChoices },
    sessionLimit: { says: 'Empty or none: no limit.' },
    maxConnections: { says: 'The smaller of both sides holds.' },
    isns: { says: 'With the name servers, so that hosts find it there.' },
  };
  if (!target) return fields;
  const suggest = (field: string, value: string | string[] | boolean): void => {
    fields[field]!.suggested = typeof value === 'boolean' ? String(value) : value;
  };
  suggest('enabled', target.enabled);
  suggest('portals', target.portals ? target.portals.map((one) => portalRef(view, one)) : ['all']);
  suggest('anyone', target.anyone);
  suggest('usual', target.usual);
  suggest('exceptions', target.rules.map(ruleText));
  suggest('auth', target.auth);
  suggest('authServer', target.authServer ? view.table('authServer').get(target.authServer)!.name : 'none');
  suggest('headerDigest', target.headerDigest);
  suggest('dataDigest', target.dataDigest);
  suggest('sessionLimit', target.sessionLimit === null ? 'none' : String(target.sessionLimit));
  suggest('maxConnections', String(target.maxConnections));
  suggest('isns', target.isns);
  if (target.accounts.length > 0)
    fields.account!.says = `It knows ${target.accounts.map((one) => one.name).join(', ')}.`;
  if (target.chapSecret) fields.chapSecret!.says = 'It has one; write another to change it.';
  const chosen = draftText(draft, 'auth') || target.auth;
  if (chosen === 'none') fields.chapSecret!.says += ' Nothing asks for it while no proof is demanded.';
  return fields;
}
