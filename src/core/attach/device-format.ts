import { dataOf, mappingsOf } from '../copies/legs';
import { z } from 'zod';
import { pick, the } from '../operation/form';
import { changed } from '../estate/effects';
import type { Host, HostDevice } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { hostOf, volumeOf } from '../estate/relations';
import { byName, draftHost, draftText, hostChoices } from '../operation/draft';
import type { Inquiry } from '../operation/inquiry';
import { inquire } from '../operation/inquiry';
import { nextStep, planned, refused, type Choice, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { formatBytes, MIB, type Bytes } from '../units/bytes';
import { SECOND } from '../units/duration';
import { writeUpTo } from '../volume/grow';
import { clusterFileSystems, families } from './families';
import { pathFinder } from './paths';
import { readOnlyWhy } from './write-access';

const schema = z.object({
  host: z.string(),
  device: z.string().describe('The device, or the volume under it'),
  fileSystem: z.string(),
  mountPoint: z.string().describe('An absolute path'),
});
type Params = z.output<typeof schema>;

/** What a new file system writes: one part in 512 for its tables, 16 MiB at least. */
export const fileSystemTables = (size: Bytes): Bytes => Math.min(size, Math.max(16 * MIB, Math.ceil(size / 512)));

/** A host's device by its own name or by the name of the volume under it. */
export function findDevice(view: EstateView, host: Host, ref: string): HostDevice | undefined {
  const devices = view.table('hostDevice').by('host', host.id);
  return (
    devices.find((row) => row.name === ref || row.id === ref) ?? devices.find((row) => volumeOf(view, row).name === ref)
  );
}

export function askDevice(view: EstateView, asks: Inquiry, host: Host, ref: string): HostDevice | undefined {
  const device = findDevice(view, host, ref);
  if (device) return device;
  const mapped = view
    .table('mapping')
    .by('host', host.id)
    .some((mapping) => volumeOf(view, mapping).name === ref);
  asks.refuse({
    code: mapped ? 'rescan-needed' : 'device-unknown',
    field: 'device',
    subject: subjectOf('host', host),
    message: mapped ? `${ref} is mapped to ${host.name}, which has not looked for it yet.` : missingWords(host, ref),
    mend: mapped ? `Rescan ${host.name} first.` : 'Map the volume to the host and rescan it.',
  });
  return undefined;
}

/** An absolute path that no other device of the host is mounted at. */
export function checkMountPoint(view: EstateView, asks: Inquiry, host: Host, device: HostDevice, path: string): void {
  if (!/^\/[A-Za-z0-9._/-]+$/.test(path) || path.includes('//'))
    asks.refuse({
      code: 'bad-mount-point',
      field: 'mountPoint',
      subject: subjectOf('hostDevice', device),
      message: path === '' ? 'No mount point is given.' : `${path} is no absolute path.`,
      mend: 'Write one such as /srv/booking.',
    });
  const other = view
    .table('hostDevice')
    .by('host', host.id)
    .find((row) => row.mountPoint === path && row.id !== device.id);
  if (other)
    asks.refuse({
      code: 'mount-point-taken',
      field: 'mountPoint',
      subject: subjectOf('hostDevice', device),
      message: `${other.name} is mounted at ${path} already.`,
      mend: 'Choose another path.',
    });
}

/** What other hosts have found of the same volume. */
export const sisters = (view: EstateView, device: HostDevice): HostDevice[] =>
  view
    .table('hostDevice')
    .by('volume', device.volume)
    .filter((row) => row.id !== device.id);

/** Only a file system made for it may be mounted by two hosts at a time; formatting under a mount is never allowed. */
export function checkElsewhere(view: EstateView, asks: Inquiry, device: HostDevice, fileSystem: string | null): void {
  const other = sisters(view, device).find((row) => row.mountPoint !== null);
  if (!other || (fileSystem !== null && clusterFileSystems.includes(fileSystem))) return;
  const at = hostOf(view, other).name;
  asks.refuse({
    code: 'in-use',
    field: 'device',
    subject: subjectOf('hostDevice', device),
    message:
      fileSystem === null
        ? `${at} has it mounted at ${other.mountPoint}.`
        : `${fileSystem} is mounted at ${at}; a second host would corrupt it.`,
    mend:
      fileSystem === null
        ? `Unmount it at ${at} first.`
        : `Unmount it there, or use ${clusterFileSystems.join(' or ')}, which are made for several hosts.`,
  });
}

/** The device must be reached, else nothing can be read or written; what only reads it may do so where writing is barred. */
export function checkReach(
  view: EstateView,
  asks: Inquiry,
  host: Host,
  device: HostDevice,
  { reading = false }: { reading?: boolean } = {},
): boolean {
  const finder = pathFinder(view);
  const ways = mappingsOf(view, host.id, device.volume);
  // Of a stretched volume, the leg by which it is reached.
  const mapping = ways.find((one) => finder.count(one).usable > 0);
  if (mapping) {
    const bar = readOnlyWhy(view, mapping);
    if (bar === null || reading) return true;
    const { array, name } = volumeOf(view, mapping);
    asks.refuse({
      code: 'read-only',
      field: 'device',
      subject: subjectOf('hostDevice', device),
      message: `${host.name} may only read ${device.name}: it ${bar}.`,
      mend: mapping.access === 'read-only' ? 'Map it for reading and writing.' : 'Grant the initiator writing.',
      ...(mapping.access === 'read-only'
        ? {
            offer: nextStep('Let it write', 'mapping.configure', {
              host: host.name,
              array: view.table('array').get(array)!.name,
              volume: name,
              access: 'read-write',
            }),
          }
        : {}),
    });
    return false;
  }
  const [gap] = finder.of(device).missing;
  const mapped = ways.length > 0;
  asks.refuse({
    code: mapped ? 'no-path' : 'not-mapped',
    field: 'device',
    subject: subjectOf('hostDevice', device),
    message: mapped
      ? `No path leads from ${host.name} to ${device.name}${gap ? `: ${gap.message}` : ''}.`
      : `${device.name} is no longer mapped to ${host.name}.`,
    mend: mapped ? 'Mend a path first.' : `Map the volume again, or rescan ${host.name}.`,
  });
  return false;
}

export function deviceChoices(
  view: EstateView,
  host: Host,
  unfit: (device: HostDevice) => string | undefined,
): Choice[] {
  return [...view.table('hostDevice').by('host', host.id)].sort(byName).map((device) => {
    const why = unfit(device);
    return {
      value: device.name,
      label: `${device.name}: ${volumeOf(view, device).name}, ${formatBytes(device.size)}`,
      ...(why ? { unfit: why } : {}),
    };
  });
}

export const deviceFormat: OperationType<Params> = {
  kind: 'host-device.format',
  verb: 'Format and mount a device',
  summary: 'Makes a file system on a host device and mounts it.',
  schema,
  form: {
    columns: [4, 5, 6, 7],
    fields: {
      host: the.host,
      device: the.device,
      fileSystem: pick('File system'),
      mountPoint: 'Mount point',
    },
  },
  title: (p) => `Format ${p.device} at ${p.host} with ${p.fileSystem}, mount at ${p.mountPoint}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const host = asks.find('host', p.host, 'host');
    const device = host && askDevice(view, asks, host, p.device);
    if (host && !families[host.os].fileSystems.includes(p.fileSystem))
      asks.refuse({
        code: 'file-system-unknown',
        field: 'fileSystem',
        subject: subjectOf('host', host),
        message: p.fileSystem === '' ? 'No file system is chosen.' : `${host.name} makes no ${p.fileSystem}.`,
        mend: `Choose ${families[host.os].fileSystems.join(' or ')}.`,
      });
    if (host && device) {
      if (device.mountPoint)
        asks.refuse({
          code: 'in-use',
          field: 'device',
          subject: subjectOf('hostDevice', device),
          message: `${device.name} is mounted at ${device.mountPoint}.`,
          mend: 'Unmount it first.',
        });
      checkElsewhere(view, asks, device, null);
      checkMountPoint(view, asks, host, device, p.mountPoint);
      checkReach(view, asks, host, device);
    }
    if (asks.refusals.length > 0 || !host || !device) return refused(asks.refusals);
    const volume = dataOf(view, device);
    const tables = fileSystemTables(device.size);
    const write = writeUpTo(view, volume, tables, context.newId, context.now);
    if (write.full) {
      asks.refuse({
        code: 'pool-full',
        field: 'device',
        subject: subjectOf('volume', volume),
        message: `The pool under ${volume.name} has no room for the file system's tables.`,
        mend: 'Free extents in the pool first.',
      });
      return refused(asks.refusals);
    }
    return planned({
      device: { kind: 'host', id: host.id, name: host.name },
      title: `Make ${p.fileSystem} on ${device.name} (${volume.name}), mount at ${p.mountPoint}`,
      takes: 20 * SECOND,
      effects: [
        ...write.effects,
        changed('hostDevice', device, {
          initialised: true,
          fileSystem: p.fileSystem,
          mountPoint: p.mountPoint,
          fileSystemSize: device.size,
          used: tables,
          free: [],
        }),
        // Other hosts that have found the volume read the same file system on it.
        ...sisters(view, device).map((row) =>
          changed('hostDevice', row, {
            initialised: true,
            fileSystem: p.fileSystem,
            fileSystemSize: device.size,
            used: tables,
            free: [],
          }),
        ),
      ],
      destroys: device.fileSystem
        ? `the ${device.fileSystem} file system on ${device.name} with ${formatBytes(device.used, 'used')}`
        : null,
    });
  },
  foretell(view, draft) {
    const host = draftHost(view, draft);
    const fields: Foretold['fields'] = {
      host: { choices: hostChoices(view) },
      device: {},
      fileSystem: {},
      mountPoint: {},
    };
    if (!host) return { fields };
    fields.device!.choices = deviceChoices(view, host, (row) =>
      row.mountPoint ? `is mounted at ${row.mountPoint}` : undefined,
    );
    const blank = view
      .table('hostDevice')
      .by('host', host.id)
      .filter((row) => !row.fileSystem);
    if (blank.length === 1) fields.device!.suggested = blank[0]!.name;
    const waiting =
      view.table('mapping').by('host', host.id).length - view.table('hostDevice').countBy('host', host.id);
    fields.device!.says =
      waiting > 0 ? `${waiting} mapped and not found yet: rescan first.` : 'What the host has found.';
    fields.fileSystem!.choices = families[host.os].fileSystems.map((value) => ({ value, label: value }));
    fields.fileSystem!.suggested = families[host.os].fileSystems[0]!;
    const device = findDevice(view, host, draftText(draft, 'device'));
    if (!device) return { fields };
    const volume = volumeOf(view, device);
    fields.device!.says = device.fileSystem
      ? `Carries ${device.fileSystem}: ${formatBytes(device.used, 'used')} would be lost.`
      : 'Blank.';
    fields.fileSystem!.says = `${formatBytes(fileSystemTables(device.size), 'used')} go to its tables, ${formatBytes(device.size - fileSystemTables(device.size))} are left.`;
    fields.mountPoint!.suggested = `${families[host.os].mountBase}/${volume?.name ?? device.name}`;
    return { fields };
  },
};

const missingWords = (host: Host, ref: string): string =>
  ref === '' ? 'No device is named.' : `${host.name} has no device ${ref}.`;
