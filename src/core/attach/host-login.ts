import { z } from 'zod';
import { pick, such, the } from '../operation/form';
import { changed, created, deleted, type Effect } from '../estate/effects';
import { rowOf, type ArrayRow, type Host, type Port, type Target } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import { portalsOf, targetsOf, targetText } from '../iscsi/target';
import { listensAt, lookUpAddress, splitPortal } from '../network/portal';
import { arrayChoices, draftArray, draftHost, draftText, hostChoices } from '../operation/draft';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType, type PlanContext } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';
import { lossNotes, mappingsOfHosts, pathsAround, refuseCut } from './losses';
import { sessionBook } from './sessions';
import { wasTold } from './told';
import { stopped } from '../units/counted';

const loginSchema = z.object({
  host: z.string(),
  array: z.string().optional(),
  target: z.string().optional().describe('One of its targets; without it all that it offers'),
  address: z.string().optional().describe('Of one of its portals, instead of its name'),
});
const logoutSchema = z.object({ host: z.string(), array: z.string() });

function askTarget(view: EstateView, asks: Inquiry, p: z.output<typeof loginSchema>): ArrayRow | undefined {
  if (p.array) return asks.find('array', p.array, 'array');
  const address = p.address?.trim() ?? '';
  const port = lookUpAddress(view, address);
  if (port) {
    const { tcp } = splitPortal(address);
    const answers = listening(view, port);
    if (tcp === null || answers.includes(tcp)) return arrayOf(view, port);
    asks.refuse({
      code: 'portal-unreachable',
      field: 'address',
      subject: subjectOf('port', port),
      message: `Nothing listens at TCP port ${tcp} of ${splitPortal(address).ip}: connection refused.`,
      mend: `${port.name} answers at ${answers.join(' and ')}.`,
    });
    return undefined;
  }
  asks.refuse({
    code: 'portal-unreachable',
    field: 'address',
    subject: { kind: 'port', name: address },
    message: address ? `No array listens at ${address}.` : 'Neither an array nor an address is named.',
    mend: 'Write the address of a portal, such as 10.40.1.11.',
  });
  return undefined;
}

/** TCP ports at which something answers on an array port. */
function listening(view: EstateView, port: Port): number[] {
  const own = targetsOf(view, port.array)
    .flatMap((target) => portalsOf(view, target))
    .filter((portal) => portal.port.id === port.id)
    .map(({ tcp }) => tcp);
  return [...new Set(own.length > 0 ? own : [listensAt(port)])];
}

function loginEffects(
  view: EstateView,
  host: Host,
  array: ArrayRow,
  target: Target | undefined,
  context: PlanContext,
): Effect[] {
  if (wasTold(view, host, array.id, target?.id)) return [];
  const row = { id: context.newId('login'), host: host.id, array: array.id, target: target?.id ?? null };
  return [created('login', rowOf('login', row))];
}

/** What a login would find: sessions, and the first reason for those that are missing. */
function outcome(
  view: EstateView,
  host: Host,
  array: ArrayRow,
  target: Target | undefined,
  effects: readonly Effect[],
) {
  const overlay = new Overlay(view);
  overlay.apply(effects);
  const met = sessionBook(overlay)(host.id, array.id);
  // Told to log in at one target, a host asks for nothing else.
  const asked = (one: { transport: string; target: string | null }): boolean =>
    target === undefined || (one.transport === 'iscsi' && one.target === (target.main ? null : target.id));
  const [up, missing] = [met.up.filter(asked), met.missing.filter(asked)];
  const wanted = missing.filter((gap) => gap.reason !== 'port-role-off' && gap.transport !== 'fc');
  return { up: up.filter((session) => session.transport !== 'fc').length, missing: wanted };
}

export const hostLogin: OperationType<z.output<typeof loginSchema>> = {
  kind: 'host.login',
  verb: 'Log a host in',
  summary:
    'Quick connect: the host discovers an array by name or address and logs in from every fit interface at every portal it is offered.',
  schema: loginSchema,
  form: {
    columns: [5, 6, 7],
    fields: {
      host: the.host,
      array: the.array,
      target: pick('Target'),
      address: such('Or address', '10.40.1.11'),
    },
  },
  title: (p) => `Log ${p.host} in at ${p.array ?? p.address ?? 'nowhere'}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const host = asks.find('host', p.host, 'host');
    const array = askTarget(view, asks, p);
    const target = array && p.target ? asks.find('target', p.target, 'target', array) : undefined;
    if (!host || !array || asks.refusals.length > 0) return refused(asks.refusals);
    const effects = loginEffects(view, host, array, target, context);
    const { up, missing } = outcome(view, host, array, target, effects);
    const where = target ? targetText(view, target) : array.name;
    if (up === 0) {
      const [first] = missing;
      asks.refuse({
        code: first?.status === undefined ? (first?.reason ?? 'no-route') : first.reason,
        field: 'array',
        subject: subjectOf('host', host),
        message: first ? first.message : `${host.name} shares no subnet with a portal of ${where}.`,
        mend: first
          ? 'Mend that and log in again; the trace shows where it breaks.'
          : 'Give the host an interface in the subnet of a portal.',
      });
      return refused(asks.refusals);
    }
    return planned({
      device: { kind: 'host', id: host.id, name: host.name },
      title: `Log ${host.name} in at ${where}: ${up} of ${up + missing.length} sessions`,
      takes: 3 * SECOND,
      effects,
      notes: missing.slice(0, 3).map((gap) => stopped(gap.message)),
    });
  },
  foretell(view, draft, context) {
    const fields: Foretold['fields'] = {
      host: { choices: hostChoices(view) },
      array: { choices: arrayChoices(view) },
      target: {},
      address: { says: 'Instead of the name: any portal tells all of them.' },
    };
    const host = draftHost(view, draft);
    const port = lookUpAddress(view, draftText(draft, 'address'));
    const array = draftArray(view, draft) ?? (port && arrayOf(view, port));
    if (host)
      fields.host!.says = host.autoLogin
        ? 'Logs in by itself where something is mapped to it.'
        : 'Logs in only where it is told to.';
    if (!host || !array) return { fields };
    fields.target!.choices = targetsOf(view, array.id).map((row) => ({
      value: row.name,
      label: row.main ? `${row.name}, the array’s own` : row.name,
    }));
    fields.target!.says = 'Empty: all that the array offers it.';
    const target = lookUp(view, 'target', draftText(draft, 'target'), array.id);
    const { up, missing } = outcome(view, host, array, target, loginEffects(view, host, array, target, context));
    fields.array!.says = `${up} of ${up + missing.length} sessions.${missing[0] ? ` ${missing[0].message}.` : ''}`;
    return { fields };
  },
};

export const hostLogout: OperationType<z.output<typeof logoutSchema>> = {
  kind: 'host.logout',
  verb: 'Log a host out',
  summary: 'Ends the sessions of a host at an array, and keeps it from logging in again by itself.',
  schema: logoutSchema,
  form: {
    columns: [5, 6, 7],
    fields: {
      host: the.host,
      array: the.array,
    },
  },
  title: (p) => `Log ${p.host} out of ${p.array}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const host = asks.find('host', p.host, 'host');
    const array = asks.find('array', p.array, 'array');
    if (!host || !array) return refused(asks.refusals);
    const logins = view.table('login').by('host', host.id);
    const book = sessionBook(view);
    // A host that logged in by itself is told from now on; elsewhere it stays logged in.
    const elsewhere = host.autoLogin
      ? [...view.table('array').values()].filter(
          (row) =>
            row.id !== array.id &&
            !logins.some((login) => login.array === row.id) &&
            book(host.id, row.id).up.some((session) => session.transport !== 'fc'),
        )
      : [];
    const effects: Effect[] = [
      ...logins.filter((row) => row.array === array.id).map((row) => deleted('login', row)),
      ...elsewhere.map((row) =>
        created('login', rowOf('login', { id: context.newId('login'), host: host.id, array: row.id })),
      ),
      ...(host.autoLogin ? [changed('host', host, { autoLogin: false })] : []),
    ];
    const around = pathsAround(view, effects, mappingsOfHosts(view, [host.id]));
    refuseCut(asks, around, subjectOf('host', host), 'array');
    if (asks.refusals.length > 0) return refused(asks.refusals);
    return planned({
      device: { kind: 'host', id: host.id, name: host.name },
      title: `Log ${host.name} out of ${array.name}`,
      takes: 2 * SECOND,
      effects,
      notes: lossNotes(around),
    });
  },
  foretell: (view) => ({
    fields: {
      host: { choices: hostChoices(view) },
      array: { choices: arrayChoices(view), says: 'Its sessions there end.' },
    },
  }),
};
