import { z } from 'zod';
import { folded, pick, secret, the } from '../operation/form';
import { lossNotes, mappingsOfHosts, pathsAround, refuseCut } from '../attach/losses';
import { barredWrites } from '../attach/write-access';
import { claimed, initiatorText, readInitiators } from '../attach/initiators';
import { changed, created, deleted, type Effect } from '../estate/effects';
import { accessLevels, rowOf, type Host, type Initiator } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { volumeOf } from '../estate/relations';
import { arrayChoices, draftHost, draftText, hostChoices } from '../operation/draft';
import { inquire, lookUp } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';
import { askSecret, refuseSameBothWays } from '../iscsi/secret';
import { targetsOf, ruledAnew } from '../iscsi/target';
import { capital } from '../units/counted';

const schema = z.object({
  host: z.string(),
  initiator: z.string().describe('The name on record'),
  newName: z.string().optional().describe('The name it shall be'),
  array: z.string().optional().describe('Whose access is meant'),
  access: z.enum(accessLevels).optional(),
  chapName: z.string().optional().describe('By which it proves itself; without it its own name'),
  chapSecret: z.string().optional().describe('What arrays expect of it; none takes it away'),
});
type Params = z.output<typeof schema>;
const levelWords = { 'read-write': 'may read and write', 'read-only': 'may only read', none: 'is kept out' };

const initiatorNamed = (view: EstateView, host: Host | undefined, name: string): Initiator | undefined =>
  host &&
  view
    .table('initiator')
    .by('host', host.id)
    .find((row) => row.name === name || row.id === name || initiatorText(row.name) === name);

export const initiatorConfigure: OperationType<Params> = {
  kind: 'initiator.configure',
  verb: 'Change an initiator',
  summary: 'Corrects an initiator’s name on record, says what an array grants it, and what secret it must prove.',
  schema,
  form: {
    columns: [5, 6, 7],
    fields: {
      host: the.host,
      initiator: pick('On record'),
      newName: 'Shall be',
      array: the.array,
      access: 'It',
      chapName: folded('CHAP name'),
      chapSecret: folded(secret('Secret')),
    },
  },
  title: (p) => `Change initiator ${p.initiator} of ${p.host}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const host = asks.find('host', p.host, 'host');
    const initiator = initiatorNamed(view, host, p.initiator);
    const array = p.array ? asks.find('array', p.array, 'array') : undefined;
    if (host && !initiator)
      asks.refuse({
        code: 'initiator-unknown',
        field: 'initiator',
        subject: { kind: 'initiator', name: p.initiator },
        message: `${host.name} has no initiator ${p.initiator} on record.`,
        mend: `On record: ${
          view
            .table('initiator')
            .by('host', host.id)
            .map((row) => initiatorText(row.name))
            .join(', ') || 'none'
        }.`,
      });
    if (p.access && !p.array)
      asks.refuse({
        code: 'parameter-missing',
        field: 'array',
        subject: { kind: 'operation', name: 'initiator.configure' },
        message: 'Access is granted by an array, and none is named.',
        mend: 'Name the array.',
      });
    const [newName] = p.newName && host ? readInitiators(view, asks, [p.newName], context.month, host.id) : [];
    const twin = newName === undefined ? undefined : view.table('initiator').by('iqn', newName)[0];
    if (twin && twin.host === host?.id && twin.id !== initiator?.id)
      asks.refuse({
        code: 'duplicate-host-name',
        field: 'newName',
        subject: { kind: 'initiator', id: twin.id, name: twin.name },
        message: `${host.name} has ${initiatorText(twin.name)} on record already.`,
        mend: `Take ${p.initiator} off the record instead, with the names of the host.`,
        offer: nextStep(`Change ${host.name}`, 'host.configure', { host: host.name }),
      });
    const secret = askSecret(asks, p.chapSecret, 'chapSecret', p.initiator);
    refuseSameBothWays(view, asks, secret, { proves: 'host', field: 'chapSecret', whose: p.initiator });
    if (asks.refusals.length > 0 || !host || !initiator) return refused(asks.refusals);
    const effects: Effect[] = [];
    const after = {
      name: newName ?? initiator.name,
      chapName: p.chapName ?? initiator.chapName,
      chapSecret: secret === undefined ? initiator.chapSecret : secret,
    };
    effects.push(changed('initiator', initiator, after));
    if (after.name !== initiator.name) effects.push(...ruledAnew(view, { [initiator.name]: after.name }));
    const port = newName ? view.table('interface').by('wwpn', newName)[0] : undefined;
    const claims = claimed(
      host.id,
      port && port.host === null ? [port] : [],
      view
        .table('interface')
        .by('host', host.id)
        .map((row) => row.name),
    );
    effects.push(...claims.effects);
    if (array && p.access) {
      const rule = view
        .table('access')
        .by('initiator', initiator.id)
        .find((row) => row.array === array.id);
      if (p.access === 'read-write') effects.push(...(rule ? [deleted('access', rule)] : []));
      else if (rule) effects.push(changed('access', rule, { level: p.access }));
      else
        effects.push(
          created(
            'access',
            rowOf('access', { id: context.newId('access'), array: array.id, initiator: initiator.id, level: p.access }),
          ),
        );
    }
    const around = pathsAround(view, effects, mappingsOfHosts(view, [host.id]));
    refuseCut(asks, around, subjectOf('host', host), 'access');
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const overlay = new Overlay(view);
    overlay.apply(effects);
    const notes = [...claims.notes, ...lossNotes(around), ...barredWrites(view, overlay, [host.id])];
    const reused =
      secret &&
      [...view.table('initiator').values()].find((row) => row.id !== initiator.id && row.chapSecret === secret);
    if (reused)
      notes.push(`${initiatorText(reused.name)} proves itself with the same secret; each should have its own.`);
    // A secret is asked for only where a target demands it.
    const open = mappingsOfHosts(view, [host.id]).map((mapping) => volumeOf(view, mapping).array);
    const idle = secret
      ? [...new Set(open)]
          .map((id) => view.table('array').get(id)!)
          .filter((row) => targetsOf(view, row.id).every((target) => target.auth === 'none'))
      : [];
    if (idle.length > 0)
      notes.push(
        `${idle.map((row) => row.name).join(', ')} ${idle.length === 1 ? 'demands' : 'demand'} no CHAP: the secret is kept on record, and asked for once ${idle.length === 1 ? 'it does' : 'they do'}.`,
      );
    const parts = [
      ...(newName ? [`is now ${initiatorText(newName)}`] : []),
      ...(array && p.access ? [`${levelWords[p.access]} at ${array.name}`] : []),
      ...(secret === undefined ? [] : [secret === null ? 'has no secret on record' : 'has a new secret on record']),
    ];
    return planned({
      device: array ? { kind: 'array', id: array.id, name: array.name } : { kind: 'record', id: '', name: 'Trabes' },
      title: `${initiatorText(initiator.name)} ${parts.join(', ') || 'stays as it is'}`,
      takes: 2 * SECOND,
      effects,
      notes,
    });
  },
  foretell(view, draft) {
    const host = draftHost(view, draft);
    const fields: Foretold['fields'] = {
      host: { choices: hostChoices(view) },
      initiator: {},
      newName: {},
      array: { choices: arrayChoices(view), says: 'Only where access is to be set.' },
      access: {
        choices: accessLevels.map((value) => ({
          value,
          label: capital(levelWords[value]),
        })),
      },
      chapName: { says: 'Empty: its own name.' },
      chapSecret: { says: 'Never shown again. Write none to take it away.' },
    };
    if (!host) return { fields };
    const own = view.table('initiator').by('host', host.id);
    fields.initiator!.choices = own.map((row) => ({ value: row.name, label: initiatorText(row.name) }));
    if (own.length === 1) fields.initiator!.suggested = own[0]!.name;
    const initiator = initiatorNamed(view, host, draftText(draft, 'initiator'));
    if (!initiator) return { fields };
    fields.initiator!.says = initiator.chapSecret ? 'Has a secret.' : 'Has no secret.';
    fields.newName!.says =
      host.presents && host.presents !== initiator.name
        ? `${host.name} really sends ${host.presents}.`
        : 'As the host shows it.';
    if (host.presents && host.presents !== initiator.name && initiator.name.startsWith('iqn'))
      fields.newName!.suggested = host.presents;
    const array = lookUp(view, 'array', draftText(draft, 'array'));
    if (array) {
      const rule = view
        .table('access')
        .by('initiator', initiator.id)
        .find((row) => row.array === array.id);
      fields.access!.suggested = rule?.level ?? 'read-write';
      fields.access!.says = `Now it ${levelWords[rule?.level ?? 'read-write']} at ${array.name}.`;
    }
    return { fields };
  },
};
