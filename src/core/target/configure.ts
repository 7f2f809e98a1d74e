import { z } from 'zod';
import { digestChoices } from '../iscsi/login';
import { lossNotes, mappingsOfArray, pathsAround, refuseCut } from '../attach/losses';
import { changed } from '../estate/effects';
import { digestOffers, type ArrayRow } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayChoices, byName, draftArray, draftText } from '../operation/draft';
import { inquire } from '../operation/inquiry';
import { movedWords, secretWords, type FieldWords } from '../operation/moved';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';
import { askSecret, refuseSameBothWays } from '../iscsi/secret';

const digest = z.enum(digestOffers).optional();
const schema = z.object({
  array: z.string(),
  auth: z.enum(['none', 'one-way', 'mutual']).optional().describe('What initiators must prove at login'),
  authServer: z.string().optional().describe('Who judges the proof; none for the array itself'),
  chapName: z.string().optional().describe('By which the array proves itself'),
  chapSecret: z.string().optional().describe('By which the array proves itself; 12 octets at least'),
  headerDigest: digest,
  dataDigest: digest,
  isns: z.boolean().optional().describe('Registers with the name servers'),
  pathAccess: z.enum(['asymmetric', 'symmetric']).optional(),
});
type Params = z.output<typeof schema>;

const authWords = { none: 'no authentication', 'one-way': 'CHAP one-way', mutual: 'CHAP both ways' };

const targetWords = (view: EstateView): FieldWords<ArrayRow> => ({
  auth: (auth) => authWords[auth],
  authServer: (id) =>
    id === null ? 'judges logins itself' : `logins judged by ${view.table('authServer').get(id)!.name}`,
  chapName: (name) => (name === '' ? 'its CHAP name is its target name' : `CHAP name ${name}`),
  chapSecret: secretWords('secret to prove itself with'),
  headerDigest: (offer) => `header digest ${offer}`,
  dataDigest: (offer) => `data digest ${offer}`,
  isns: (on) => (on ? 'registers with the name servers' : 'registers no longer'),
  pathAccess: (access) => (access === 'symmetric' ? 'all paths alike' : 'paths of the owner are the best'),
});

export const targetConfigure: OperationType<Params> = {
  kind: 'target.configure',
  verb: 'Set up a target',
  summary: 'Says what an array demands of initiators at login, how it proves itself, and which digests it takes.',
  schema,
  title: (p) => `Set up the target of ${p.array}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const server =
      p.authServer && p.authServer !== 'none' ? asks.find('authServer', p.authServer, 'authServer') : undefined;
    const secret = askSecret(asks, p.chapSecret, 'chapSecret', p.array);
    if (!array) return refused(asks.refusals);
    const after: ArrayRow = {
      ...array,
      auth: p.auth ?? array.auth,
      authServer: p.authServer === 'none' ? null : (server?.id ?? array.authServer),
      chapName: p.chapName ?? array.chapName,
      chapSecret: secret === undefined ? array.chapSecret : secret,
      headerDigest: p.headerDigest ?? array.headerDigest,
      dataDigest: p.dataDigest ?? array.dataDigest,
      isns: p.isns ?? array.isns,
      pathAccess: p.pathAccess ?? array.pathAccess,
    };
    if (after.auth === 'mutual' && after.chapSecret === null)
      asks.refuse({
        code: 'chap-secret-missing',
        field: 'chapSecret',
        subject: subjectOf('array', array),
        message: `${array.name} cannot prove itself without a secret.`,
        mend: 'Give it one of 12 octets or more.',
      });
    refuseSameBothWays(view, asks, after.chapSecret, { proves: 'target', field: 'chapSecret', whose: array.name });
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const effects = [changed('array', array, after)];
    const around = pathsAround(view, effects, mappingsOfArray(view, array.id));
    refuseCut(asks, around, subjectOf('array', array), 'auth');
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Target of ${array.name}: ${movedWords(array, after, targetWords(view))}`,
      takes: 2 * SECOND,
      effects,
      notes: lossNotes(around),
    });
  },
  foretell(view, draft) {
    const fields: Foretold['fields'] = {
      array: { choices: arrayChoices(view) },
      auth: {
        choices: (['none', 'one-way', 'mutual'] as const).map((value) => ({
          value,
          label: authWords[value][0]!.toUpperCase() + authWords[value].slice(1),
        })),
      },
      authServer: {
        choices: [
          { value: 'none', label: 'The array itself' },
          ...[...view.table('authServer').values()].sort(byName).map((row) => ({ value: row.name, label: row.name })),
        ],
      },
      chapName: { says: 'Empty: its target name.' },
      chapSecret: { says: 'Never shown again.' },
      headerDigest: { choices: digestChoices, says: 'Both sides must share one.' },
      dataDigest: { choices: digestChoices },
      isns: { says: 'With the name servers, so that hosts find it there.' },
      pathAccess: {
        choices: [
          { value: 'asymmetric', label: 'Owner best' },
          { value: 'symmetric', label: 'All alike' },
        ],
      },
    };
    const array = draftArray(view, draft);
    if (!array) return { fields };
    fields.array!.says = array.iqn;
    fields.auth!.suggested = array.auth;
    fields.authServer!.suggested = array.authServer ? view.table('authServer').get(array.authServer)!.name : 'none';
    fields.headerDigest!.suggested = array.headerDigest;
    fields.dataDigest!.suggested = array.dataDigest;
    fields.pathAccess!.suggested = array.pathAccess;
    fields.chapSecret!.says = array.chapSecret
      ? 'It has one; write another to change it.'
      : 'Needed for mutual CHAP. Never shown again.';
    const auth = draftText(draft, 'auth') || array.auth;
    const around = pathsAround(
      view,
      [changed('array', array, { auth: auth as ArrayRow['auth'] })],
      mappingsOfArray(view, array.id),
    );
    fields.auth!.says = `Paths ${around.before} → ${around.after}${around.losses.length > 0 ? `; ${[...new Set(around.losses.map((loss) => loss.host))].slice(0, 3).join(', ')} could not log in` : ''}.`;
    return { fields };
  },
};
