import { z } from 'zod';
import { folded, pick, such, the } from '../operation/form';
import { changed } from '../estate/effects';
import { isidOf, isidType, parseIsid } from '../iscsi/isid';
import { activeUplinks, bindingFailure, bindingWarnings, bindingWords } from '../network/binding';
import { formatAddress } from '../network/address';
import { networkOf } from '../network/reach';
import { byName, draftFlag, draftHost, draftList, draftText, hostChoices } from '../operation/draft';
import { inquire, lookUp } from '../operation/inquiry';
import type { HostInterface } from '../estate/entities';
import { movedWords, type FieldWords, withNamed } from '../operation/moved';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';
import {
  mtuSchema,
  networkNotes,
  portalSenders,
  readAddresses,
  readGateway,
  askUplinks,
  readUplinks,
  refuseSmallMtu,
} from './addressing';
import { lossNotes, mappingsOfHosts, pathsAround, refuseCut } from './losses';

const schema = z.object({
  host: z.string(),
  interface: z.string(),
  addresses: z.array(z.string()).optional(),
  mtu: mtuSchema.optional(),
  bound: z.boolean().optional().describe('Sessions leave by it; takes exactly one active uplink'),
  uplinks: z.array(z.string()).optional().describe('Such as "up1", or "up2 standby"'),
  gateway: z.string().optional(),
  vlan: z.coerce.number().int().min(0).max(4094).optional(),
  isid: z.string().optional().describe('Begins the identity of its sessions; none for one of its own'),
});
type Params = z.output<typeof schema>;

const interfaceWords: FieldWords<HostInterface> = {
  addresses: (addresses) => addresses.map(formatAddress).join(', ') || 'no address',
  mtu: (mtu) => `MTU ${mtu}`,
  bound: (bound) => (bound ? 'bound to iSCSI' : 'not bound'),
  uplinks: (uplinks) => `uplinks ${uplinks.map(({ name, use }) => `${name} ${use}`).join(', ') || 'none'}`,
  gateway: (gateway) => (gateway === null ? 'no gateway' : `gateway ${gateway}`),
  vlan: (vlan) => (vlan === null ? 'the VLAN of its network' : `VLAN ${vlan}`),
  isid: (isid) => (isid === null ? 'a session identifier of its own making' : `ISID ${isid}`),
};

export const interfaceConfigure: OperationType<Params> = {
  kind: 'interface.configure',
  verb: 'Set up a host interface',
  summary: 'Gives an interface of a host its addresses, MTU, uplinks, and binds it to iSCSI.',
  schema,
  form: {
    columns: [5, 6, 7],
    fields: {
      host: the.host,
      interface: pick('Interface'),
      addresses: 'Addresses',
      mtu: 'MTU',
      bound: 'Bound to iSCSI',
      uplinks: such('Uplinks', 'up1, or up2 unused'),
      gateway: folded('Gateway'),
      vlan: folded({ label: 'VLAN', control: 'text' }),
      isid: folded(such('ISID', '0x80a1b2c30001')),
    },
  },
  title: (p) => `Set up ${p.interface} of ${p.host}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const host = asks.find('host', p.host, 'host');
    const row = host && asks.find('interface', p.interface, 'interface', host);
    if (row?.kind === 'fc')
      asks.refuse({
        code: 'port-is-fc',
        field: 'interface',
        subject: subjectOf('interface', row),
        message: `${row.name} is a Fibre Channel port: it has no address.`,
        mend: 'Choose an Ethernet interface.',
      });
    const addresses =
      p.addresses && host ? readAddresses(view, asks, p.addresses, 'addresses', host.name, row?.id) : undefined;
    const gateway = readGateway(asks, p.gateway, addresses ?? row?.addresses ?? []);
    const isid = !p.isid?.trim()
      ? row?.isid
      : p.isid.trim() === 'none'
        ? null
        : asks.value(parseIsid(p.isid), 'isid', { kind: 'interface', name: p.interface });
    if (asks.refusals.length > 0 || !host || !row) return refused(asks.refusals);
    const after: HostInterface = {
      ...withNamed(row, p, 'mtu', 'bound', 'vlan'),
      addresses: addresses ?? row.addresses,
      uplinks: p.uplinks ? askUplinks(asks, p.uplinks, subjectOf('interface', row)) : row.uplinks,
      gateway: gateway === undefined ? row.gateway : gateway,
      isid: isid === undefined ? row.isid : isid,
    };
    refuseSmallMtu(asks, after, subjectOf('interface', row));
    const unfit = after.bound ? bindingFailure(after) : null;
    if (unfit)
      asks.refuse({
        code: unfit,
        field: 'uplinks',
        subject: subjectOf('interface', row),
        message: `${row.name} has ${activeUplinks(after).length} active uplinks; a bound interface has exactly one.`,
        mend: unfit === 'no-active-uplink' ? 'Set one active.' : 'Leave one active and set the others unused.',
      });
    const effects = [changed('interface', row, after)];
    const around = pathsAround(view, effects, mappingsOfHosts(view, [host.id]));
    if (asks.refusals.length === 0) refuseCut(asks, around, subjectOf('interface', row), 'addresses');
    if (asks.refusals.length > 0) return refused(asks.refusals);
    const all = view
      .table('interface')
      .by('host', host.id)
      .map((one) => (one.id === row.id ? after : one));
    return planned({
      device: { kind: 'host', id: host.id, name: host.name },
      title: `${row.name}: ${movedWords(row, after, interfaceWords)}`,
      takes: 2 * SECOND,
      effects,
      notes: [
        ...networkNotes(view, after, 'the interface', portalSenders(view)),
        ...bindingWarnings(all).map((warning) => warning.says),
        ...lossNotes(around),
      ],
    });
  },
  foretell(view, draft) {
    const host = draftHost(view, draft);
    const fields: Foretold['fields'] = {
      host: { choices: hostChoices(view) },
      interface: {},
      addresses: {},
      mtu: {},
      bound: {},
      uplinks: {},
      gateway: {},
      vlan: {},
      isid: {},
    };
    if (!host) return { fields };
    const rows = [...view.table('interface').by('host', host.id)].sort(byName);
    fields.interface!.choices = rows.map((row) => {
      const unfit = bindingFailure(row);
      return {
        value: row.name,
        label: `${row.name} ${row.addresses[0]?.ip ?? ''}${row.bound ? ', bound' : ''}${unfit ? `; not fit to be bound: ${bindingWords[unfit].split(':')[0]}` : ''}`,
        ...(row.kind === 'fc' ? { unfit: 'is a Fibre Channel port' } : {}),
      };
    });
    const row = lookUp(view, 'interface', draftText(draft, 'interface'), host.id);
    if (!row || row.kind === 'fc') return { fields };
    fields.addresses!.suggested = row.addresses.map(formatAddress);
    fields.mtu!.suggested = String(row.mtu);
    fields.uplinks!.suggested = row.uplinks.map((uplink) =>
      uplink.use === 'active' ? uplink.name : `${uplink.name} ${uplink.use}`,
    );
    const network = row.addresses[0] && networkOf(view, row.addresses[0]);
    const mtu = Number(draftText(draft, 'mtu') || row.mtu);
    fields.mtu!.says = [
      ...(network ? [`${network.name} carries ${network.mtu}.`] : []),
      ...networkNotes(view, { ...row, mtu, gateway: null }, 'the interface', portalSenders(view)),
    ].join(' ');
    fields.isid!.says = `Its sessions begin with 0x${isidOf(row)}, ${isidType(isidOf(row))}. Two interfaces with one ISID push each other’s sessions out.`;
    if (row.isid) fields.isid!.suggested = `0x${row.isid}`;
    if (row.gateway) fields.gateway!.suggested = row.gateway;
    fields.vlan!.says = network ? `Empty: ${network.vlan}, as ${network.name} has.` : '';
    const uplinks = Array.isArray(draft.uplinks) ? readUplinks(draftList(draft, 'uplinks')) : row.uplinks;
    const count = activeUplinks({ ...row, uplinks }).length;
    fields.uplinks!.says = `${count} active; a bound interface has exactly one. Write standby or unused behind those that are.`;
    const bound = draft.bound === undefined || draft.bound === '' ? row.bound : draftFlag(draft, 'bound');
    const around = pathsAround(view, [changed('interface', row, { bound, uplinks })], mappingsOfHosts(view, [host.id]));
    fields.bound!.says = `Paths of ${host.name} ${around.before} → ${around.after}.`;
    return { fields };
  },
};
