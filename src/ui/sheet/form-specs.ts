/** How a parameter is entered. The words beside it come from the core. */
export type Control = 'text' | 'number' | 'select' | 'several' | 'lines' | 'drives' | 'levels' | 'ports' | 'interfaces';

export interface FieldSpec {
  name: string;
  label: string;
  control: Control;
  placeholder?: string;
  /** Sent even when empty. */
  keepEmpty?: true;
}

export interface FormSpec {
  title: string;
  fields: FieldSpec[];
  /** Columns of the Span that stay in sight beside the sheet. */
  columns: number[];
}

const field = (name: string, label: string, control: Control, more: Partial<FieldSpec> = {}): FieldSpec => ({
  name,
  label,
  control,
  ...more,
});
const array = field('array', 'Array', 'select');
const host = field('host', 'Host', 'select');

/** The sheet of each operation: which fields stand in which order. */
export const formSpecs: Record<string, FormSpec> = {
  'raid-group.create': {
    title: 'Carve a RAID group',
    columns: [],
    fields: [
      array,
      field('drives', 'Drives', 'drives'),
      field('level', 'Level', 'levels'),
      field('name', 'Name', 'text'),
      field('chunk', 'Chunk', 'select'),
    ],
  },
  'raid-group.delete': {
    title: 'Retire a RAID group',
    columns: [1, 2, 3],
    fields: [array, field('name', 'RAID group', 'select')],
  },
  'pool.create': {
    title: 'Make a pool',
    columns: [1, 2, 3],
    fields: [
      array,
      field('raidGroups', 'RAID groups', 'several'),
      field('name', 'Name', 'text'),
      field('extentSize', 'Extent', 'select'),
    ],
  },
  'pool.delete': { title: 'Retire a pool', columns: [2, 3, 4], fields: [array, field('name', 'Pool', 'select')] },
  'volume.create': {
    title: 'Carve volumes',
    columns: [2, 3, 4],
    fields: [
      array,
      field('pool', 'Pool', 'select'),
      field('name', 'Name', 'text'),
      field('count', 'How many', 'number'),
      field('size', 'Size of each', 'text', { placeholder: '500 GiB' }),
      field('provisioning', 'Kind', 'select'),
      field('owner', 'Owner', 'select'),
      field('startNumber', 'First number', 'number'),
    ],
  },
  'volume.delete': {
    title: 'Retire volumes',
    columns: [3, 4, 7],
    fields: [array, field('volumes', 'Volumes', 'several')],
  },
  'port.configure': {
    title: 'Set up an array port',
    columns: [4, 5, 6, 7],
    fields: [
      array,
      field('port', 'Port', 'select'),
      field('role', 'Role', 'select'),
      field('addresses', 'Addresses', 'lines', { placeholder: '10.40.1.11/24', keepEmpty: true }),
      field('mtu', 'MTU', 'number'),
    ],
  },
  'host.create': {
    title: 'Register a host',
    columns: [5, 6, 7],
    fields: [
      field('name', 'Name', 'text'),
      field('os', 'Operating system', 'select'),
      field('site', 'Site', 'select'),
      field('cluster', 'Host cluster', 'text', { placeholder: 'none' }),
      field('initiators', 'Initiators', 'lines', { placeholder: 'iqn.2031-04.example.skarholt:…' }),
      field('interfaces', 'Interfaces', 'interfaces'),
    ],
  },
  'host.delete': { title: 'Retire a host', columns: [4, 6, 7], fields: [host] },
  'mapping.create': {
    title: 'Map volumes',
    columns: [4, 5, 6, 7],
    fields: [
      host,
      array,
      field('volumes', 'Volumes', 'several'),
      field('ports', 'Through', 'ports'),
      field('lun', 'LUN', 'text'),
      field('access', 'Access', 'select'),
    ],
  },
  'mapping.delete': {
    title: 'Take a mapping away',
    columns: [4, 5, 6, 7],
    fields: [host, array, field('volumes', 'Volumes', 'several')],
  },
  'host.rescan': { title: 'Rescan a host', columns: [4, 5, 6, 7], fields: [host] },
  'host-device.format': {
    title: 'Format and mount a device',
    columns: [4, 5, 6, 7],
    fields: [
      host,
      field('device', 'Device', 'select'),
      field('fileSystem', 'File system', 'select'),
      field('mountPoint', 'Mount point', 'text'),
    ],
  },
  'host-device.mount': {
    title: 'Mount a device',
    columns: [4, 5, 6, 7],
    fields: [host, field('device', 'Device', 'select'), field('mountPoint', 'Mount point', 'text')],
  },
  'host-device.unmount': {
    title: 'Unmount a device',
    columns: [4, 5, 6, 7],
    fields: [host, field('device', 'Device', 'select')],
  },
};

/** Parameters as they are sent: what is empty is left out. */
export function paramsOf(spec: FormSpec, values: Record<string, unknown>): Record<string, unknown> {
  const params: Record<string, unknown> = {};
  for (const { name, control, keepEmpty } of spec.fields) {
    const value = values[name];
    if (control === 'interfaces') {
      const rows = (Array.isArray(value) ? value : []) as { name?: string; address?: string; mtu?: string }[];
      const filled = rows.filter((row) => row.name?.trim() || row.address?.trim());
      if (filled.length > 0)
        params[name] = filled.map((row) => ({
          name: row.name ?? '',
          addresses: row.address?.trim() ? row.address.split(/[\s,;]+/).filter(Boolean) : [],
          ...(row.mtu?.trim() ? { mtu: row.mtu.trim() } : {}),
        }));
      continue;
    }
    if (Array.isArray(value)) {
      const items = (value as unknown[]).filter((item) => typeof item === 'string' && item.trim() !== '');
      if (items.length > 0 || keepEmpty) params[name] = items;
    } else if (typeof value === 'string' && value.trim() !== '') params[name] = value.trim();
  }
  return params;
}

/** What the fields of a form start with, from an operation's parameters. */
export function valuesOf(spec: FormSpec, params: Record<string, unknown>): Record<string, unknown> {
  const values: Record<string, unknown> = {};
  for (const { name, control } of spec.fields) {
    const given = params[name];
    if (control === 'interfaces')
      values[name] = Array.isArray(given)
        ? (given as { name?: string; addresses?: string[]; mtu?: number }[]).map((row) => ({
            name: row.name ?? '',
            address: (row.addresses ?? []).join(' '),
            mtu: String(row.mtu ?? ''),
          }))
        : [];
    else if (control === 'several' || control === 'lines' || control === 'drives')
      values[name] = Array.isArray(given) ? given : [];
    else if (control === 'ports') values[name] = Array.isArray(given) ? given : 'all';
    else values[name] = typeof given === 'string' ? given : typeof given === 'number' ? String(given) : '';
  }
  return values;
}
