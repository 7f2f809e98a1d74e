import { z } from 'zod';
import { changed } from '../estate/effects';
import { Overlay, type EstateView } from '../estate/estate';
import type { Port } from '../estate/entities';
import { formatAddress } from '../network/ipv4';
import { networkOf } from '../network/reach';
import { arrayChoices, byName, draftArray, draftList, draftText } from '../operation/draft';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';
import { mtuSchema, readAddresses } from './host-create';
import { hostName, pathFinder } from './paths';

const schema = z.object({
  array: z.string(),
  port: z.string(),
  addresses: z.array(z.string()).optional().describe('With prefix; without it they stay as they are'),
  mtu: mtuSchema.optional(),
  role: z.enum(['iscsi', 'none']).optional(),
});
type Params = z.output<typeof schema>;

interface Loss {
  volume: string;
  host: string;
  before: number;
  after: number;
  mounted: boolean;
}

/** Paths of every mapping on the port's array before and after it is as given. */
function pathsAround(view: EstateView, before: Port, after: Port): { losses: Loss[]; before: number; after: number } {
  const overlay = new Overlay(view);
  overlay.apply([changed('port', before, after)]);
  const [old, now] = [pathFinder(view), pathFinder(overlay)];
  const sum = { losses: [] as Loss[], before: 0, after: 0 };
  for (const volume of view.table('volume').by('array', before.array))
    for (const mapping of view.table('mapping').by('volume', volume.id)) {
      const was = old.count(mapping).usable;
      const is = now.count(mapping).usable;
      sum.before += was;
      sum.after += is;
      if (is >= was) continue;
      const device = view
        .table('hostDevice')
        .by('volume', volume.id)
        .find((row) => row.host === mapping.host);
      sum.losses.push({
        volume: volume.name,
        host: hostName(view, mapping.host),
        before: was,
        after: is,
        mounted: Boolean(device?.mountPoint),
      });
    }
  return sum;
}

export const portConfigure: OperationType<Params> = {
  kind: 'port.configure',
  verb: 'Set up an array port',
  summary: 'Gives an Ethernet port its addresses, MTU and role.',
  schema,
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
    if (port && role === 'iscsi' && final.length === 0 && asks.refusals.length === 0)
      asks.refuse({
        code: 'portal-without-address',
        field: 'addresses',
        subject: subjectOf('port', port),
        message: `${port.name} cannot be a portal without an address.`,
        mend: 'Give it an address with its prefix, such as 10.40.1.11/24.',
      });
    if (asks.refusals.length > 0 || !array || !port) return refused(asks.refusals);
    const after: Port = { ...port, addresses: final, mtu: p.mtu ?? port.mtu, role: role ?? 'none' };
    const around = pathsAround(view, port, after);
    const cut = around.losses.find((loss) => loss.after === 0 && loss.mounted);
    if (cut) {
      asks.refuse({
        code: 'in-use',
        field: 'role',
        subject: subjectOf('port', port),
        message: `${cut.host} would lose its last path to ${cut.volume}, which is mounted.`,
        mend: `Unmount it at ${cut.host} first, or give it another path.`,
      });
      return refused(asks.refusals);
    }
    const notes: string[] = [];
    for (const address of after.addresses) {
      const network = networkOf(view, address);
      if (!network) notes.push(`${formatAddress(address)} lies in no known network.`);
      else if (network.mtu < after.mtu)
        notes.push(`${network.name} carries frames of ${network.mtu}; the port sends ${after.mtu}.`);
    }
    const lost = around.losses.length;
    if (lost > 0) notes.push(`${lost} ${lost === 1 ? 'mapping loses a path' : 'mappings lose a path'}.`);
    const words = after.addresses.map(formatAddress).join(', ') || 'no address';
    return planned({
      device: { kind: 'array', id: array.id, name: array.name },
      title: `Set port ${port.name}: ${after.role === 'iscsi' ? 'iSCSI' : 'no role'}, ${words}, MTU ${after.mtu}`,
      takes: 3 * SECOND,
      effects: [changed('port', port, { addresses: after.addresses, mtu: after.mtu, role: after.role })],
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
    };
    fields.role!.choices = [
      { value: 'iscsi', label: 'iSCSI' },
      { value: 'none', label: 'No role' },
    ];
    if (!array) return { fields };
    fields.port!.choices = [...view.table('port').by('array', array.id)].sort(byName).map((row) => ({
      value: row.name,
      label: `${row.name} ${row.speed} Gb/s ${row.kind === 'fc' ? 'FC' : row.role === 'iscsi' ? 'iSCSI' : 'Ethernet, no role'}`,
      ...(row.kind === 'fc' ? { unfit: 'is a Fibre Channel port' } : {}),
    }));
    fields.array!.says = `${view.table('port').countBy('array', array.id)} ports.`;
    fields.port!.says = 'Ethernet ports can be portals.';
    const port = lookUp(view, 'port', draftText(draft, 'port'), array.id);
    if (!port || port.kind === 'fc') return { fields };
    fields.port!.says = `Now ${port.addresses.map(formatAddress).join(', ') || 'without address'}, MTU ${port.mtu}, ${port.role === 'iscsi' ? 'iSCSI' : 'no role'}.`;
    fields.addresses!.suggested = port.addresses.map(formatAddress);
    fields.mtu!.suggested = String(port.mtu);
    fields.role!.suggested = port.role === 'iscsi' ? 'iscsi' : 'none';
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
    fields.mtu!.says = networks
      .flatMap((network) => (network ? [`${network.name} carries ${network.mtu}.`] : []))
      .join(' ');
    const around = pathsAround(view, port, { ...port, addresses, mtu, role });
    fields.role!.says = `Paths ${around.before} → ${around.after} on ${array.name}${around.losses.length > 0 ? `; ${around.losses.length} mappings lose some` : ''}.`;
    return { fields };
  },
};
