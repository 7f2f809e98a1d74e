/** How a parameter is entered. The words beside it come from the core. */
export type Control =
  | 'text'
  | 'secret'
  | 'number'
  | 'select'
  | 'several'
  | 'lines'
  | 'drives'
  | 'levels'
  | 'ports'
  | 'interfaces'
  | 'switch'
  | 'slider';

export interface FieldSpec {
  name: string;
  label: string;
  control: Control;
  placeholder?: string;
  /** Sent even when empty. */
  keepEmpty?: true;
  /** Stands below, behind "More". */
  more?: true;
  /** Of a slider: its ends, and the unit beside the value. */
  range?: { from: number; to: number; step: number; unit: string; start: number };
}

export interface FormSpec {
  title: string;
  fields: FieldSpec[];
  /** How the reader looks at the choice: asked for consequences alone, never sent with the operation. Names begin with $. */
  lens?: FieldSpec[];
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
const fabric = field('fabric', 'Fabric', 'select');
const cluster = field('cluster', 'Or cluster', 'select');
const portals = field('portals', 'Only portals', 'lines', { placeholder: '10.40.1.11:3260', more: true });
const pool = field('name', 'Pool', 'select');
const group = field('name', 'RAID group', 'select');
const volumes = field('volumes', 'Volumes', 'several');
const drives = field('drives', 'Drives', 'drives');
const more = { more: true } as const;

/** What can be set about a pool, at its making and later. */
const policy = [
  field('notice', 'Notice at, %', 'number'),
  field('urgent', 'Urgent at, %', 'number'),
  field('subscriptionLimit', 'Promise at most, %', 'text', { placeholder: 'none' }),
  field('whenFull', 'When full', 'select'),
  field('dedupe', 'Dedupe', 'select'),
  field('compression', 'Compression', 'switch'),
  field('reserve', 'Reserve, %', 'number', more),
  field('plannedReduction', 'Reduction planned', 'text', { placeholder: '1.8', ...more }),
  field('alertTo', 'Tell', 'text', { placeholder: 'storage desk', ...more }),
];

/** What can be said of an iSCSI target, at its making and later. */
const targetPolicy = [
  field('auth', 'Demands', 'select'),
  field('usual', 'Initiators may', 'select'),
  field('exceptions', 'Except', 'lines', { placeholder: 'gate-1 read-only', keepEmpty: true }),
  field('portals', 'Answers at', 'lines', { placeholder: 'all' }),
  field('enabled', 'On', 'switch'),
  field('authServer', 'Judged by', 'select', more),
  field('chapName', 'Its CHAP name', 'text', more),
  field('chapSecret', 'Its secret', 'secret', more),
  field('account', 'Own account', 'text', more),
  field('accountSecret', 'Its secret', 'secret', more),
  field('anyone', 'Anyone', 'switch', more),
  field('headerDigest', 'Header digest', 'select', more),
  field('dataDigest', 'Data digest', 'select', more),
  field('sessionLimit', 'Sessions, at most', 'text', { placeholder: 'none', ...more }),
  field('maxConnections', 'Connections each', 'number', more),
  field('isns', 'Registers', 'switch', more),
];

/** The sheet of each operation: which fields stand in which order. */
export const formSpecs: Record<string, FormSpec> = {
  'drive.assign-spare': {
    title: 'Keep drives as spares',
    columns: [],
    fields: [array, drives, field('raidGroup', 'For', 'select')],
  },
  'drive.release-spare': { title: 'Release spares', columns: [], fields: [array, drives] },
  'drive.locate': { title: 'Locate drives', columns: [], fields: [array, drives, field('on', 'Lamp', 'select')] },
  'drive.replace': {
    title: 'Replace drives',
    columns: [],
    fields: [array, drives, field('capacity', 'New capacity', 'text', { placeholder: 'the same' })],
  },
  'drive.copy-to-spare': { title: 'Copy drives to spares', columns: [], fields: [array, drives] },
  'drive.erase': { title: 'Erase drives securely', columns: [], fields: [array, drives] },
  'drive.clear-label': { title: 'Clear foreign labels', columns: [], fields: [array, drives] },
  'raid-group.create': {
    title: 'Carve a RAID group',
    columns: [],
    fields: [
      array,
      drives,
      field('level', 'Level', 'levels'),
      field('name', 'Name', 'text'),
      field('chunk', 'Chunk', 'select'),
      field('spares', 'Own spares', 'several'),
      field('legs', 'Legs', 'number', more),
      field('copies', 'Copies', 'number', more),
      field('stripe', 'Stripe', 'text', { placeholder: '8+2', ...more }),
      field('spareColumns', 'Spare space, drives', 'number', more),
      field('mixed', 'Mixed classes', 'switch', more),
    ],
    lens: [
      field('$load', 'Busy with hosts', 'slider', { range: { from: 0, to: 100, step: 5, unit: '%', start: 30 } }),
      field('$reads', 'Reads', 'slider', { range: { from: 0, to: 100, step: 5, unit: '%', start: 70 } }),
      field('$ioSize', 'Size of one I/O', 'text', { placeholder: '8 KiB' }),
    ],
  },
  'raid-group.expand': {
    title: 'Expand a RAID group',
    columns: [],
    fields: [array, group, drives, field('mixed', 'Mixed classes', 'switch', more)],
  },
  'raid-group.configure': {
    title: 'Change a RAID group',
    columns: [1, 2, 3],
    fields: [array, group, field('newName', 'New name', 'text'), field('priority', 'Priority', 'select')],
  },
  'raid-group.scrub': { title: 'Scrub a RAID group', columns: [1, 2, 3], fields: [array, group] },
  'raid-group.delete': {
    title: 'Retire a RAID group',
    columns: [1, 2, 3],
    fields: [array, group, field('erase', 'Erase drives', 'switch')],
  },
  'pool.create': {
    title: 'Make a pool',
    columns: [1, 2, 3],
    fields: [
      array,
      field('raidGroups', 'RAID groups', 'several'),
      field('name', 'Name', 'text'),
      field('extentSize', 'Extent', 'select'),
      field('encryption', 'Encryption', 'switch'),
      ...policy,
    ],
  },
  'pool.configure': {
    title: 'Change a pool',
    columns: [2, 3, 4],
    fields: [array, pool, ...policy, field('newName', 'New name', 'text', more)],
  },
  'pool.extend': {
    title: 'Extend a pool',
    columns: [1, 2, 3],
    fields: [array, pool, field('raidGroups', 'RAID groups', 'several'), field('weaker', 'Weaker ones too', 'switch')],
  },
  'pool.remove-group': {
    title: 'Take a RAID group out of a pool',
    columns: [1, 2, 3],
    fields: [array, pool, field('raidGroup', 'RAID group', 'select')],
  },
  'pool.rebalance': { title: 'Rebalance a pool', columns: [1, 2, 3], fields: [array, pool] },
  'pool.reduce': { title: 'Reduce a pool now', columns: [2, 3, 4], fields: [array, pool] },
  'pool.delete': { title: 'Retire a pool', columns: [2, 3, 4], fields: [array, pool] },
  'workload.create': {
    title: 'Name a workload',
    columns: [3, 4, 7],
    fields: [field('name', 'Name', 'text'), field('notes', 'Notes', 'text')],
  },
  'workload.delete': { title: 'Drop a workload', columns: [3, 4, 7], fields: [field('name', 'Workload', 'select')] },
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
      field('workload', 'Workload', 'select'),
      field('owner', 'Owner', 'select'),
      field('startNumber', 'First number', 'number', more),
      field('tier', 'Starts on', 'select', more),
      field('reduction', 'Reduction', 'switch', more),
      field('blockSize', 'Block', 'select', more),
      field('notes', 'Notes', 'text', more),
      field('raidGroup', 'Or RAID group', 'select', more),
    ],
  },
  'volume.resize': {
    title: 'Resize volumes',
    columns: [3, 4, 7],
    fields: [
      array,
      volumes,
      field('size', 'New size', 'text', { placeholder: '3 TiB' }),
      field('hostShrunk', 'Host uses less', 'switch', more),
      field('discard', 'Give up the end', 'switch', more),
    ],
  },
  'volume.convert': {
    title: 'Make volumes thin or thick',
    columns: [2, 3, 4],
    fields: [array, field('to', 'Make them', 'select'), volumes],
  },
  'volume.reclaim': { title: 'Reclaim freed blocks', columns: [3, 4, 7], fields: [array, volumes] },
  'volume.configure': {
    title: 'Change volumes',
    columns: [3, 4, 7],
    fields: [
      array,
      volumes,
      field('newName', 'New name', 'text'),
      field('workload', 'Workload', 'select'),
      field('owner', 'Owner', 'select'),
      field('tier', 'Starts on', 'select'),
      field('reduction', 'Reduction', 'select'),
      field('reclaimDays', 'Reclaim every, days', 'number'),
      field('notes', 'Notes', 'text'),
      field('boot', 'Boot volume', 'select', more),
    ],
  },
  'volume.delete': {
    title: 'Retire volumes',
    columns: [3, 4, 7],
    fields: [
      array,
      volumes,
      field('keepDays', 'Keep for, days', 'number'),
      field('confirm', 'Names once more', 'lines'),
    ],
  },
  'volume.restore': { title: 'Restore retired volumes', columns: [3, 4, 7], fields: [array, volumes] },
  'volume.purge': { title: 'Give up retired volumes', columns: [3, 4, 7], fields: [array, volumes] },
  'port.configure': {
    title: 'Set up an array port',
    columns: [4, 5, 6, 7],
    fields: [
      array,
      field('port', 'Port', 'select'),
      field('role', 'Role', 'select'),
      field('addresses', 'Addresses', 'lines', { placeholder: '10.40.1.11/24', keepEmpty: true }),
      field('mtu', 'MTU', 'number'),
      field('gateway', 'Gateway', 'text', more),
      field('vlan', 'VLAN', 'text', more),
      field('tcpPort', 'TCP port', 'number', more),
      field('portalGroup', 'Portal group', 'number', more),
    ],
  },
  'controller.fail-over': {
    title: 'Fail a controller over',
    columns: [4, 5, 6, 7],
    fields: [array, field('controller', 'Controller', 'select')],
  },
  'controller.give-back': {
    title: 'Give back to a controller',
    columns: [4, 5, 6, 7],
    fields: [array, field('controller', 'Controller', 'select')],
  },
  'fabric.configure': {
    title: 'Change a fabric',
    columns: [5, 6, 7],
    fields: [
      fabric,
      field('defaultZone', 'Default zone', 'select'),
      field('mergeControl', 'Merges', 'select'),
      field('zonePattern', 'Zones are called', 'text'),
      field('aliasPattern', 'Aliases are called', 'text'),
    ],
  },
  'alias.create': {
    title: 'Name a port',
    columns: [5, 6, 7],
    fields: [fabric, field('name', 'Alias', 'text'), field('members', 'Ports', 'several')],
  },
  'alias.configure': {
    title: 'Change an alias',
    columns: [5, 6, 7],
    fields: [
      fabric,
      field('name', 'Alias', 'select'),
      field('newName', 'New name', 'text'),
      field('members', 'Ports', 'lines'),
    ],
  },
  'alias.delete': { title: 'Drop an alias', columns: [5, 6, 7], fields: [fabric, field('name', 'Alias', 'select')] },
  'zone.create': {
    title: 'Make a zone',
    columns: [5, 6, 7],
    fields: [
      fabric,
      field('name', 'Zone', 'text'),
      field('kind', 'Kind', 'select'),
      field('members', 'Members', 'several'),
      field('principals', 'Principals', 'several', more),
      field('zoneSet', 'Zone set', 'select', more),
    ],
  },
  'zone.configure': {
    title: 'Change a zone',
    columns: [5, 6, 7],
    fields: [
      fabric,
      field('name', 'Zone', 'select'),
      field('newName', 'New name', 'text'),
      field('kind', 'Kind', 'select'),
      field('members', 'Members', 'lines'),
      field('principals', 'Principals', 'lines', more),
    ],
  },
  'zone.delete': {
    title: 'Drop a zone',
    columns: [5, 6, 7],
    fields: [fabric, field('name', 'Zone', 'select'), field('aliases', 'Its aliases too', 'switch')],
  },
  'zone-set.create': {
    title: 'Make a zone set',
    columns: [5, 6, 7],
    fields: [fabric, field('name', 'Zone set', 'text'), field('zones', 'Zones', 'several')],
  },
  'zone-set.configure': {
    title: 'Change a zone set',
    columns: [5, 6, 7],
    fields: [fabric, field('name', 'Zone set', 'select'), field('zones', 'Zones', 'several')],
  },
  'zone-set.delete': {
    title: 'Drop a zone set',
    columns: [5, 6, 7],
    fields: [fabric, field('name', 'Zone set', 'select')],
  },
  'zone-set.activate': {
    title: 'Activate a zone set',
    columns: [5, 6, 7],
    fields: [fabric, field('zoneSet', 'Zone set', 'select')],
  },
  'zoning.join': {
    title: 'Join a host with an array',
    columns: [5, 6, 7],
    fields: [fabric, host, cluster, array, field('ports', 'Array ports', 'several')],
  },
  'zoning.part': { title: 'Part a host from an array', columns: [5, 6, 7], fields: [fabric, host, cluster, array] },
  'array.configure': {
    title: 'Change an array',
    columns: [1, 2, 3],
    fields: [
      array,
      field('pathAccess', 'Controllers', 'select'),
      field('rebuildBudget', 'Rebuild, at most', 'text', { placeholder: '400 MB/s' }),
      field('referrals', 'Refers to', 'lines', { placeholder: '10.40.1.31', keepEmpty: true }),
    ],
  },
  'target.create': {
    title: 'Make a target',
    columns: [5, 6, 7],
    fields: [array, field('name', 'Alias', 'text'), field('iqn', 'iSCSI name', 'text'), ...targetPolicy],
  },
  'target.configure': {
    title: 'Set up a target',
    columns: [5, 6, 7],
    fields: [array, field('name', 'Target', 'select'), ...targetPolicy],
  },
  'target.delete': {
    title: 'Drop a target',
    columns: [5, 6, 7],
    fields: [array, field('name', 'Target', 'select')],
  },
  'initiator.configure': {
    title: 'Change an initiator',
    columns: [5, 6, 7],
    fields: [
      host,
      field('initiator', 'On record', 'select'),
      field('newName', 'Shall be', 'text'),
      array,
      field('access', 'It', 'select'),
      field('chapName', 'CHAP name', 'text', more),
      field('chapSecret', 'Secret', 'secret', more),
    ],
  },
  'auth-server.configure': {
    title: 'Set up an authentication server',
    columns: [5, 6, 7],
    fields: [
      field('name', 'Server', 'text'),
      field('ip', 'Address', 'text', { placeholder: '10.40.1.6' }),
      field('account', 'Account', 'text'),
      field('secret', 'Secret', 'secret'),
    ],
  },
  'name-server.configure': {
    title: 'Set up a name server',
    columns: [5, 6, 7],
    fields: [
      field('name', 'Name server', 'text'),
      field('ip', 'Address', 'text', { placeholder: '10.40.1.5' }),
      field('defaultDomain', 'Default domain', 'switch'),
      field('controlNodes', 'Control nodes', 'several', more),
    ],
  },
  'discovery-domain.create': {
    title: 'Make a discovery domain',
    columns: [5, 6, 7],
    fields: [field('name', 'Domain', 'text'), field('members', 'Members', 'several'), portals],
  },
  'discovery-domain.configure': {
    title: 'Change a discovery domain',
    columns: [5, 6, 7],
    fields: [field('name', 'Domain', 'select'), field('members', 'Members', 'several'), portals],
  },
  'discovery-domain.delete': {
    title: 'Drop a discovery domain',
    columns: [5, 6, 7],
    fields: [field('name', 'Domain', 'select')],
  },
  'domain-set.create': {
    title: 'Make a domain set',
    columns: [5, 6, 7],
    fields: [
      field('name', 'Domain set', 'text'),
      field('domains', 'Domains', 'several'),
      field('enabled', 'Enabled', 'switch'),
    ],
  },
  'domain-set.configure': {
    title: 'Change a domain set',
    columns: [5, 6, 7],
    fields: [
      field('name', 'Domain set', 'select'),
      field('domains', 'Domains', 'several'),
      field('enabled', 'Enabled', 'switch'),
    ],
  },
  'domain-set.delete': {
    title: 'Drop a domain set',
    columns: [5, 6, 7],
    fields: [field('name', 'Domain set', 'select')],
  },
  'subsystem.create': {
    title: 'Make a subsystem',
    columns: [4, 5, 6, 7],
    fields: [
      array,
      field('name', 'Name', 'text'),
      field('nqn', 'NQN', 'text'),
      field('allowed', 'May connect', 'several'),
      field('ports', 'Offered at', 'ports'),
      field('allowAny', 'Every host', 'switch', more),
      field('controllerLimit', 'Controllers, at most', 'number', more),
      field('queueLimit', 'I/O queues each', 'number', more),
    ],
  },
  'subsystem.configure': {
    title: 'Change a subsystem',
    columns: [4, 5, 6, 7],
    fields: [
      array,
      field('name', 'Subsystem', 'select'),
      field('allowed', 'May connect', 'lines'),
      field('ports', 'Offered at', 'ports'),
      field('allowAny', 'Every host', 'switch', more),
      field('controllerLimit', 'Controllers, at most', 'number', more),
      field('queueLimit', 'I/O queues each', 'number', more),
    ],
  },
  'subsystem.delete': {
    title: 'Drop a subsystem',
    columns: [4, 5, 6, 7],
    fields: [array, field('name', 'Subsystem', 'select')],
  },
  'host.configure': {
    title: 'Change a host',
    columns: [5, 6, 7],
    fields: [
      host,
      field('newName', 'New name', 'text'),
      field('cluster', 'Host cluster', 'select'),
      field('initiators', 'Initiators', 'lines'),
      field('selector', 'Spreads I/O', 'select'),
      field('discovery', 'Finds targets', 'select'),
      field('chapSecret', 'Its secret', 'secret', more),
      field('targetSecret', 'Of arrays', 'secret', more),
      field('chapName', 'CHAP name', 'text', more),
      field('autoLogin', 'Logs in itself', 'switch', more),
      field('autoRescan', 'Looks itself', 'switch', more),
      field('multipath', 'Combines paths', 'switch', more),
      field('connections', 'iSCSI connections', 'number', more),
      field('ioQueues', 'NVMe I/O queues', 'number', more),
      field('queueDepth', 'Queue depth', 'number', more),
      field('keepAlive', 'Keep-alive, ms', 'number', more),
      field('lossTime', 'Loss after, ms', 'number', more),
      field('reconnectDelay', 'Tries every, ms', 'number', more),
      field('noPathWait', 'I/O waits, ms', 'number', more),
      field('failback', 'Goes back', 'switch', more),
      field('headerDigest', 'Header digest', 'select', more),
      field('dataDigest', 'Data digest', 'select', more),
      field('presents', 'Really sends', 'text', more),
    ],
  },
  'interface.configure': {
    title: 'Set up a host interface',
    columns: [5, 6, 7],
    fields: [
      host,
      field('interface', 'Interface', 'select'),
      field('addresses', 'Addresses', 'lines'),
      field('mtu', 'MTU', 'number'),
      field('bound', 'Bound to iSCSI', 'switch'),
      field('uplinks', 'Uplinks', 'lines', { placeholder: 'up1, or up2 unused' }),
      field('gateway', 'Gateway', 'text', more),
      field('vlan', 'VLAN', 'text', more),
      field('isid', 'ISID', 'text', { placeholder: '0x80a1b2c30001', ...more }),
    ],
  },
  'host.login': {
    title: 'Log a host in',
    columns: [5, 6, 7],
    fields: [
      host,
      array,
      field('target', 'Target', 'select'),
      field('address', 'Or address', 'text', { placeholder: '10.40.1.11' }),
    ],
  },
  'host.logout': { title: 'Log a host out', columns: [5, 6, 7], fields: [host, array] },
  'host.restart': { title: 'Restart a host', columns: [5, 6, 7], fields: [host] },
  'host-device.configure': {
    title: 'Change a device',
    columns: [4, 5, 6, 7],
    fields: [
      host,
      field('device', 'Device', 'select'),
      field('selector', 'Spreads I/O', 'select'),
      field('weights', 'Path weights', 'lines', { placeholder: 'eth0 a4 50', keepEmpty: true }),
      field('state', 'State', 'select'),
      field('persistent', 'Mounted again', 'switch'),
      field('initialised', 'Initialise', 'switch'),
    ],
  },
  'host-device.remove': {
    title: 'Remove a device',
    columns: [4, 5, 6, 7],
    fields: [host, field('device', 'Device', 'select')],
  },
  'mapping.configure': {
    title: 'Change a mapping',
    columns: [4, 5, 6, 7],
    fields: [
      host,
      array,
      field('volume', 'Volume', 'select'),
      field('lun', 'LUN', 'text'),
      field('access', 'Access', 'select'),
      field('ports', 'Through', 'ports'),
      field('target', 'By target', 'select', more),
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
  'storage.give': {
    title: 'Give storage to…',
    columns: [4, 5, 6, 7],
    fields: [
      host,
      cluster,
      field('size', 'Size', 'text', { placeholder: '500 GiB' }),
      field('count', 'How many', 'number'),
      field('pool', 'Pool', 'select'),
      field('transport', 'Transport', 'select'),
      field('mount', 'Format, mount', 'switch'),
      field('name', 'Name', 'text', more),
      field('provisioning', 'Provisioning', 'select', more),
      field('access', 'Access', 'select', more),
      field('fileSystem', 'File system', 'select', more),
      field('mountPoint', 'Mount point', 'text', more),
      field('workload', 'Workload', 'select', more),
    ],
  },
  'storage.take-back': {
    title: 'Take storage back',
    columns: [4, 5, 6, 7],
    fields: [
      host,
      cluster,
      array,
      volumes,
      field('retire', 'Retire', 'switch'),
      field('confirm', 'Names again', 'lines', { placeholder: 'name of the volume' }),
      field('keepDays', 'Keep, days', 'number', more),
    ],
  },
  'mapping.create': {
    title: 'Map volumes',
    columns: [4, 5, 6, 7],
    fields: [
      host,
      cluster,
      array,
      field('volumes', 'Volumes', 'several'),
      field('ports', 'Through', 'ports'),
      field('lun', 'LUN', 'text'),
      field('access', 'Access', 'select'),
      field('target', 'iSCSI target', 'select', more),
      field('subsystem', 'NVMe subsystem', 'select', more),
    ],
  },
  'mapping.delete': {
    title: 'Take a mapping away',
    columns: [4, 5, 6, 7],
    fields: [host, array, field('volumes', 'Volumes', 'several'), { ...cluster, more: true }],
  },
  'cluster.rescan': {
    title: 'Rescan a cluster',
    columns: [4, 5, 6, 7],
    fields: [field('cluster', 'Cluster', 'select')],
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
  'host-device.grow': {
    title: 'Grow a file system',
    columns: [4, 5, 6, 7],
    fields: [host, field('device', 'Device', 'select')],
  },
  'host-device.shrink': {
    title: 'Shrink a file system',
    columns: [4, 5, 6, 7],
    fields: [host, field('device', 'Device', 'select'), field('size', 'To', 'text', { placeholder: '40 GiB' })],
  },
  'finding.mute': {
    title: 'Mute a finding',
    columns: [3, 4, 7],
    fields: [
      field('check', 'Check', 'text'),
      field('subject', 'About', 'text'),
      field('reason', 'Reason', 'text'),
      field('until', 'Until', 'text', { placeholder: '2031-05-31' }),
    ],
  },
  'finding.unmute': {
    title: 'Show a muted finding again',
    columns: [3, 4, 7],
    fields: [field('check', 'Check', 'text'), field('subject', 'About', 'text')],
  },
  'job.cancel': { title: 'Stop a job', columns: [1, 2, 3], fields: [array, field('job', 'Job', 'select')] },
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
    if (control === 'switch') {
      if (typeof value === 'boolean') params[name] = value;
      continue;
    }
    if (Array.isArray(value)) {
      const items = (value as unknown[]).filter((item) => typeof item === 'string' && item.trim() !== '');
      if (items.length > 0 || keepEmpty) params[name] = items;
    } else if (typeof value === 'string' && value.trim() !== '') params[name] = value.trim();
  }
  return params;
}

/** The lens of a form: what the reader set of it, else where it starts. */
export function lensOf(spec: FormSpec, values: Record<string, unknown>): Record<string, unknown> {
  return Object.fromEntries(
    (spec.lens ?? []).map(({ name, range }) => {
      const value = values[name];
      return [name, typeof value === 'string' && value !== '' ? value : (range?.start ?? '')];
    }),
  );
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
    else if (control === 'switch') values[name] = given === undefined ? '' : given === true || given === 'true';
    else if (control === 'ports') values[name] = Array.isArray(given) ? given : 'all';
    else values[name] = typeof given === 'string' ? given : typeof given === 'number' ? String(given) : '';
  }
  return values;
}
