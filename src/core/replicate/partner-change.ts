import { z } from 'zod';
import { changed, deleted } from '../estate/effects';
import { type Partner } from '../estate/entities';
import { askSecret } from '../iscsi/secret';
import { arrayChoices, draftArray } from '../operation/draft';
import { folded, pick, secret, such, the } from '../operation/form';
import { movedWords, secretWords } from '../operation/moved';
import { nextStep } from '../operation/next-step';
import { planned, refused, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { formatBytes } from '../units/bytes';
import { counted } from '../units/counted';
import { dateText } from '../units/date';
import { DAY, SECOND } from '../units/duration';
import { quotaUsed } from '../copies/quota';
import { counterpartOf, unpartneredWhy } from './partners';

import {
  addressField,
  askDifferent,
  askFits,
  askPartner,
  draftPartner,
  offerWords,
  partnerFields,
  peerChoices,
  quotaFields,
  quotaParams,
  readAddresses,
  readQuota,
  standingWords,
} from './partner-fields';

const configureSchema = z.object({
  array: z.string(),
  peer: z.string(),
  addresses: z.array(z.string()).optional(),
  shownSecret: z.string().optional().describe('What this array proves itself with'),
  expectedSecret: z.string().optional().describe('What the other must prove itself with'),
  ...quotaParams,
});

export const partnerConfigure: OperationType<z.output<typeof configureSchema>> = {
  kind: 'partner.configure',
  verb: 'Change what an array knows of its partner',
  summary: 'Address, secrets, contact and what the other may use. What is not named stays.',
  schema: configureSchema,
  form: {
    columns: [3, 4, 7],
    fields: {
      array: the.array,
      peer: pick('Partner'),
      addresses: such('Its addresses', '10.41.1.11'),
      shownSecret: folded(secret('Shows the secret')),
      expectedSecret: folded(secret('Expects the secret')),
      ...quotaFields,
    },
  },
  title: (p) => `Change what ${p.array} knows of ${p.peer}`,
  units: (p) => [p],
  plan(view, p, context) {
    const { asks, array, peer, row } = askPartner(view, p);
    if (!array || !peer || !row) return refused(asks.refusals);
    const addresses = p.addresses?.some((text) => text.trim()) ? readAddresses(asks, p.addresses) : row.addresses;
    const whose = `${array.name} and ${peer.name}`;
    const shown = askSecret(asks, p.shownSecret, 'shownSecret', whose);
    const expected = askSecret(asks, p.expectedSecret, 'expectedSecret', whose);
    const quota = readQuota(asks, view, array, p);
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const after: Partner = {
      ...row,
      ...quota,
      addresses,
      shownSecret: shown ?? row.shownSecret,
      expectedSecret: expected ?? row.expectedSecret,
      since: counterpartOf(view, row) ? row.since : context.now,
    };
    askDifferent(asks, array, after);
    const proofs = p.addresses || p.shownSecret || p.expectedSecret;
    if (asks.refusals.length === 0 && proofs) askFits(view, asks, after, row);
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const used = quotaUsed(view, after);
    const usedBytes = Object.values(used.pools).reduce((sum, bytes) => sum + bytes, 0);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `${array.name} on ${peer.name}: ${movedWords(row, after, {
        addresses: (texts) => `answers at ${texts.join(', ')}`,
        shownSecret: secretWords('secret shown'),
        expectedSecret: secretWords('secret expected'),
        contact: (text) => `contact ${text || 'nobody'}`,
        secretUntil: (at) => (at === null ? 'the secret has no end' : `the secret holds until ${dateText(at - DAY)}`),
        offered: () => `may use ${offerWords(view, after)}`,
        offeredBytes: () => `offers ${offerWords(view, after)}`,
        quotaBytes: (bytes) => (bytes === null ? 'no limit in all' : `${formatBytes(bytes)} in all`),
        quotaVolumes: (n) => (n === null ? 'any number of volumes' : counted(n, 'volume')),
        quotaUntil: (at) => (at === null ? 'for ever' : `until ${dateText(at - DAY)}`),
        since: () => 'told anew',
      })}`,
      takes: 2 * SECOND,
      effects: [changed('partner', row, after)],
      notes:
        usedBytes > 0
          ? [`${peer.name} uses ${formatBytes(usedBytes)} in ${counted(used.volumes, 'volume')}; that stays.`]
          : [],
    });
  },
  foretell(view, draft) {
    const row = draftPartner(view, draft);
    const array = draftArray(view, draft);
    return {
      fields: {
        ...partnerFields(view, draft),
        peer: { choices: peerChoices(view, draft), says: row ? standingWords(view, row) : '' },
        ...(row && array
          ? {
              addresses: addressField(view, draft, array, view.table('array').get(row.peer)!, row.addresses),
            }
          : {}),
      },
    };
  },
};

const renewSchema = z.object({
  array: z.string(),
  peer: z.string(),
  shownSecret: z.string().describe('What this array proves itself with from now on'),
  secretUntil: z.string().optional().describe('Its last day; never for no end'),
});

export const partnerRenew: OperationType<z.output<typeof renewSchema>> = {
  kind: 'partner.renew',
  verb: 'Renew a secret between partners',
  summary: 'The old secret vouches for the new one: the other side expects it in the same moment, and nothing stops.',
  schema: renewSchema,
  form: {
    columns: [3, 4, 7],
    fields: {
      array: the.array,
      peer: pick('Partner'),
      shownSecret: secret('Shows the secret'),
      secretUntil: such('It holds until', '2032-12-31'),
    },
  },
  title: (p) => `Renew what ${p.array} shows ${p.peer}`,
  units: (p) => [p],
  plan(view, p) {
    const { asks, array, peer, row } = askPartner(view, p);
    if (!array || !peer || !row) return refused(asks.refusals);
    const shown = askSecret(asks, p.shownSecret, 'shownSecret', `${array.name} and ${peer.name}`);
    const { secretUntil = null } = readQuota(asks, view, array, { secretUntil: p.secretUntil ?? 'never' });
    const why = unpartneredWhy(view, array.id, peer.id);
    if (why)
      asks.refuse({
        code: 'peer-not-established',
        field: 'peer',
        subject: subjectOf('array', array),
        message: `The old secret cannot vouch for a new one: ${why}.`,
        mend: 'Change it at both sides by hand.',
        offer: nextStep(
          'Change it by hand',
          'partner.configure',
          { array: array.name, peer: peer.name },
          'shownSecret',
        ),
      });
    const other = counterpartOf(view, row);
    if (asks.refusals.length > 0 || !shown || !other) return refused(asks.refusals);
    askDifferent(asks, array, { shownSecret: shown, expectedSecret: row.expectedSecret });
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `${array.name} shows ${peer.name} a new secret${secretUntil === null ? '' : `, until ${dateText(secretUntil - DAY)}`}`,
      takes: 2 * SECOND,
      effects: [
        changed('partner', row, { shownSecret: shown, secretUntil, ended: false }),
        changed('partner', other, { expectedSecret: shown }),
      ],
      notes: [`${peer.name} expects it in the same moment.`],
    });
  },
  foretell(view, draft) {
    const row = draftPartner(view, draft);
    return {
      fields: {
        array: { choices: arrayChoices(view) },
        peer: { choices: peerChoices(view, draft), says: row ? standingWords(view, row) : '' },
        shownSecret: { says: 'Another one than before. Never shown again.' },
        secretUntil: {
          says: row?.secretUntil ? `So far until ${dateText(row.secretUntil - DAY)}.` : 'Left empty it has no end.',
        },
      },
    };
  },
};

const revokeSchema = z.object({
  array: z.string(),
  peer: z.string(),
  confirm: z.string().optional().describe('The name of the other array, typed'),
});

export const partnerRevoke: OperationType<z.output<typeof revokeSchema>> = {
  kind: 'partner.revoke',
  verb: 'Forget a partner',
  summary:
    'The array forgets the other one and its secrets: what is copied between both stops. Data, images and used quota stay.',
  schema: revokeSchema,
  form: {
    columns: [3, 4, 7],
    fields: { array: the.array, peer: pick('Partner'), confirm: such('Type its name', 'to confirm') },
  },
  title: (p) => `${p.array} forgets ${p.peer}`,
  units: (p) => [p],
  plan(view, p) {
    const { asks, array, peer, row } = askPartner(view, p);
    if (!array || !peer || !row) return refused(asks.refusals);
    const stops = [...view.table('replication').values()].filter(({ primaries, secondaries }) => {
      const arrays = [...primaries, ...secondaries].map((id) => view.table('volume').get(id)!.array);
      return arrays.includes(array.id) && arrays.includes(peer.id);
    });
    if ((p.confirm ?? '').trim().toLowerCase() !== peer.name.toLowerCase())
      asks.refuse({
        code: 'peer-confirm-forget',
        field: 'confirm',
        subject: subjectOf('array', array),
        message:
          stops.length === 0
            ? `${array.name} would forget ${peer.name} and its secrets.`
            : `${stops.map(({ name }) => name).join(', ')} would stop: data and images stay at both sides.`,
        mend: `Type ${peer.name} to confirm.`,
      });
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `${array.name} forgets ${peer.name}`,
      takes: 2 * SECOND,
      effects: [deleted('partner', row)],
      notes: [
        stops.length === 0
          ? 'Nothing is copied between both.'
          : `${stops.map(({ name }) => name).join(', ')} ${stops.length === 1 ? 'breaks' : 'break'} off.`,
        ...(counterpartOf(view, row) ? [`${peer.name} still knows ${array.name}, and finds itself forgotten.`] : []),
      ],
    });
  },
  foretell(view, draft) {
    const row = draftPartner(view, draft);
    return {
      fields: {
        array: { choices: arrayChoices(view) },
        peer: { choices: peerChoices(view, draft), says: row ? standingWords(view, row) : '' },
        confirm: { says: 'Capitals and small letters are the same.' },
      },
    };
  },
};
