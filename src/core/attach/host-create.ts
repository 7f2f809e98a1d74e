import { z } from 'zod';
import { osFamilies, type IpAddress, type OsFamily } from '../estate/entities';
import { created } from '../estate/effects';
import type { EstateView } from '../estate/estate';
import { parseIscsiName, proposeIqn } from '../naming/iscsi';
import { parseName } from '../naming/names';
import { formatAddress, parseAddress } from '../network/ipv4';
import { networkOf } from '../network/reach';
import { byName, draftList, draftText, nextName } from '../operation/draft';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { SECOND } from '../units/duration';
import { families } from './families';

export const IQN_AUTHORITY = 'iqn.2031-04.example.skarholt';
export const DEFAULT_MTU = 9000;

const mtuSchema = z.coerce.number().int().min(576, 'an MTU is at least 576').max(9216, 'an MTU is at most 9216');
const interfaceSchema = z.object({
  name: z.string(),
  addresses: z.array(z.string()).default([]).describe('With prefix, such as 10.40.1.21/24'),
  mtu: mtuSchema.default(DEFAULT_MTU),
});
const schema = z.object({
  name: z.string(),
  os: z.enum(osFamilies),
  site: z.string(),
  cluster: z.string().optional(),
  initiators: z.array(z.string()).default([]).describe('iSCSI names'),
  interfaces: z.array(interfaceSchema).default([]),
  presents: z
    .string()
    .optional()
    .describe('The name the stand-in really sends at login; without it the first initiator'),
});
type Params = z.output<typeof schema>;
export { mtuSchema };

/** Who has the address already, in words. */
export function addressHolder(view: EstateView, ip: string, except?: string): string | null {
  const port = view
    .table('port')
    .by('ip', ip)
    .find((row) => row.id !== except);
  if (port) return `port ${port.name} of ${view.table('array').get(port.array)?.name}`;
  const held = view
    .table('interface')
    .by('ip', ip)
    .find((row) => row.id !== except);
  return held ? `${held.name} of ${view.table('host').get(held.host)?.name}` : null;
}

/** Reads addresses and refuses what is malformed, doubled or held by another. */
export function readAddresses(
  view: EstateView,
  asks: Inquiry,
  texts: readonly string[],
  field: string,
  owner: string,
  except?: string,
): IpAddress[] {
  const seen = new Set<string>();
  return texts.flatMap((text) => {
    const subject = { kind: 'network', name: text } as const;
    const address = asks.value(parseAddress(text), field, subject);
    if (!address) return [];
    const holder = seen.has(address.ip) ? owner : addressHolder(view, address.ip, except);
    if (holder)
      asks.refuse({
        code: 'duplicate-ip',
        field,
        subject,
        message: `${address.ip} belongs to ${holder} already.`,
        mend: 'Choose an address that is free.',
      });
    seen.add(address.ip);
    return [address];
  });
}

function readInitiators(view: EstateView, asks: Inquiry, texts: readonly string[], month: string): string[] {
  const seen = new Set<string>();
  return texts.flatMap((text) => {
    const subject = { kind: 'initiator', name: text } as const;
    const name = asks.value(parseIscsiName(text, month), 'initiators', subject);
    if (!name) return [];
    const holder = view.table('initiator').by('iqn', name)[0];
    const array = [...view.table('array').values()].find((row) => row.iqn === name);
    if (holder)
      asks.refuse({
        code: 'duplicate-host-name',
        field: 'initiators',
        subject,
        message: `${name} belongs to ${view.table('host').get(holder.host)?.name} already.`,
        mend: 'Give each host a name of its own.',
      });
    if (array)
      asks.refuse({
        code: 'role-swapped',
        field: 'initiators',
        subject,
        message: `${name} is the target name of ${array.name}, not an initiator's.`,
        mend: 'Write the name the host shows as its own.',
      });
    if (seen.has(name))
      asks.refuse({
        code: 'initiator-twice',
        field: 'initiators',
        subject,
        message: `${name} is named twice.`,
        mend: 'Name it once.',
      });
    seen.add(name);
    return [name];
  });
}

export const hostCreate: OperationType<Params> = {
  kind: 'host.create',
  verb: 'Register a host',
  summary: 'Puts a host on record with its initiators and interfaces.',
  schema,
  title: (p) =>
    `Register host ${p.name} with ${p.initiators.length} ${p.initiators.length === 1 ? 'initiator' : 'initiators'}`,
  units: (p) => [p],

  plan(view, p, context) {
    const asks = inquire(view);
    const name = asks.freeName('host', p.name);
    const site = asks.find('site', p.site, 'site');
    const initiators = readInitiators(view, asks, p.initiators, context.month);
    const presents = p.presents
      ? asks.value(parseIscsiName(p.presents, context.month), 'presents', { kind: 'initiator', name: p.presents })
      : undefined;
    const names = new Set<string>();
    const seenIps: string[] = [];
    const interfaces = p.interfaces.map((row) => {
      const interfaceName = asks.value(parseName(row.name, 'interface'), 'interfaces', {
        kind: 'interface',
        name: row.name,
      });
      if (names.has(row.name))
        asks.refuse({
          code: 'interface-twice',
          field: 'interfaces',
          subject: { kind: 'interface', name: row.name },
          message: `${row.name} is named twice.`,
          mend: 'Give each interface a name of its own.',
        });
      names.add(row.name);
      const addresses = readAddresses(view, asks, row.addresses, 'interfaces', p.name);
      for (const { ip } of addresses) {
        if (seenIps.includes(ip))
          asks.refuse({
            code: 'duplicate-ip',
            field: 'interfaces',
            subject: { kind: 'interface', name: row.name },
            message: `${ip} is given to two interfaces.`,
            mend: 'Choose an address that is free.',
          });
        seenIps.push(ip);
      }
      return { name: interfaceName ?? row.name, addresses, mtu: row.mtu };
    });
    const cluster = p.cluster?.trim() ? (lookUp(view, 'cluster', p.cluster.trim()) ?? p.cluster.trim()) : null;
    const clusterName =
      typeof cluster === 'string'
        ? asks.value(parseName(cluster, 'host cluster'), 'cluster', { kind: 'cluster', name: cluster })
        : undefined;
    if (asks.refusals.length > 0 || !name || !site) return refused(asks.refusals);

    const id = context.newId('host');
    const newCluster = clusterName ? { id: context.newId('cluster'), name: clusterName } : null;
    const notes: string[] = [];
    if (newCluster) notes.push(`${newCluster.name} is a new host cluster.`);
    if (initiators.length === 0) notes.push('Without an initiator no array lets the host in.');
    return planned({
      device: { kind: 'host', id, name },
      title: `Register ${name}: ${initiators.length} ${initiators.length === 1 ? 'initiator' : 'initiators'}, ${interfaces.length} ${interfaces.length === 1 ? 'interface' : 'interfaces'}`,
      takes: 2 * SECOND,
      effects: [
        ...(newCluster ? [created('cluster', newCluster)] : []),
        created('host', {
          id,
          name,
          site: site.id,
          os: p.os,
          cluster: newCluster?.id ?? (cluster && typeof cluster !== 'string' ? cluster.id : null),
          presents: presents ?? initiators[0] ?? null,
        }),
        ...initiators.map((iqn) => created('initiator', { id: context.newId('initiator'), host: id, name: iqn })),
        ...interfaces.map((row) =>
          created('interface', {
            id: context.newId('interface'),
            host: id,
            name: row.name,
            addresses: row.addresses,
            mtu: row.mtu,
            state: 'up',
          }),
        ),
      ],
      notes,
    });
  },

  foretell(view, draft, context) {
    const hosts = [...view.table('host').values()];
    const fields: Foretold['fields'] = {
      name: { suggested: nextName('host', hosts), says: 'Unique over all hosts.' },
      os: { choices: osFamilies.map((os) => ({ value: os, label: families[os].label })), suggested: 'linux' },
      site: {
        says: 'Where it stands.',
        choices: [...view.table('site').values()].sort(byName).map((row) => ({ value: row.name, label: row.name })),
      },
      cluster: {
        choices: [...view.table('cluster').values()].sort(byName).map((row) => ({ value: row.name, label: row.name })),
        says: 'Members share volumes. Empty: it stands alone.',
      },
      initiators: {},
      interfaces: {},
    };
    const os = draftText(draft, 'os') as OsFamily;
    if (os in families)
      fields.os!.says = `LUNs up to ${families[os].maxLun}; makes ${families[os].fileSystems.join(' or ')}.`;
    const name = draftText(draft, 'name');
    fields.initiators!.suggested = [proposeIqn(IQN_AUTHORITY, name || nextName('host', hosts))];
    const initiators = draftList(draft, 'initiators');
    const readable = initiators.map((text) => parseIscsiName(text, context.month));
    fields.initiators!.says =
      initiators.length === 0
        ? 'The name the host shows as its own.'
        : readable.every((result) => result.ok)
          ? `Arrays let ${initiators.length === 1 ? 'this name' : 'these names'} in once a volume is mapped.`
          : '';
    const rows = Array.isArray(draft.interfaces) ? (draft.interfaces as { addresses?: unknown }[]) : [];
    const addresses = rows
      .flatMap((row) => (Array.isArray(row?.addresses) ? (row.addresses as unknown[]) : []))
      .flatMap((text) => {
        const result = parseAddress(String(text));
        return result.ok ? [result.value] : [];
      });
    fields.interfaces!.says =
      addresses.length === 0
        ? 'Each with its address and prefix.'
        : addresses
            .map(
              (address) =>
                `${formatAddress(address)}: ${networkOf(view, address)?.name ?? 'no known network'}; ${portalsMet(view, address)}`,
            )
            .join('. ') + '.';
    return { fields };
  },
};

function portalsMet(view: EstateView, address: IpAddress): string {
  const network = networkOf(view, address);
  const met = [...view.table('port').values()].filter(
    (port) => port.role === 'iscsi' && port.addresses.some((own) => network && networkOf(view, own)?.id === network.id),
  );
  return `${met.length} ${met.length === 1 ? 'portal' : 'portals'} in it`;
}
