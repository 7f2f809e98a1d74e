import { z } from 'zod';
import { secret, such } from '../operation/form';
import { changed, created } from '../estate/effects';
import { rowOf } from '../estate/entities';
import { lossNotes, mappingsOfArray, pathsAround, refuseCut } from '../attach/losses';
import { parseAddress } from '../network/address';
import { byName, draftText } from '../operation/draft';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { SECOND } from '../units/duration';
import { askSecret, refuseSameBothWays } from '../iscsi/secret';

const schema = z.object({
  name: z.string(),
  ip: z.string().optional(),
  account: z.string().optional().describe('A CHAP name it shall know'),
  secret: z.string().optional().describe('Of the account; none drops it'),
});
type Params = z.output<typeof schema>;

export const authServerConfigure: OperationType<Params> = {
  kind: 'auth-server.configure',
  verb: 'Set up an authentication server',
  summary: 'Puts a server on record that judges CHAP for arrays, and the accounts it knows.',
  schema,
  form: {
    columns: [5, 6, 7],
    fields: {
      name: 'Server',
      ip: such('Address', '10.40.1.6'),
      account: 'Account',
      secret: secret('Secret'),
    },
  },
  title: (p) => `Set up authentication server ${p.name}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const present = lookUp(view, 'authServer', p.name);
    const name = present ? present.name : asks.freeName('authServer', p.name);
    const ip = p.ip ? asks.value(parseAddress(p.ip, true), 'ip', { kind: 'authServer', name: p.ip })?.ip : present?.ip;
    const secret = askSecret(asks, p.secret, 'secret', p.account ?? p.name);
    refuseSameBothWays(view, asks, secret, { proves: 'host', field: 'secret', whose: p.account ?? p.name });
    if (!present && !p.ip)
      asks.refuse({
        code: 'parameter-missing',
        field: 'ip',
        subject: { kind: 'authServer', name: p.name },
        message: 'A new server needs an address.',
        mend: 'Write it, such as 10.40.1.6.',
      });
    if (p.account && secret === undefined && asks.refusals.length === 0)
      asks.refuse({
        code: 'parameter-missing',
        field: 'secret',
        subject: { kind: 'authServer', name: p.name },
        message: `Account ${p.account} has no secret.`,
        mend: 'Write one of 12 octets or more, or none to drop the account.',
      });
    if (asks.refusals.length > 0 || !name || !ip) return refused(asks.refusals);
    const others = (present?.accounts ?? []).filter((account) => account.name !== p.account);
    const accounts =
      p.account && secret ? [...others, { name: p.account, secret }] : p.account ? others : (present?.accounts ?? []);
    const row = rowOf('authServer', {
      id: present?.id ?? context.newId('authServer'),
      name,
      ip,
      state: present?.state ?? 'up',
      accounts,
    });
    const effects = [present ? changed('authServer', present, row) : created('authServer', row)];
    const arrays = new Set(
      view
        .table('target')
        .by('authServer', row.id)
        .map((target) => target.array),
    );
    const around = pathsAround(
      view,
      effects,
      [...arrays].flatMap((array) => mappingsOfArray(view, array)),
    );
    refuseCut(asks, around, { kind: 'authServer', name }, 'secret');
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: { kind: 'record', id: '', name },
      title: `Authentication server ${name} at ${ip}: ${accounts.length} ${accounts.length === 1 ? 'account' : 'accounts'}`,
      takes: SECOND,
      effects,
      notes: lossNotes(around),
    });
  },
  foretell(view, draft): Foretold {
    const server = lookUp(view, 'authServer', draftText(draft, 'name'));
    return {
      fields: {
        name: {
          choices: [...view.table('authServer').values()]
            .sort(byName)
            .map((row) => ({ value: row.name, label: row.name })),
          says: server ? `Knows ${server.accounts.map((account) => account.name).join(', ') || 'nobody'}.` : '',
        },
        ip: server ? { suggested: server.ip } : {},
        account: { says: 'The CHAP name of a host; without one its IQN.' },
        secret: { says: 'Never shown again.' },
      },
    };
  },
};
