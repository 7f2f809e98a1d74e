import { z } from 'zod';
import { such, the } from '../operation/form';
import { bytesIn, within } from '../estate/runs';
import { changed } from '../estate/effects';
import type { HostDevice } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, volumeOf } from '../estate/relations';
import { draftHost, draftText, hostChoices } from '../operation/draft';
import { inquire } from '../operation/inquiry';
import { planned, refused, type Draft, type Foretold, type OperationType } from '../operation/operation';
import { sizeText } from '../operation/params';
import { subjectOf } from '../operation/refusal';
import { exactBytes, formatBytes, parseBytes } from '../units/bytes';
import { SECOND } from '../units/duration';
import { askDevice, checkReach, deviceChoices, findDevice } from './device-format';

const growSchema = z.object({ host: z.string(), device: z.string().describe('The device, or the volume under it') });
const shrinkSchema = growSchema.extend({ size: sizeText.describe('To which the file system shrinks, with its unit') });

/** How far the file system reaches into its device: what it uses and what lies free in between. */
export const usedEnd = (device: HostDevice): number => device.used + bytesIn(device.free);

function resizeFields(view: EstateView, draft: Draft, unfit: (device: HostDevice) => string | undefined) {
  const host = draftHost(view, draft);
  const fields: Foretold['fields'] = { host: { choices: hostChoices(view) }, device: {} };
  if (host) fields.device!.choices = deviceChoices(view, host, unfit);
  const device = host && findDevice(view, host, draftText(draft, 'device'));
  if (device)
    fields.device!.says = device.fileSystem
      ? `${device.fileSystem} of ${formatBytes(device.fileSystemSize)} on a device of ${formatBytes(device.size)}; ${formatBytes(device.used, 'used')} used.`
      : 'It carries no file system.';
  return { fields, device };
}

export const deviceGrow: OperationType<z.output<typeof growSchema>> = {
  kind: 'host-device.grow',
  verb: 'Grow a file system',
  summary: 'Lets a file system have all of its device, while it stays mounted.',
  schema: growSchema,
  form: {
    columns: [4, 5, 6, 7],
    fields: {
      host: the.host,
      device: the.device,
    },
  },
  title: (p) => `Grow the file system on ${p.device} at ${p.host}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const host = asks.find('host', p.host, 'host');
    const device = host && askDevice(view, asks, host, p.device);
    if (host && device) {
      const volume = volumeOf(view, device);
      const subject = subjectOf('hostDevice', device);
      const refuse = (code: string, message: string, mend: string) =>
        asks.refuse({ code, field: 'device', subject, message, mend });
      if (!device.fileSystem) refuse('no-file-system', `${device.name} carries no file system.`, 'Format it.');
      else if (device.size < volume.size)
        refuse(
          'rescan-needed',
          `${host.name} still takes ${device.name} for ${formatBytes(device.size)}; ${volume.name} has ${formatBytes(volume.size)}.`,
          `Rescan ${host.name} first.`,
        );
      else if (device.fileSystemSize >= device.size)
        refuse('nothing-to-grow', `The file system has all of ${device.name}.`, 'Grow the volume first.');
      checkReach(view, asks, host, device);
    }
    if (asks.refusals.length > 0 || !host || !device) return refused(asks.refusals);
    return planned({
      device: { kind: 'host', id: host.id, name: host.name },
      title: `Grow ${device.fileSystem} on ${device.name}: ${formatBytes(device.fileSystemSize)} → ${formatBytes(device.size)}`,
      takes: 5 * SECOND,
      effects: [changed('hostDevice', device, { fileSystemSize: device.size })],
    });
  },
  foretell: (view, draft) => ({
    fields: resizeFields(view, draft, (device) => {
      if (!device.fileSystem) return 'no file system';
      return device.fileSystemSize >= device.size ? 'has all of it' : undefined;
    }).fields,
  }),
};

export const deviceShrink: OperationType<z.output<typeof shrinkSchema>> = {
  kind: 'host-device.shrink',
  verb: 'Shrink a file system',
  summary: 'Lets a file system use less of its device, so that the volume can be made smaller.',
  schema: shrinkSchema,
  form: {
    columns: [4, 5, 6, 7],
    fields: {
      host: the.host,
      device: the.device,
      size: such('To', '40 GiB'),
    },
  },
  title: (p) => `Shrink the file system on ${p.device} at ${p.host} to ${p.size}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const host = asks.find('host', p.host, 'host');
    const device = host && askDevice(view, asks, host, p.device);
    const size = asks.value(parseBytes(p.size), 'size', { kind: 'hostDevice', name: p.device });
    if (device && size !== undefined) {
      const refuse = (code: string, message: string, mend: string) =>
        asks.refuse({ code, field: 'size', subject: subjectOf('hostDevice', device), message, mend });
      if (!device.fileSystem) refuse('no-file-system', `${device.name} carries no file system.`, 'Leave it as it is.');
      else if (size >= device.fileSystemSize)
        refuse(
          'not-smaller',
          `The file system reaches to ${formatBytes(device.fileSystemSize)}.`,
          `Write less than ${exactBytes(device.fileSystemSize)}.`,
        );
      else if (usedEnd(device) > size)
        refuse(
          'data-beyond-end',
          `Files lie up to ${formatBytes(usedEnd(device), 'used')} of ${device.name}.`,
          `Shrink to no less than ${exactBytes(usedEnd(device))}, or free the tail first.`,
        );
    }
    if (asks.refusals.length > 0 || !host || !device || size === undefined) return refused(asks.refusals);
    const volume = volumeOf(view, device);
    const array = arrayOf(view, volume);
    return planned({
      device: { kind: 'host', id: host.id, name: host.name },
      title: `Shrink ${device.fileSystem} on ${device.name}: ${formatBytes(device.fileSystemSize)} → ${formatBytes(size)}`,
      takes: 20 * SECOND,
      effects: [changed('hostDevice', device, { fileSystemSize: size, free: within(device.free, 0, size) })],
      next: [
        {
          label: `Shrink ${volume.name} to ${exactBytes(size)}`,
          do: 'volume.resize',
          params: { array: array.name, volumes: [volume.name], size: exactBytes(size) },
        },
      ],
    });
  },
  foretell(view, draft) {
    const { fields, device } = resizeFields(view, draft, (one) => (one.fileSystem ? undefined : 'no file system'));
    fields.size = {
      says: device?.fileSystem
        ? `Files lie up to ${formatBytes(usedEnd(device), 'used')}.`
        : 'With its unit, such as 40 GiB.',
    };
    return { fields };
  },
};
