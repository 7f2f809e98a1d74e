import { z } from 'zod';
import { changed, created, deleted } from '../estate/effects';
import { rowOf, type DiscoveryDomain } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { portalText } from '../iscsi/target';
import { parseAddress } from '../network/address';
import { ISCSI_PORT, splitPortal } from '../network/portal';
import { draftList, draftText } from '../operation/draft';
import { folded, pick, several, such } from '../operation/form';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { movedWords, type FieldWords } from '../operation/moved';
import { refused, type OperationType } from '../operation/operation';
import { counted, someOf } from '../units/counted';
import { byItsName, choicesOf, nodeChoices, nodeText, readNodes, settle } from './name-service';

const domainSchema = byItsName.extend({
  members: z.array(z.string()).default([]).describe('Hosts, arrays, or iSCSI names'),
  portals: z.array(z.string()).default([]).describe('Such as 10.40.1.11:3260; only these are offered'),
});
/** What is not named stays as it is. */
const domainChange = byItsName.extend({
  members: z.array(z.string()).optional().describe('Hosts, arrays, or iSCSI names'),
  portals: z.array(z.string()).optional().describe('Such as 10.40.1.11:3260; only these are offered'),
});

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

export const domainDelete: OperationType<z.output<typeof byItsName>> = {
  kind: 'discovery-domain.delete',
  verb: 'Drop a discovery domain',
  summary: 'Takes a discovery domain out of its sets and off the record.',
  schema: byItsName,
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
