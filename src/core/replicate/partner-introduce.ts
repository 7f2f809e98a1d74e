import { z } from 'zod';
import { created } from '../estate/effects';
import { rowOf, type ArrayRow } from '../estate/entities';
import { type EstateView } from '../estate/estate';
import { askSecret } from '../iscsi/secret';
import { arrayChoices, draftArray, draftText } from '../operation/draft';
import { pick, secret, such, the } from '../operation/form';
import { inquire, lookUp } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { planned, refused, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { dateText } from '../units/date';
import { DAY, SECOND, type Milliseconds } from '../units/duration';
import { partnerAt } from '../copies/quota';

import {
  addressField,
  askDifferent,
  askFits,
  offerWords,
  partnerFields,
  quotaFields,
  quotaParams,
  readAddresses,
  readQuota,
} from './partner-fields';

/** For so long a first introduction waits for the other side. */
const OFFER_HOLDS: Milliseconds = DAY;

const introduceSchema = z.object({
  array: z.string().describe('The array that is told'),
  peer: z.string().describe('The array that it is told of'),
  addresses: z.array(z.string()).min(1, 'name at least one address').describe('Where the other one answers'),
  shownSecret: z.string().describe('What this array proves itself with'),
  expectedSecret: z.string().describe('What the other must prove itself with'),
  ...quotaParams,
});

export const partnerIntroduce: OperationType<z.output<typeof introduceSchema>> = {
  kind: 'partner.introduce',
  verb: 'Introduce an array to another',
  summary:
    'Tells one array of another with which it is to copy: where it answers, a secret each way, what it may use. Done at both sides.',
  schema: introduceSchema,
  form: {
    columns: [3, 4, 7],
    fields: {
      array: the.array,
      peer: pick('Partner'),
      addresses: such('Its addresses', '10.41.1.11'),
      shownSecret: secret('Shows the secret'),
      expectedSecret: secret('Expects the secret'),
      ...quotaFields,
    },
  },
  title: (p) => `Introduce ${p.peer} to ${p.array}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const peer = asks.find('array', p.peer, 'peer');
    const addresses = readAddresses(asks, p.addresses);
    const whose = `${p.array} and ${p.peer}`;
    const shownSecret = askSecret(asks, p.shownSecret, 'shownSecret', whose);
    const expectedSecret = askSecret(asks, p.expectedSecret, 'expectedSecret', whose);
    const quota = array ? readQuota(asks, view, array, p) : {};
    if (asks.refusals.length === 0 && (!shownSecret || !expectedSecret))
      asks.refuse({
        code: 'parameter-missing',
        field: shownSecret ? 'expectedSecret' : 'shownSecret',
        subject: { kind: 'operation', name: whose },
        message: `Between ${whose} a secret is missing.`,
        mend: 'Write one for each way, of 12 octets or more.',
      });
    if (asks.refusals.length > 0 || !array || !peer) return refused(asks.refusals);
    if (array.id === peer.id)
      asks.refuse({
        code: 'peer-self',
        field: 'peer',
        subject: subjectOf('array', array),
        message: 'That is this array.',
        mend: 'Choose the other one.',
      });
    const present = partnerAt(view, array.id, peer.id);
    if (present)
      asks.refuse({
        code: 'peer-already-peered',
        field: 'peer',
        subject: subjectOf('array', array),
        message: `${array.name} knows ${peer.name} since ${dateText(present.since)}.`,
        mend: 'Change what it knows instead.',
        offer: nextStep(`Change what it knows of ${peer.name}`, 'partner.configure', {
          array: array.name,
          peer: peer.name,
        }),
      });
    if (asks.refusals.length > 0) return refused(asks.refusals);
    askDifferent(asks, array, { shownSecret: shownSecret!, expectedSecret: expectedSecret! });
    const counterpart = partnerAt(view, peer.id, array.id);
    if (counterpart && context.now - counterpart.since > OFFER_HOLDS)
      asks.refuse({
        code: 'peer-offer-over',
        field: 'peer',
        subject: subjectOf('array', peer),
        message: `${peer.name} was told of ${array.name} on ${dateText(counterpart.since)}, which holds for a day.`,
        mend: `Tell it anew first.`,
        offer: nextStep(
          `Tell ${peer.name} anew`,
          'partner.configure',
          { array: peer.name, peer: array.name },
          'addresses',
        ),
      });
    const row = rowOf('partner', {
      id: context.newId('partner'),
      name: peer.name,
      array: array.id,
      peer: peer.id,
      addresses,
      shownSecret: shownSecret!,
      expectedSecret: expectedSecret!,
      ...quota,
      since: context.now,
    });
    if (asks.refusals.length === 0) askFits(view, asks, row);
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: counterpart ? `${array.name} and ${peer.name} are partners` : `${array.name} is told of ${peer.name}`,
      takes: 2 * SECOND,
      effects: [created('partner', row)],
      notes: [
        row.offered.length === 0
          ? `${peer.name} may use nothing here: it can take copies, but give none.`
          : `${peer.name} may use ${offerWords(view, row)}.`,
        ...(counterpart ? [] : [`Within a day ${peer.name} must be told of ${array.name}.`]),
      ],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const peer = lookUp(view, 'array', draftText(draft, 'peer'));
    return {
      fields: {
        ...partnerFields(view, draft),
        peer: {
          choices: arrayChoices(view).map((choice) => {
            const one = lookUp(view, 'array', choice.value)!;
            const unfit =
              one.id === array?.id
                ? 'is this array'
                : array && partnerAt(view, array.id, one.id)
                  ? 'is known already'
                  : '';
            return unfit ? { ...choice, unfit } : choice;
          }),
          says: array && peer ? known(view, array, peer) : 'The array with which it is to copy.',
        },
        ...(peer && array ? { addresses: addressField(view, draft, array, peer) } : {}),
      },
    };
  },
};

const known = (view: EstateView, array: ArrayRow, peer: ArrayRow): string =>
  partnerAt(view, peer.id, array.id)
    ? `${peer.name} was told of ${array.name}: then both are partners.`
    : `${peer.name} must be told of ${array.name} too, within a day.`;
