import { z } from 'zod';
import { folded, pick, several, the } from '../operation/form';
import { announced } from '../attach/host-rescan';
import { lossNotes, mappingsOfArray, pathsAround, refuseCut } from '../attach/losses';
import { changed, created, deleted } from '../estate/effects';
import { rowOf, type ArrayRow, type Subsystem } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { hostOf } from '../estate/relations';
import { parseNqn } from '../naming/nqn';
import { nearMiss } from '../naming/nearness';
import { arrayChoices, byName, draftArray, draftList, draftText, nextName } from '../operation/draft';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { counted } from '../units/counted';
import { movedWords, type FieldWords, withNamed } from '../operation/moved';
import { planned, refused, type Choice, type Draft, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';

export const NQN_AUTHORITY = 'nqn.2031-04.example.skarholt';
const base = z.object({ array: z.string(), name: z.string() });
const policy = z.object({
  allowed: z.array(z.string()).optional().describe('Hosts, or host NQNs'),
  allowAny: z.boolean().optional().describe('Let every host in'),
  ports: z.union([z.literal('all'), z.array(z.string()).min(1, 'choose at least one port')]).optional(),
  controllerLimit: z.coerce.number().int().min(1).max(65535).optional().describe('Most controllers at a time'),
  queueLimit: z.coerce.number().int().min(1).max(65535).optional().describe('Most I/O queues of a controller'),
});
const createSchema = base.extend({ nqn: z.string().optional() }).extend(policy.shape);
const configureSchema = base.extend(policy.shape);

/** NQNs of hosts given by name, or as they are. A name that nearly is a host's is noted. */
function readAllowed(
  view: EstateView,
  asks: Inquiry,
  refs: readonly string[],
  month: string,
  notes: string[],
): string[] {
  const known = [...view.table('host').values()].flatMap((host) => host.nqn ?? []);
  return [
    ...new Set(
      refs.flatMap((ref) => {
        const host = lookUp(view, 'host', ref);
        if (host) {
          const nqn = view
            .table('initiator')
            .by('host', host.id)
            .find((row) => row.name.startsWith('nqn.'))?.name;
          if (!nqn)
            asks.refuse({
              code: 'no-initiator',
              field: 'allowed',
              subject: subjectOf('host', host),
              message: `${host.name} has no host NQN on record.`,
              mend: 'Register it first.',
            });
          return nqn ?? [];
        }
        const nqn = asks.value(parseNqn(ref, 'host', month), 'allowed', { kind: 'initiator', name: ref });
        if (!nqn || known.includes(nqn)) return nqn ?? [];
        const otherCase = known.find((one) => one.toLowerCase() === nqn.toLowerCase());
        const near = otherCase ? null : nearMiss(nqn, known);
        notes.push(
          otherCase
            ? `${nqn} is nobody’s; ${otherCase} is, and capitals count.`
            : near
              ? `${nqn} is nobody’s; ${near.known} differs in ${near.distance} ${near.distance === 1 ? 'place' : 'places'}.`
              : `${nqn} is no host’s here.`,
        );
        return nqn;
      }),
    ),
  ];
}

function readPorts(
  asks: Inquiry,
  array: ArrayRow | undefined,
  wanted: z.output<typeof policy>['ports'],
): string[] | null | undefined {
  if (wanted === undefined || !array) return undefined;
  if (wanted === 'all') return null;
  return wanted.flatMap((ref) => {
    const port = asks.find('port', ref, 'ports', array);
    if (port && port.role !== 'nvme-tcp')
      asks.refuse({
        code: 'port-role-off',
        field: 'ports',
        subject: subjectOf('port', port),
        message: `${port.name} does not serve NVMe/TCP.`,
        mend: 'Give it that role first, or choose another port.',
      });
    return port?.id ?? [];
  });
}

const hostText = (view: EstateView, nqn: string): string => {
  const row = view.table('initiator').by('iqn', nqn)[0];
  return (row && hostOf(view, row).name) ?? nqn;
};
const hostChoicesFor = (view: EstateView): Choice[] =>
  [...view.table('host').values()]
    .filter((host) => host.nqn !== null)
    .sort(byName)
    .map((host) => ({ value: host.name, label: host.name }));

export const subsystemCreate: OperationType<z.output<typeof createSchema>> = {
  kind: 'subsystem.create',
  verb: 'Make a subsystem',
  summary: 'Offers an NVMe subsystem at ports of an array, and says which hosts may connect.',
  schema: createSchema,
  form: {
    columns: [4, 5, 6, 7],
    fields: {
      array: the.array,
      name: 'Name',
      nqn: 'NQN',
      allowed: several('May connect'),
      ports: { label: 'Offered at', control: 'ports' },
      allowAny: folded('Every host'),
      controllerLimit: folded('Controllers, at most'),
      queueLimit: folded('I/O queues each'),
    },
  },
  title: (p) => `Subsystem ${p.name} of ${p.array}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const notes: string[] = [];
    const array = asks.find('array', p.array, 'array');
    const name = array && asks.freeName('subsystem', p.name, array);
    const nqn = asks.value(
      parseNqn(p.nqn?.trim() || `${NQN_AUTHORITY}:${p.array}-${p.name}`, 'subsystem', context.month),
      'nqn',
      { kind: 'subsystem', name: p.name },
    );
    const taken =
      nqn &&
      ([...view.table('subsystem').values()].some((row) => row.nqn === nqn) ||
        view.table('initiator').by('iqn', nqn).length > 0);
    if (taken)
      asks.refuse({
        code: 'name-taken',
        field: 'nqn',
        subject: { kind: 'subsystem', name: p.name },
        message: `${nqn} names something else already.`,
        mend: 'Choose another NQN.',
      });
    const allowed = readAllowed(view, asks, p.allowed ?? [], context.month, notes);
    const ports = readPorts(asks, array, p.ports ?? 'all');
    if (asks.refusals.length > 0 || !array || !name || !nqn) return refused(asks.refusals);
    const served = view
      .table('port')
      .by('array', array.id)
      .filter((port) => port.role === 'nvme-tcp').length;
    if (served === 0) notes.push(`No port of ${array.name} serves NVMe/TCP yet.`);
    if (allowed.length === 0 && !p.allowAny) notes.push('Nobody may connect yet.');
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Subsystem ${name}: ${p.allowAny ? 'every host' : allowed.map((one) => hostText(view, one)).join(', ') || 'nobody'} may connect`,
      takes: 2 * SECOND,
      effects: [
        created(
          'subsystem',
          rowOf('subsystem', {
            id: context.newId('subsystem'),
            name,
            array: array.id,
            nqn,
            allowed,
            allowAny: p.allowAny ?? false,
            ports: ports ?? null,
            ...(p.controllerLimit ? { controllerLimit: p.controllerLimit } : {}),
            ...(p.queueLimit ? { queueLimit: p.queueLimit } : {}),
          }),
        ),
      ],
      notes,
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const fields = policyFields(view, draft, array);
    const name = draftText(draft, 'name');
    fields.name = array
      ? { suggested: nextName('nvme', view.table('subsystem').by('array', array.id)), says: 'Unique on its array.' }
      : {};
    fields.nqn = {
      suggested: array && name ? `${NQN_AUTHORITY}:${array.name}-${name}` : '',
      says: 'Hosts connect to this name.',
    };
    return { fields };
  },
};

function policyFields(view: EstateView, draft: Draft, array: ArrayRow | undefined): Foretold['fields'] {
  const ports = array
    ? view
        .table('port')
        .by('array', array.id)
        .filter((port) => port.role === 'nvme-tcp')
        .sort(byName)
    : [];
  return {
    array: { choices: arrayChoices(view), says: array ? `${ports.length} ports serve NVMe/TCP.` : '' },
    allowed: {
      choices: hostChoicesFor(view),
      says: `${draftList(draft, 'allowed').length} may connect; names are compared letter by letter.`,
    },
    allowAny: { says: 'On: whoever reaches a port.' },
    ports: {
      choices: ports.map((port) => ({ value: port.name, label: `${port.name} ${port.addresses[0]?.ip ?? ''}` })),
      says: 'One controller for each host port and subsystem port.',
    },
    controllerLimit: { says: 'A host that finds all taken is told that it is busy (81h).' },
    queueLimit: { says: 'Each is a TCP connection, beside one for administration.' },
  };
}

const subsystemWords = (view: EstateView): FieldWords<Subsystem> => ({
  allowed: (allowed) => `${allowed.map((one) => hostText(view, one)).join(', ') || 'nobody'} may connect`,
  allowAny: (any) => (any ? 'every host may connect' : 'only hosts that it names'),
  ports: (ports) =>
    ports === null
      ? 'offered at all NVMe/TCP ports'
      : `offered at ${ports.map((id) => view.table('port').get(id)?.name ?? id).join(', ') || 'no port'}`,
  controllerLimit: (limit) => counted(limit, 'controller') + ' at most',
  queueLimit: (limit) => counted(limit, 'I/O queue') + ' each at most',
});

export const subsystemConfigure: OperationType<z.output<typeof configureSchema>> = {
  kind: 'subsystem.configure',
  verb: 'Change a subsystem',
  summary: 'Says anew which hosts may connect to a subsystem, and at which ports.',
  schema: configureSchema,
  form: {
    columns: [4, 5, 6, 7],
    fields: {
      array: the.array,
      name: pick('Subsystem'),
      allowed: 'May connect',
      ports: { label: 'Offered at', control: 'ports' },
      allowAny: folded('Every host'),
      controllerLimit: folded('Controllers, at most'),
      queueLimit: folded('I/O queues each'),
    },
  },
  title: (p) => `Change subsystem ${p.name} of ${p.array}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const notes: string[] = [];
    const array = asks.find('array', p.array, 'array');
    const subsystem = array && asks.find('subsystem', p.name, 'name', array);
    const allowed = p.allowed ? readAllowed(view, asks, p.allowed, context.month, notes) : subsystem?.allowed;
    const ports = readPorts(asks, array, p.ports);
    if (asks.refusals.length > 0 || !array || !subsystem) return refused(asks.refusals);
    const after: Subsystem = {
      ...withNamed(subsystem, p, 'allowAny', 'controllerLimit', 'queueLimit'),
      allowed: allowed!,
      ports: ports === undefined ? subsystem.ports : ports,
    };
    const effects = [changed('subsystem', subsystem, after)];
    const around = pathsAround(view, effects, mappingsOfArray(view, array.id));
    refuseCut(asks, around, subjectOf('subsystem', subsystem), 'allowed');
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const overlay = new Overlay(view);
    overlay.apply(effects);
    const heard = announced(overlay, subsystem.id, context);
    notes.push(...heard.flatMap(({ host, found }) => found.appears.map((device) => `${host} sees ${device} at once.`)));
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Subsystem ${subsystem.name}: ${movedWords(subsystem, after, subsystemWords(view))}`,
      takes: 2 * SECOND,
      effects: [...effects, ...heard.flatMap(({ found }) => found.effects)],
      notes: [...notes, ...lossNotes(around)],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const fields = policyFields(view, draft, array);
    fields.name = {
      choices: array
        ? view
            .table('subsystem')
            .by('array', array.id)
            .map((row) => ({ value: row.name, label: row.name }))
        : [],
    };
    const subsystem = array && lookUp(view, 'subsystem', draftText(draft, 'name'), array.id);
    if (subsystem) {
      fields.allowed!.suggested = subsystem.allowed.map((one) => hostText(view, one));
      fields.name.says = subsystem.nqn;
      fields.controllerLimit!.suggested = String(subsystem.controllerLimit);
      fields.queueLimit!.suggested = String(subsystem.queueLimit);
    }
    return { fields };
  },
};

export const subsystemDelete: OperationType<z.output<typeof base>> = {
  kind: 'subsystem.delete',
  verb: 'Drop a subsystem',
  summary: 'Takes a subsystem away. Refused while namespaces are attached.',
  schema: base,
  form: {
    columns: [4, 5, 6, 7],
    fields: {
      array: the.array,
      name: pick('Subsystem'),
    },
  },
  title: (p) => `Drop subsystem ${p.name} of ${p.array}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const subsystem = array && asks.find('subsystem', p.name, 'name', array);
    const count = subsystem ? view.table('mapping').countBy('subsystem', subsystem.id) : 0;
    if (subsystem && count > 0)
      asks.refuse({
        code: 'still-mapped',
        field: 'name',
        subject: subjectOf('subsystem', subsystem),
        message: `${count} ${count === 1 ? 'namespace is' : 'namespaces are'} attached to ${subsystem.name}.`,
        mend: 'Take those mappings away first.',
      });
    if (asks.refusals.length > 0 || !array || !subsystem) return refused(asks.refusals);
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Drop subsystem ${subsystem.name}`,
      takes: SECOND,
      effects: [deleted('subsystem', subsystem)],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    return {
      fields: {
        array: { choices: arrayChoices(view) },
        name: {
          choices: array
            ? view
                .table('subsystem')
                .by('array', array.id)
                .map((row) => ({ value: row.name, label: row.name }))
            : [],
          says: 'Only one without namespaces.',
        },
      },
    };
  },
};
