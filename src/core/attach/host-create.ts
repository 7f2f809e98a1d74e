import { z } from 'zod';
import { pick, such } from '../operation/form';
import { osFamilies, rowOf, type IpAddress, type OsFamily } from '../estate/entities';
import { created } from '../estate/effects';
import type { EstateView } from '../estate/estate';
import { switchOf } from '../estate/relations';
import { proposeIqn } from '../naming/iscsi';
import { hexFrom } from '../estate/random';
import { parseName } from '../naming/names';
import { formatWwn } from '../naming/wwn';
import { formatAddress, parseAddress } from '../network/address';
import { networkOf } from '../network/reach';
import { byName, draftList, draftText, nextName } from '../operation/draft';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { SECOND } from '../units/duration';
import {
  mtuSchema,
  networkNotes,
  portalSenders,
  readAddresses,
  readGateway,
  askUplinks,
  refuseSmallMtu,
} from './addressing';
import { families } from './families';
import { claimed, claimOf, initiatorForm, parseInitiator, readInitiators } from './initiators';

export const IQN_AUTHORITY = 'iqn.2031-04.example.skarholt';
export const DEFAULT_MTU = 9000;

const interfaceSchema = z.object({
  name: z.string(),
  addresses: z.array(z.string()).default([]).describe('With prefix, such as 10.40.1.21/24'),
  mtu: mtuSchema.default(DEFAULT_MTU),
  adapter: z.string().default('').describe('The card it sits on'),
  bound: z.boolean().default(false).describe('Bound to iSCSI'),
  uplinks: z.array(z.string()).default([]).describe('Such as "up1", or "up2 standby"'),
  gateway: z.string().optional(),
  vlan: z.coerce.number().int().min(0).max(4094).optional(),
});
const schema = z.object({
  name: z.string(),
  os: z.enum(osFamilies),
  site: z.string(),
  cluster: z.string().optional(),
  initiators: z.array(z.string()).default([]).describe('iSCSI names, Fibre Channel port names, host NQNs'),
  interfaces: z.array(interfaceSchema).default([]),
  presents: z
    .string()
    .optional()
    .describe('The name the stand-in really sends at login; without it the first initiator'),
});
type Params = z.output<typeof schema>;

export const hostCreate: OperationType<Params> = {
  kind: 'host.create',
  verb: 'Register a host',
  summary: 'Puts a host on record with its initiators and interfaces.',
  schema,
  form: {
    columns: [5, 6, 7],
    fields: {
      name: 'Name',
      os: 'Operating system',
      site: pick('Site'),
      cluster: such('Host cluster', 'none'),
      initiators: such('Initiators', 'iqn.2031-04.example.skarholt:…'),
      interfaces: { label: 'Interfaces', control: 'interfaces' },
      presents: null,
    },
  },
  title: (p) =>
    `Register host ${p.name} with ${p.initiators.length} ${p.initiators.length === 1 ? 'initiator' : 'initiators'}`,
  units: (p) => [p],

  plan(view, p, context) {
    const asks = inquire(view);
    const name = asks.freeName('host', p.name);
    const site = asks.find('site', p.site, 'site');
    const initiators = readInitiators(view, asks, p.initiators, context.month);
    const presents = p.presents
      ? asks.value(parseInitiator(p.presents, context.month), 'presents', { kind: 'initiator', name: p.presents })
      : undefined;
    const names = new Set<string>();
    const seenIps: string[] = [];
    const interfaces = p.interfaces.map((row) => {
      const interfaceName = asks.value(parseName(row.name, 'interface'), 'interfaces', {
        kind: 'interface',
        name: row.name,
      });
      if (names.has(row.name.trim().toLowerCase()))
        asks.refuse({
          code: 'interface-twice',
          field: 'interfaces',
          subject: { kind: 'interface', name: row.name },
          message: `${row.name} is named twice.`,
          mend: 'Give each interface a name of its own.',
        });
      names.add(row.name.trim().toLowerCase());
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
      const gateway = readGateway(asks, row.gateway, addresses, 'interfaces') ?? null;
      refuseSmallMtu(asks, { addresses, mtu: row.mtu }, { kind: 'interface', name: row.name }, 'interfaces');
      const uplinks = askUplinks(asks, row.uplinks, { kind: 'interface', name: row.name }, 'interfaces');
      return { ...row, name: interfaceName ?? row.name, addresses, gateway, uplinks };
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
    for (const row of interfaces) notes.push(...networkNotes(view, row, row.name, portalSenders(view)));
    const claims = initiators.map((initiator) => claimOf(view, initiator));
    notes.push(...claims.flatMap((claim) => claim.note ?? []));
    const ports = claimed(
      id,
      claims.flatMap(({ port }) => port ?? []),
      interfaces.map((row) => row.name),
    );
    notes.push(...ports.notes);
    const first = (form: 'iscsi' | 'nqn') => initiators.find((initiator) => initiatorForm(initiator) === form) ?? null;
    const sent = presents && initiatorForm(presents) === 'iscsi' ? presents : null;
    const sentNqn = presents && initiatorForm(presents) === 'nqn' ? presents : null;
    return planned({
      device: { kind: 'host', id, name },
      title: `Register ${name}: ${initiators.length} ${initiators.length === 1 ? 'initiator' : 'initiators'}, ${interfaces.length} ${interfaces.length === 1 ? 'interface' : 'interfaces'}`,
      takes: 2 * SECOND,
      effects: [
        ...(newCluster ? [created('cluster', newCluster)] : []),
        created(
          'host',
          rowOf('host', {
            id,
            name,
            site: site.id,
            os: p.os,
            cluster: newCluster?.id ?? (cluster && typeof cluster !== 'string' ? cluster.id : null),
            presents: sent ?? first('iscsi'),
            nqn: sentNqn ?? first('nqn'),
            hostNqnId: first('nqn') ? hexFrom(`host identifier ${id}`, 32) : null,
          }),
        ),
        ...initiators.map((initiator) =>
          created('initiator', rowOf('initiator', { id: context.newId('initiator'), host: id, name: initiator })),
        ),
        ...ports.effects,
        ...interfaces.map((row) =>
          created(
            'interface',
            rowOf('interface', {
              id: context.newId('interface'),
              host: id,
              name: row.name,
              addresses: row.addresses,
              mtu: row.mtu,
              state: 'up',
              adapter: row.adapter || row.name,
              bound: row.bound,
              uplinks: row.uplinks,
              gateway: row.gateway,
              vlan: row.vlan ?? null,
            }),
          ),
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
    if (Object.hasOwn(families, os))
      fields.os!.says = `LUNs up to ${families[os].maxLun}; makes ${families[os].fileSystems.join(' or ')}.`;
    const name = draftText(draft, 'name');
    fields.initiators!.suggested = [proposeIqn(IQN_AUTHORITY, name || nextName('host', hosts))];
    const initiators = draftList(draft, 'initiators');
    const readable = initiators.map((text) => parseInitiator(text, context.month));
    const unclaimed = view.table('interface').by('unclaimed', '');
    fields.initiators!.choices = unclaimed.map((port) => ({
      value: formatWwn(port.wwpn ?? ''),
      label: `${formatWwn(port.wwpn ?? '')} at ${port.switch ? switchOf(view, port)?.name : 'no switch'} port ${port.switchPort}`,
    }));
    fields.initiators!.says =
      initiators.length === 0
        ? `The name the host shows as its own.${unclaimed.length > 0 ? ` ${unclaimed.length} port ${unclaimed.length === 1 ? 'name has' : 'names have'} logged in and belong to nobody yet.` : ''}`
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
