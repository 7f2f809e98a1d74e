import { z } from 'zod';
import { emptied, folded, pick, such, the } from '../operation/form';
import { changed } from '../estate/effects';
import type { EstateView } from '../estate/estate';
import type { Port } from '../estate/entities';
import { formatAddress } from '../network/address';
import { listensAt } from '../network/portal';
import { networkOf } from '../network/reach';
import { arrayChoices, byName, draftArray, draftList, draftText } from '../operation/draft';
import { inquire, lookUp } from '../operation/inquiry';
import { movedWords, type FieldWords, withNamed } from '../operation/moved';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';
import { hostSenders, mtuSchema, networkNotes, readAddresses, readGateway, refuseSmallMtu } from './addressing';
import { lossNotes, mappingsOfArray, pathsAround, refuseCut } from './losses';
import { someOf } from '../units/counted';

const schema = z.object({
  array: z.string(),
  port: z.string(),
  addresses: z.array(z.string()).optional().describe('With prefix; without it they stay as they are'),
  mtu: mtuSchema.optional(),
  role: z.enum(['iscsi', 'nvme-tcp', 'none']).optional(),
  gateway: z.string().optional(),
  vlan: z.coerce.number().int().min(0).max(4094).optional(),
  tcpPort: z.coerce.number().int().min(1).max(65535).optional().describe('Where it listens; 3260 and 4420 are usual'),
  portalGroup: z.coerce.number().int().min(0).max(65535).optional().describe('Target portal group tag'),
});
type Params = z.output<typeof schema>;

export const roleWords: Record<Port['role'], string> = {
  none: 'no role',
  fc: 'FC',
  iscsi: 'iSCSI',
  'nvme-tcp': 'NVMe/TCP',
};

const around = (view: EstateView, before: Port, after: Port) =>
  pathsAround(view, [changed('port', before, after)], mappingsOfArray(view, before.array));

const portWords: FieldWords<Port> = {
  role: (role) => roleWords[role],
  addresses: (addresses) => addresses.map(formatAddress).join(', ') || 'no address',
  mtu: (mtu) => `MTU ${mtu}`,
  gateway: (gateway) => (gateway === null ? 'no gateway' : `gateway ${gateway}`),
  vlan: (vlan) => (vlan === null ? 'the VLAN of its network' : `VLAN ${vlan}`),
  tcpPort: (tcp) => (tcp === null ? 'the usual TCP port' : `TCP port ${tcp}`),
  portalGroup: (group) => `portal group ${group}`,
};

export const portConfigure: OperationType<Params> = {
  kind: 'port.configure',
  verb: 'Set up an array port',
  summary: 'Gives an Ethernet port its addresses, MTU and role.',
  schema,
  form: {
    columns: [4, 5, 6, 7],
    fields: {
      array: the.array,
      port: pick('Port'),
      role: 'Role',
      addresses: emptied(such('Addresses', '10.40.1.11/24')),
      mtu: 'MTU',
      gateway: folded('Gateway'),
      vlan: folded({ label: 'VLAN', control: 'text' }),
      tcpPort: folded('TCP port'),
      portalGroup: folded('Portal group'),
    },
  },
  title: (p) => `Set up port ${p.port} of ${p.array}`,
  units: (p) => [p],

  plan(view, p) {
    const asks = inquire(view);
    const array = asks.find('array', p.array, 'array');
    const port = array && asks.find('port', p.port, 'port', array);
    if (port?.kind === 'fc')
      asks.refuse({
        code: 'port-is-fc',
        field: 'port',
        subject: subjectOf('port', port),
        message: `${port.name} is a Fibre Channel port: it has no address and serves no iSCSI.`,
        mend: 'Choose an Ethernet port.',
      });
    const addresses =
      p.addresses && port ? readAddresses(view, asks, p.addresses, 'addresses', port.name, port.id) : undefined;
    const role = p.role ?? port?.role;
    const final = addresses ?? port?.addresses ?? [];
    if (port && role !== 'none' && final.length === 0 && asks.refusals.length === 0)
      asks.refuse({
        code: 'portal-without-address',
        field: 'addresses',
        subject: subjectOf('port', port),
        message: `${port.name} cannot be a portal without an address.`,
        mend: 'Give it an address with its prefix, such as 10.40.1.11/24.',
      });
    const gateway = readGateway(asks, p.gateway, final);
    if (port) refuseSmallMtu(asks, { ...port, addresses: final, mtu: p.mtu ?? port.mtu }, subjectOf('port', port));
    if (asks.refusals.length > 0 || !array || !port) return refused(asks.refusals);
    const after: Port = {
      ...withNamed(port, p, 'mtu', 'vlan', 'tcpPort', 'portalGroup'),
      addresses: final,
      role: role ?? 'none',
      gateway: gateway === undefined ? port.gateway : gateway,
    };
    const paths = around(view, port, after);
    refuseCut(asks, paths, subjectOf('port', port), 'role');
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const notes = [...networkNotes(view, after, 'the port', hostSenders(view)), ...lossNotes(paths)];
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Port ${port.name}: ${movedWords(port, after, portWords)}`,
      takes: 3 * SECOND,
      effects: [changed('port', port, after)],
      notes,
    });
  },

  foretell(view, draft) {
    const array = draftArray(view, draft);
    const fields: Foretold['fields'] = {
      array: { choices: arrayChoices(view) },
      port: {},
      addresses: {},
      mtu: {},
      role: {},
      gateway: { says: 'Only to reach hosts in other subnets.' },
      vlan: { says: 'Empty: the one of its network.' },
      tcpPort: { says: 'Empty: the usual one of its role, 3260 or 4420.' },
      portalGroup: { says: 'Sessions of one initiator to a group count as to one target port (RFC 7143).' },
    };
    fields.role!.choices = (['iscsi', 'nvme-tcp', 'none'] as const).map((role) => ({
      value: role,
      label: role === 'none' ? 'No role' : roleWords[role],
    }));
    if (!array) return { fields };
    fields.port!.choices = [...view.table('port').by('array', array.id)].sort(byName).map((row) => ({
      value: row.name,
      label: `${row.name} ${row.speed} Gb/s ${row.kind === 'fc' ? 'FC' : row.role === 'none' ? 'Ethernet, no role' : roleWords[row.role]}`,
      ...(row.kind === 'fc' ? { unfit: 'is a Fibre Channel port' } : {}),
    }));
    fields.array!.says = `${view.table('port').countBy('array', array.id)} ports.`;
    fields.port!.says = 'Ethernet ports can be portals.';
    const port = lookUp(view, 'port', draftText(draft, 'port'), array.id);
    if (!port || port.kind === 'fc') return { fields };
    fields.port!.says = `Now ${port.addresses.map(formatAddress).join(', ') || 'without address'}, MTU ${port.mtu}, ${roleWords[port.role]}.`;
    fields.addresses!.suggested = port.addresses.map(formatAddress);
    fields.mtu!.suggested = String(port.mtu);
    fields.tcpPort!.suggested = String(listensAt(port));
    fields.portalGroup!.suggested = String(port.portalGroup);
    if (port.gateway) fields.gateway!.suggested = port.gateway;
    fields.role!.suggested = port.role === 'none' ? 'none' : port.role;
    const asks = inquire(view);
    const addresses = Array.isArray(draft.addresses)
      ? readAddresses(view, asks, draftList(draft, 'addresses'), 'addresses', port.name, port.id)
      : port.addresses;
    const mtu = Number(draftText(draft, 'mtu') || port.mtu);
    const role = (draftText(draft, 'role') || port.role) as Port['role'];
    const networks = addresses.map((address) => networkOf(view, address));
    fields.addresses!.says =
      addresses.length === 0
        ? 'A portal needs one.'
        : networks
            .map((network) => (network ? `In ${network.name}, ${network.cidr}.` : 'In no known network.'))
            .join(' ');
    fields.mtu!.says = [
      ...networks.flatMap((network) => (network ? [`${network.name} carries ${network.mtu}.`] : [])),
      ...networkNotes(view, { addresses, mtu, gateway: null }, 'the port', hostSenders(view)),
    ].join(' ');
    const paths = around(view, port, { ...port, addresses, mtu, role });
    const hurt = [...new Set(paths.losses.map((loss) => loss.host))];
    fields.role!.says = `Paths ${paths.before} → ${paths.after} on ${array.name}${hurt.length > 0 ? `; fewer for ${someOf(hurt)}` : ''}.`;
    return { fields };
  },
};
