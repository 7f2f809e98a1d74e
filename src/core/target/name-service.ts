import { z } from 'zod';
import { folded, pick, several, such } from '../operation/form';
import { lossNotes, mappingsOfHosts, pathsAround, refuseCut } from '../attach/losses';
import { changed, created, deleted, type Effect } from '../estate/effects';
import { rowOf, type DiscoveryDomain, type DomainSet } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { parseIscsiName } from '../naming/iscsi';
import { lookUpTarget, portalText, targetByIqn, targetsOf, targetText } from '../iscsi/target';
import { parseAddress } from '../network/address';
import { ISCSI_PORT, splitPortal } from '../network/portal';
import { byName, draftList, draftText } from '../operation/draft';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { movedWords, type FieldWords } from '../operation/moved';
import { planned, refused, type Choice, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { counted, someOf } from '../units/counted';
import { SECOND } from '../units/duration';

const record = { kind: 'record', id: '', name: 'Name service' } as const;
const named = z.object({ name: z.string() });
const domainSchema = named.extend({
  members: z.array(z.string()).default([]).describe('Hosts, arrays, or iSCSI names'),
  portals: z.array(z.string()).default([]).describe('Such as 10.40.1.11:3260; only these are offered'),
});
/** What is not named stays as it is. */
const domainChange = named.extend({
  members: z.array(z.string()).optional().describe('Hosts, arrays, or iSCSI names'),
  portals: z.array(z.string()).optional().describe('Such as 10.40.1.11:3260; only these are offered'),
});
const setSchema = named.extend({ domains: z.array(z.string()).default([]), enabled: z.boolean().default(true) });
const setChange = named.extend({ domains: z.array(z.string()).optional(), enabled: z.boolean().optional() });
const serverSchema = named.extend({
  ip: z.string().optional(),
  defaultDomain: z.boolean().optional().describe('Nodes in no domain see each other'),
  controlNodes: z.array(z.string()).optional().describe('Hosts, or iSCSI names, that see all that is registered'),
});

/** Hosts that ask a name server: their paths move with domains and sets. */
const asking = (view: EstateView): string[] =>
  [...view.table('host').values()].filter((host) => host.discovery === 'isns').map((host) => host.id);

/** iSCSI names of hosts and arrays that are given by their own names, or as they are. */
function readNodes(
  view: EstateView,
  asks: Inquiry,
  refs: readonly string[],
  month: string,
  field = 'members',
): string[] {
  return [
    ...new Set(
      refs.flatMap((ref) => {
        const target = lookUpTarget(view, ref);
        if (target) return [target.iqn];
        const host = lookUp(view, 'host', ref);
        if (host) {
          const names = view
            .table('initiator')
            .by('host', host.id)
            .map((row) => row.name)
            .filter((name) => /^(iqn|eui|naa)\./.test(name));
          if (names.length === 0)
            asks.refuse({
              code: 'no-initiator',
              field,
              subject: subjectOf('host', host),
              message: `${host.name} has no iSCSI name on record.`,
              mend: 'Register one first.',
            });
          return names;
        }
        return asks.value(parseIscsiName(ref, month), field, { kind: 'initiator', name: ref }) ?? [];
      }),
    ),
  ];
}

function readPortals(asks: Inquiry, texts: readonly string[]): string[] {
  return texts.flatMap((text) => {
    const { ip, tcp } = splitPortal(text);
    const address = asks.value(parseAddress(ip, true), 'portals', { kind: 'port', name: text });
    const port = tcp ?? ISCSI_PORT;
    if (address && (Number.isNaN(port) || port < 1 || port > 65535)) {
      asks.refuse({
        code: 'bad-port',
        field: 'portals',
        subject: { kind: 'port', name: text },
        message: `${text} names no TCP port from 1 to 65535.`,
        mend: 'Write address and port, such as 10.40.1.11:3260.',
      });
      return [];
    }
    return address ? [portalText(address.ip, port)] : [];
  });
}

const nodeChoices = (view: EstateView): Choice[] => [
  ...[...view.table('array').values()]
    .sort(byName)
    .flatMap((row) => targetsOf(view, row.id))
    .map((row) => ({ value: targetText(view, row), label: `${targetText(view, row)}, target` })),
  ...[...view.table('host').values()]
    .filter((row) => row.presents !== null)
    .sort(byName)
    .map((row) => ({ value: row.name, label: row.name })),
];
const nodeText = (view: EstateView, iqn: string): string => {
  const target = targetByIqn(view, iqn);
  const initiator = view.table('initiator').by('iqn', iqn)[0];
  return (target && targetText(view, target)) ?? (initiator && view.table('host').get(initiator.host)?.name) ?? iqn;
};
const choicesOf = (view: EstateView, kind: 'discoveryDomain' | 'domainSet' | 'nameServer'): Choice[] =>
  [...view.table(kind).values()].sort(byName).map((row) => ({ value: row.name, label: row.name }));

/** Finishes a plan of the name service: who gains and loses paths, and who must not be cut off. */
function settle(view: EstateView, asks: Inquiry, title: string, effects: Effect[], field: string) {
  if (asks.refusals.length > 0) return refused(asks.refusals);
  const around = pathsAround(view, effects, mappingsOfHosts(view, asking(view)));
  refuseCut(asks, around, { kind: 'discoveryDomain', name: title }, field);
  return asks.refusals.length > 0
    ? refused(asks.refusals)
    : planned({ device: record, title, takes: SECOND, effects, notes: lossNotes(around) });
}

export const domainCreate: OperationType<z.output<typeof domainSchema>> = {
  kind: 'discovery-domain.create',
  verb: 'Make a discovery domain',
  summary: 'Says who may discover whom over iSNS. It counts within an enabled domain set.',
  schema: domainSchema,
  form: {
    columns: [5, 6, 7],
    fields: {
      name: 'Domain',
      members: several('Members'),
      portals: folded(such('Only portals', '10.40.1.11:3260')),
    },
  },
  title: (p) => `Discovery domain ${p.name}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const name = asks.freeName('discoveryDomain', p.name);
    const members = readNodes(view, asks, p.members, context.month);
    const portals = readPortals(asks, p.portals);
    const row = rowOf('discoveryDomain', { id: context.newId('discoveryDomain'), name: name ?? '', members, portals });
    return settle(
      view,
      asks,
      `Discovery domain ${name}: ${members.map((one) => nodeText(view, one)).join(', ') || 'nobody yet'}`,
      [created('discoveryDomain', row)],
      'members',
    );
  },
  foretell: (view, draft) => ({
    fields: {
      name: {},
      members: {
        choices: nodeChoices(view),
        says: `${counted(draftList(draft, 'members').length, 'node')} may see each other.`,
      },
      portals: { says: 'Empty: all portals of a target are offered.' },
    },
  }),
};

const domainWords = (before: DiscoveryDomain): FieldWords<DiscoveryDomain> => ({
  members: (members) => `${counted(before.members.length, 'node')} → ${members.length}`,
  portals: (portals) => (portals.length === 0 ? 'all portals are offered' : `only ${someOf(portals)} offered`),
});

export const domainConfigure: OperationType<z.output<typeof domainChange>> = {
  kind: 'discovery-domain.configure',
  verb: 'Change a discovery domain',
  summary: 'Says anew who belongs to a discovery domain.',
  schema: domainChange,
  form: {
    columns: [5, 6, 7],
    fields: {
      name: pick('Domain'),
      members: several('Members'),
      portals: folded(such('Only portals', '10.40.1.11:3260')),
    },
  },
  title: (p) => `Change discovery domain ${p.name}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const domain = asks.find('discoveryDomain', p.name, 'name');
    if (!domain) return refused(asks.refusals);
    const after: DiscoveryDomain = {
      ...domain,
      members: p.members ? readNodes(view, asks, p.members, context.month) : domain.members,
      portals: p.portals ? readPortals(asks, p.portals) : domain.portals,
    };
    return settle(
      view,
      asks,
      `Discovery domain ${domain.name}: ${movedWords(domain, after, domainWords(domain))}`,
      [changed('discoveryDomain', domain, after)],
      'members',
    );
  },
  foretell(view, draft) {
    const domain = lookUp(view, 'discoveryDomain', draftText(draft, 'name'));
    return {
      fields: {
        name: { choices: choicesOf(view, 'discoveryDomain'), ...(domain ? { says: activeWords(view, domain) } : {}) },
        members: {
          choices: nodeChoices(view),
          ...(domain ? { suggested: domain.members.map((one) => nodeText(view, one)) } : {}),
        },
        portals: domain ? { suggested: domain.portals } : {},
      },
    };
  },
};

const activeWords = (view: EstateView, domain: DiscoveryDomain): string => {
  const sets = view.table('domainSet').by('domain', domain.id);
  const on = sets.filter((set) => set.enabled).map((set) => set.name);
  return on.length > 0
    ? `Active by ${on.join(', ')}.`
    : `In no enabled set${sets[0] ? `; ${sets[0].name} is off` : ''}: nobody sees anybody by it.`;
};

export const domainDelete: OperationType<z.output<typeof named>> = {
  kind: 'discovery-domain.delete',
  verb: 'Drop a discovery domain',
  summary: 'Takes a discovery domain out of its sets and off the record.',
  schema: named,
  form: {
    columns: [5, 6, 7],
    fields: {
      name: pick('Domain'),
    },
  },
  title: (p) => `Drop discovery domain ${p.name}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const domain = asks.find('discoveryDomain', p.name, 'name');
    const sets = domain ? view.table('domainSet').by('domain', domain.id) : [];
    return settle(
      view,
      asks,
      `Drop discovery domain ${p.name}`,
      domain
        ? [
            ...sets.map((set) => changed('domainSet', set, { domains: set.domains.filter((id) => id !== domain.id) })),
            deleted('discoveryDomain', domain),
          ]
        : [],
      'name',
    );
  },
  foretell: (view) => ({
    fields: { name: { choices: choicesOf(view, 'discoveryDomain'), says: 'Its members stay registered.' } },
  }),
};

const domainsOf = (view: EstateView, asks: Inquiry, refs: readonly string[]) =>
  refs.flatMap((ref) => asks.find('discoveryDomain', ref, 'domains')?.id ?? []);

export const domainSetCreate: OperationType<z.output<typeof setSchema>> = {
  kind: 'domain-set.create',
  verb: 'Make a domain set',
  summary: 'Gathers discovery domains that are switched on and off together.',
  schema: setSchema,
  form: {
    columns: [5, 6, 7],
    fields: {
      name: 'Domain set',
      domains: several('Domains'),
      enabled: 'Enabled',
    },
  },
  title: (p) => `Domain set ${p.name}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const name = asks.freeName('domainSet', p.name);
    const domains = domainsOf(view, asks, p.domains);
    return settle(
      view,
      asks,
      `Domain set ${name}: ${counted(domains.length, 'domain')}, ${p.enabled ? 'on' : 'off'}`,
      [
        created(
          'domainSet',
          rowOf('domainSet', { id: context.newId('domainSet'), name: name ?? '', domains, enabled: p.enabled }),
        ),
      ],
      'domains',
    );
  },
  foretell: (view, draft) => ({
    fields: {
      name: {},
      domains: {
        choices: choicesOf(view, 'discoveryDomain'),
        says: `${counted(draftList(draft, 'domains').length, 'domain')}.`,
      },
      enabled: { says: 'Off: its domains do not count.' },
    },
  }),
};

const setWords: FieldWords<DomainSet> = {
  domains: (domains) => counted(domains.length, 'domain'),
  enabled: (on) => (on ? 'on' : 'off'),
};

export const domainSetConfigure: OperationType<z.output<typeof setChange>> = {
  kind: 'domain-set.configure',
  verb: 'Change a domain set',
  summary: 'Switches a domain set on or off, or changes which domains it holds.',
  schema: setChange,
  form: {
    columns: [5, 6, 7],
    fields: {
      name: pick('Domain set'),
      domains: several('Domains'),
      enabled: 'Enabled',
    },
  },
  title: (p) => `${p.enabled === undefined ? 'Change' : p.enabled ? 'Enable' : 'Disable'} domain set ${p.name}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const set = asks.find('domainSet', p.name, 'name');
    if (!set) return refused(asks.refusals);
    const after: DomainSet = {
      ...set,
      domains: p.domains ? domainsOf(view, asks, p.domains) : set.domains,
      enabled: p.enabled ?? set.enabled,
    };
    return settle(
      view,
      asks,
      `Domain set ${set.name}: ${movedWords(set, after, setWords)}`,
      [changed('domainSet', set, after)],
      'enabled',
    );
  },
  foretell(view, draft) {
    const set = lookUp(view, 'domainSet', draftText(draft, 'name'));
    return {
      fields: {
        name: { choices: choicesOf(view, 'domainSet'), ...(set ? { says: `Now ${set.enabled ? 'on' : 'off'}.` } : {}) },
        domains: {
          choices: choicesOf(view, 'discoveryDomain'),
          ...(set ? { suggested: set.domains.flatMap((id) => view.table('discoveryDomain').get(id)?.name ?? []) } : {}),
        },
        enabled: {
          says: 'Off: its domains do not count.',
          ...(set ? { suggested: String(set.enabled) } : {}),
        },
      },
    };
  },
};

export const domainSetDelete: OperationType<z.output<typeof named>> = {
  kind: 'domain-set.delete',
  verb: 'Drop a domain set',
  summary: 'Takes a domain set off the record; its domains stay.',
  schema: named,
  form: {
    columns: [5, 6, 7],
    fields: {
      name: pick('Domain set'),
    },
  },
  title: (p) => `Drop domain set ${p.name}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const set = asks.find('domainSet', p.name, 'name');
    return settle(view, asks, `Drop domain set ${p.name}`, set ? [deleted('domainSet', set)] : [], 'name');
  },
  foretell: (view) => ({ fields: { name: { choices: choicesOf(view, 'domainSet'), says: 'Its domains stay.' } } }),
};

export const nameServerConfigure: OperationType<z.output<typeof serverSchema>> = {
  kind: 'name-server.configure',
  verb: 'Set up a name server',
  summary: 'Puts an iSNS server on record, or changes what it does with nodes that are in no domain.',
  schema: serverSchema,
  form: {
    columns: [5, 6, 7],
    fields: {
      name: 'Name server',
      ip: such('Address', '10.40.1.5'),
      defaultDomain: 'Default domain',
      controlNodes: folded(several('Control nodes')),
    },
  },
  title: (p) => `Set up name server ${p.name}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const present = lookUp(view, 'nameServer', p.name);
    const controlNodes = p.controlNodes
      ? readNodes(view, asks, p.controlNodes, context.month, 'controlNodes')
      : (present?.controlNodes ?? []);
    const name = present ? present.name : asks.freeName('nameServer', p.name);
    const ip = p.ip ? asks.value(parseAddress(p.ip, true), 'ip', { kind: 'nameServer', name: p.ip })?.ip : present?.ip;
    if (!present && !p.ip)
      asks.refuse({
        code: 'parameter-missing',
        field: 'ip',
        subject: { kind: 'nameServer', name: p.name },
        message: 'A new name server needs an address.',
        mend: 'Write it, such as 10.40.1.5.',
      });
    const row = rowOf('nameServer', {
      id: present?.id ?? context.newId('nameServer'),
      name: name ?? '',
      ip: ip ?? '',
      state: present?.state ?? 'up',
      defaultDomain: p.defaultDomain ?? present?.defaultDomain ?? false,
      controlNodes,
    });
    return settle(
      view,
      asks,
      `Name server ${row.name} at ${row.ip}`,
      [present ? changed('nameServer', present, row) : created('nameServer', row)],
      'name',
    );
  },
  foretell(view, draft): Foretold {
    const server = lookUp(view, 'nameServer', draftText(draft, 'name'));
    return {
      fields: {
        name: {},
        ip: server ? { suggested: server.ip } : { says: 'Port 3205.' },
        defaultDomain: { says: 'On: nodes that are in no domain see each other.' },
        controlNodes: {
          choices: nodeChoices(view),
          says: 'They see all that is registered, whatever the domains.',
          ...(server ? { suggested: server.controlNodes.map((one) => nodeText(view, one)) } : {}),
        },
      },
    };
  },
};
