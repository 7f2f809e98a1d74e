import { shownAs } from '../copies/legs';
import type { EstateView } from '../estate/estate';
import { arrayOf, clusterOf, controllerOf, fabricOf, hostOf, siteOf, switchOf, volumeOf } from '../estate/relations';
import { families } from '../attach/families';
import { pathFinder } from '../attach/paths';
import { readOnlyDevice } from '../attach/write-access';
import { initiatorForm, initiatorText } from '../attach/initiators';
import { loginRefusal } from '../iscsi/login';
import { formatWwn } from '../naming/wwn';
import { mainTarget } from '../iscsi/target';
import { formatAddress } from '../network/address';
import { networkOf } from '../network/reach';
import { byName } from '../operation/draft';
import { formatBytes } from '../units/bytes';
import { formatRate } from '../units/rate';
import type { Post } from './model';
import { plural, reachedLine, type FactLine, type Told } from './facts-lines';
import { postOf, worstPost } from './posts';

export function portFacts(view: EstateView, id: string): Told {
  const port = view.table('port').get(id)!;
  const array = arrayOf(view, port);
  const controller = controllerOf(view, port);
  const finder = pathFinder(view);
  const hosts = [
    ...new Set(
      [...view.table('mapping').values()]
        .filter((mapping) => volumeOf(view, mapping).array === port.array)
        .map((mapping) => mapping.host),
    ),
  ];
  const lines = hosts.flatMap((host): FactLine[] => {
    const { up, missing } = finder.sessions(host, port.array);
    const own = up.filter((session) => session.port === id).length;
    const gaps = missing.filter((gap) => gap.port === id && gap.reason !== 'port-role-off');
    if (own + gaps.length === 0) return [];
    return [
      {
        post: postOf(own === 0, gaps.length > 0),
        text: view.table('host').get(host)!.name,
        more: `${plural(own, 'session')}${gaps[0] ? `; ${gaps[0].message}` : ''}`,
      },
    ];
  });
  const role = { fc: 'Fibre Channel', iscsi: 'iSCSI portal', 'nvme-tcp': 'NVMe/TCP', none: 'Ethernet, no role' }[
    port.role
  ];
  return {
    name: `${array.name} ${port.name}`,
    post: port.state === 'down' || controller.state === 'down' ? 'broken' : 'stands',
    line: `${role}, ${port.speed} Gb/s, on controller ${controller.name}`,
    verbs: [
      ...(port.kind === 'ethernet'
        ? [{ label: 'Set up', do: 'port.configure', params: { array: array.name, port: port.name } }]
        : []),
      { label: 'What if it fails', do: 'what-if', params: { failed: [`${array.name} ${port.name}`] } },
    ],
    cells: [
      {
        title: 'Port',
        rows:
          port.kind === 'fc'
            ? [
                { label: 'WWPN', value: port.wwpn ? formatWwn(port.wwpn) : '–', mono: true },
                { label: 'Plugged in', value: cableText(view, port) },
              ]
            : [
                { label: 'Address', value: port.addresses.map(formatAddress).join(', ') || 'none', mono: true },
                { label: 'MTU', value: String(port.mtu) },
                { label: 'Portal group', value: String(port.portalGroup) },
                {
                  label: 'Network',
                  value: port.addresses[0] ? (networkOf(view, port.addresses[0])?.name ?? 'unknown') : '–',
                },
              ],
      },
      {
        title: 'Logged in',
        lines:
          lines.length > 0
            ? lines
            : [
                {
                  text: port.role === 'none' ? 'Give it a role first.' : 'Nobody yet.',
                },
              ],
      },
    ],
  };
}

/** `a1 port 4, fabric A` */
function cableText(view: EstateView, end: { switch: string | null; switchPort: number }): string {
  const found = switchOf(view, end);
  return found ? `${found.name} port ${end.switchPort}, fabric ${fabricOf(view, found).name}` : 'nowhere';
}

export function networkFacts(view: EstateView, id: string): Told {
  const network = view.table('network').get(id)!;
  const portals = [...view.table('port').values()].filter((port) =>
    port.addresses.some((address) => networkOf(view, address)?.id === id),
  );
  const interfaces = [...view.table('interface').values()].filter((row) =>
    row.addresses.some((address) => networkOf(view, address)?.id === id),
  );
  const odd = [...portals, ...interfaces].filter((row) => row.mtu !== network.mtu);
  return {
    name: network.name,
    post: network.state === 'up' ? 'stands' : 'broken',
    line: `${network.cidr} at ${siteOf(view, network).name}`,
    verbs: [{ label: 'What if it fails', do: 'what-if', params: { failed: [network.name] } }],
    cells: [
      {
        title: 'Network',
        rows: [
          { label: 'Subnet', value: network.cidr, mono: true },
          { label: 'MTU', value: String(network.mtu) },
          { label: 'Portals', value: String(portals.length) },
          { label: 'Interfaces', value: String(interfaces.length) },
        ],
      },
      {
        title: 'Frame sizes',
        lines:
          odd.length === 0
            ? [{ post: 'stands', text: 'All ends agree.' }]
            : odd.slice(0, 5).map((row): FactLine => ({ post: 'leans', text: row.name, more: `sends ${row.mtu}` })),
      },
    ],
  };
}

export function interfaceFacts(view: EstateView, id: string): Told {
  const row = view.table('interface').get(id)!;
  const host = hostOf(view, row);
  return {
    name: `${host?.name ?? 'Nobody’s'} ${row.name}`,
    post: row.state === 'up' ? 'stands' : 'broken',
    line: host ? `Port of ${host.name}` : 'Belongs to no host yet',
    verbs: [],
    cells: [
      {
        title: row.kind === 'fc' ? 'Fibre Channel port' : 'Interface',
        rows:
          row.kind === 'fc'
            ? [
                { label: 'WWPN', value: row.wwpn ? formatWwn(row.wwpn) : '–', mono: true },
                { label: 'Node name', value: row.wwnn ? formatWwn(row.wwnn) : '–', mono: true },
                { label: 'Plugged in', value: cableText(view, row) },
                { label: 'Speed', value: `${row.speed} Gb/s` },
              ]
            : [
                { label: 'Address', value: row.addresses.map(formatAddress).join(', ') || 'none', mono: true },
                { label: 'MTU', value: String(row.mtu) },
                {
                  label: 'Network',
                  value: row.addresses[0] ? (networkOf(view, row.addresses[0])?.name ?? 'unknown') : '–',
                },
              ],
      },
    ],
  };
}

export function hostFacts(view: EstateView, id: string): Told {
  const host = view.table('host').get(id)!;
  const finder = pathFinder(view);
  const mappings = [...view.table('mapping').by('host', id)].sort((a, b) => a.lun - b.lun);
  const devices = [...view.table('hostDevice').by('host', id)].sort(byName);
  const access = host.presents
    ? mappings
        .filter((mapping) => mapping.subsystem === null)
        .flatMap(
          (mapping) =>
            view.table('target').get(mapping.target ?? '') ?? mainTarget(view, volumeOf(view, mapping).array) ?? [],
        )
        .map((target) => loginRefusal(view, host, target))
        .find((found) => found !== null)
    : null;
  const unseen = mappings.filter(
    (mapping) => !devices.some((device) => device.volume === shownAs(view, mapping.volume)),
  );
  const lines = mappings.map((mapping) => {
    const line = reachedLine(view, finder, id, volumeOf(view, mapping));
    return {
      ...line,
      text: `${volumeOf(view, mapping).name} ${line.text.slice(host.name.length + 1)}`,
    };
  });
  const initiators = view.table('initiator').by('host', id);
  const worst =
    mappings.find((_, k) => lines[k]!.post === 'broken') ??
    mappings.find((_, k) => lines[k]!.post === 'leans') ??
    mappings[0];
  const traced = worst && volumeOf(view, worst);
  return {
    name: host.name,
    post: worstPost(lines),
    line: `${families[host.os].label} at ${siteOf(view, host).name}${host.cluster ? `, cluster ${clusterOf(view, host)?.name}` : ''}`,
    verbs: [
      { label: 'Give storage', do: 'storage.give', params: { host: host.name } },
      { label: 'Map volumes', do: 'mapping.create', params: { host: host.name } },
      { label: 'Devices and paths', do: 'host', params: { host: host.name } },
      { label: 'Rescan', do: 'host.rescan', params: { host: host.name } },
      ...(traced
        ? [
            {
              label: 'Trace',
              do: 'trace',
              params: { host: host.name, volume: `${arrayOf(view, traced).name}/${traced.name}` },
            },
          ]
        : []),
      ...(mappings.length > 0
        ? [{ label: 'Unmap', do: 'mapping.delete', params: { host: host.name } }]
        : [{ label: 'Retire', do: 'host.delete', params: { host: host.name } }]),
    ],
    cells: [
      {
        title: 'Known as',
        rows:
          initiators.length > 0
            ? initiators.map((row) => ({
                label: { iscsi: 'IQN', nqn: 'NQN', wwn: 'WWPN' }[initiatorForm(row.name)],
                value: initiatorText(row.name),
                mono: true,
              }))
            : [{ label: 'Initiator', value: 'none' }],
        lines: access ? [{ post: 'broken', text: access.message }] : [],
      },
      {
        title: 'Sees',
        lines:
          lines.length === 0
            ? [{ text: 'Nothing is mapped. Map volumes.' }]
            : [
                ...(unseen.length > 0
                  ? [
                      {
                        post: 'leans' as Post,
                        text: `${plural(unseen.length, 'volume')} mapped, not looked for yet`,
                        more: 'rescan',
                      },
                    ]
                  : []),
                ...lines,
              ],
      },
      {
        title: 'Writes',
        lines: devices
          .filter((device) => device.mountPoint)
          .map((device) => ({
            text: device.mountPoint!,
            ...(device.readOnly ? { post: 'leans' as const } : {}),
            more: `${formatBytes(device.used, 'used')} of ${formatBytes(device.size)}, ${readOnlyDevice(view, device) !== null || device.readOnly ? 'read-only' : formatRate(device.writeRate)}`,
          })),
      },
    ],
  };
}
