import type { Host, HostDevice, Mapping, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import { families } from '../attach/families';
import { pathWords, type Paths } from '../attach/paths';
import { readOnlyWhy } from '../attach/write-access';
import { identityNames } from '../naming/identity';
import { nextStep as step } from '../operation/operation';
import { formatBytes } from '../units/bytes';
import { fail, pass, unreached, warn, type HopFound } from './hop';

export function lunHop(host: Host, mapping: Mapping | undefined, paths: Paths | null): HopFound {
  if (!mapping || !paths) return unreached();
  const most = families[host.os].maxLun;
  if (!mapping.subsystem && mapping.lun > most)
    return fail(
      `LUN ${mapping.lun}`,
      'lun-out-of-range',
      `${host.name} addresses LUNs up to ${most}.`,
      'Give it a lower LUN.',
    );
  if (paths.found.length > 0 && paths.usable === 0)
    return fail(
      `LUN ${mapping.lun}`,
      'all-unavailable',
      `${paths.found.length} paths are there, and none serves it.`,
      'Mend what lies under the volume.',
    );
  return pass(
    mapping.subsystem ? `namespace ${mapping.lun}` : `LUN ${mapping.lun}`,
    `${paths.usable} of ${paths.expected} paths: ${pathWords(paths)}.`,
  );
}

const identityText = (naa: string, mapping: Mapping | undefined): string => {
  const [{ label, value }] = identityNames(naa, mapping?.subsystem != null) as [{ label: string; value: string }];
  return label === 'NAA' ? value : `${label} ${value}`;
};

export function deviceHop(
  host: Host,
  volume: Volume,
  mapping: Mapping | undefined,
  paths: Paths | null,
  device: HostDevice | undefined,
): HopFound {
  if (!device)
    return fail(
      'none',
      'rescan-needed',
      `${volume.name} is mapped, and ${host.name} has not looked for it.`,
      'Rescan.',
      mapping ? step('Rescan', 'host.rescan', { host: host.name }) : null,
    );
  if (device.size !== volume.size)
    return warn(
      device.name,
      'rescan-needed',
      `${host.name} still reads ${formatBytes(device.size)}; the volume has ${formatBytes(volume.size)}.`,
      'Rescan.',
      step('Rescan', 'host.rescan', { host: host.name }),
    );
  if (device.naa !== volume.naa)
    return warn(
      device.name,
      'identity-differs',
      `${host.name} reads identity ${identityText(device.naa, mapping)}; the volume has ${identityText(volume.naa, mapping)}.`,
      'Remove the device and rescan.',
      step('Remove it', 'host-device.remove', { host: host.name, device: device.name }),
    );
  if (!host.multipath && paths && paths.usable > 1)
    return warn(
      device.name,
      'multipath-absent',
      `${paths.usable} paths, and ${host.name} does not combine them.`,
      'Let it combine them.',
      step('Combine paths', 'host.configure', { host: host.name }),
    );
  if (paths && paths.usable === 1)
    return warn(device.name, 'single-path', 'It hangs on one path.', 'Mend or add a second one.');
  return pass(device.name, `Identity ${identityText(device.naa, mapping)} on both sides.`);
}

export function fileSystemHop(
  view: EstateView,
  host: Host,
  volume: Volume,
  device: HostDevice | undefined,
  mapping: Mapping | undefined,
): HopFound {
  if (!device) return unreached();
  const on = { host: host.name, device: device.name };
  if (!device.fileSystem)
    return warn(
      'none',
      'no-file-system',
      `${device.name} is blank.`,
      'Format and mount it.',
      step('Format it', 'host-device.format', on),
    );
  if (!device.mountPoint)
    return warn(
      device.fileSystem,
      'not-mounted',
      `${device.fileSystem} is there, and not mounted.`,
      'Mount it.',
      step('Mount it', 'host-device.mount', on),
    );
  const bar = mapping ? readOnlyWhy(view, mapping) : null;
  if (bar !== null || device.readOnly)
    return warn(
      device.mountPoint,
      'read-only',
      bar !== null
        ? `${device.fileSystem} can only be read: the volume ${bar}.`
        : `${device.fileSystem} stands read-only since a write was refused.`,
      bar !== null ? 'Let it write, if it shall be written.' : 'Unmount it and mount it again.',
      bar !== null && mapping?.access === 'read-only'
        ? step('Let it write', 'mapping.configure', {
            host: host.name,
            array: arrayOf(view, volume).name,
            volume: volume.name,
            access: 'read-write',
          })
        : bar === null
          ? step('Unmount it', 'host-device.unmount', on)
          : null,
    );
  if (device.fileSystemSize < device.size)
    return warn(
      device.mountPoint,
      'not-grown',
      `${device.fileSystem} reaches ${formatBytes(device.fileSystemSize)} of ${formatBytes(device.size)}.`,
      'Grow it.',
      step('Grow it', 'host-device.grow', on),
    );
  return pass(
    device.mountPoint,
    `${device.fileSystem}, ${formatBytes(device.used, 'used')} of ${formatBytes(device.fileSystemSize)}.`,
  );
}
