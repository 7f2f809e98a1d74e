import { leadOf } from '../copies/legs';
import { z } from 'zod';
import { the } from '../operation/form';
import { changed } from '../estate/effects';
import { draftHost, draftText, hostChoices } from '../operation/draft';
import { inquire } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { formatBytes } from '../units/bytes';
import { SECOND } from '../units/duration';
import { askDevice, checkElsewhere, checkMountPoint, checkReach, deviceChoices, findDevice } from './device-format';
import { families } from './families';
import { readOnlyDevice } from './write-access';
import { volumeOf } from '../estate/relations';
import { replicaBar } from '../copies/replica';

const unmountSchema = z.object({ host: z.string(), device: z.string().describe('The device, or the volume under it') });
const mountSchema = unmountSchema.extend({ mountPoint: z.string().describe('An absolute path') });

export const deviceUnmount: OperationType<z.output<typeof unmountSchema>> = {
  kind: 'host-device.unmount',
  verb: 'Unmount a device',
  summary: 'Takes a file system out of use; its contents stay.',
  schema: unmountSchema,
  form: {
    columns: [4, 5, 6, 7],
    fields: {
      host: the.host,
      device: the.device,
    },
  },
  title: (p) => `Unmount ${p.device} at ${p.host}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const host = asks.find('host', p.host, 'host');
    const device = host && askDevice(view, asks, host, p.device);
    if (device && !device.mountPoint)
      asks.refuse({
        code: 'not-mounted',
        field: 'device',
        subject: subjectOf('hostDevice', device),
        message: `${device.name} is not mounted.`,
        mend: 'Leave it out.',
      });
    if (asks.refusals.length > 0 || !host || !device) return refused(asks.refusals);
    return planned({
      device: { kind: 'host', id: host.id, name: host.name },
      title: `Unmount ${device.name} from ${device.mountPoint}`,
      takes: 2 * SECOND,
      effects: [changed('hostDevice', device, { mountPoint: null, writeRate: 0, readOnly: false })],
    });
  },
  foretell(view, draft) {
    const host = draftHost(view, draft);
    const fields: Foretold['fields'] = { host: { choices: hostChoices(view) }, device: {} };
    if (!host) return { fields };
    fields.device!.choices = deviceChoices(view, host, (row) => (row.mountPoint ? undefined : 'is not mounted'));
    const device = findDevice(view, host, draftText(draft, 'device'));
    if (device)
      fields.device!.says = `${device.fileSystem ?? 'Nothing'} with ${formatBytes(device.used, 'used')} stays on it.`;
    return { fields };
  },
};

export const deviceMount: OperationType<z.output<typeof mountSchema>> = {
  kind: 'host-device.mount',
  verb: 'Mount a device',
  summary: 'Puts the file system that is on a device into use again.',
  schema: mountSchema,
  form: {
    columns: [4, 5, 6, 7],
    fields: {
      host: the.host,
      device: the.device,
      mountPoint: 'Mount point',
    },
  },
  title: (p) => `Mount ${p.device} at ${p.host} on ${p.mountPoint}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const host = asks.find('host', p.host, 'host');
    const device = host && askDevice(view, asks, host, p.device);
    if (host && device) {
      if (device.mountPoint)
        asks.refuse({
          code: 'in-use',
          field: 'device',
          subject: subjectOf('hostDevice', device),
          message: `${device.name} is mounted at ${device.mountPoint} already.`,
          mend: 'Leave it out.',
        });
      if (!device.fileSystem)
        asks.refuse({
          code: 'no-file-system',
          field: 'device',
          subject: subjectOf('hostDevice', device),
          message: `${device.name} carries no file system.`,
          mend: 'Format it.',
        });
      const replica = replicaBar(view, leadOf(view, device.volume));
      if (replica !== null)
        asks.refuse({
          code: 'replication-target',
          field: 'device',
          subject: subjectOf('hostDevice', device),
          message: `${volumeOf(view, device).name} ${replica}; its file system moves under whoever mounts it.`,
          mend: 'Fail over or switch first, or show a copy of it to the host.',
        });
      if (device.fileSystem) checkElsewhere(view, asks, device, device.fileSystem);
      checkMountPoint(view, asks, host, device, p.mountPoint);
      checkReach(view, asks, host, device, { reading: true });
    }
    if (asks.refusals.length > 0 || !host || !device) return refused(asks.refusals);
    const readOnly = readOnlyDevice(view, device) !== null;
    return planned({
      device: { kind: 'host', id: host.id, name: host.name },
      title: `Mount ${device.name} (${device.fileSystem}) at ${p.mountPoint}${readOnly ? ', read-only' : ''}`,
      takes: 2 * SECOND,
      effects: [changed('hostDevice', device, { mountPoint: p.mountPoint, readOnly })],
    });
  },
  foretell(view, draft) {
    const host = draftHost(view, draft);
    const fields: Foretold['fields'] = { host: { choices: hostChoices(view) }, device: {}, mountPoint: {} };
    if (!host) return { fields };
    fields.device!.choices = deviceChoices(view, host, (row) => {
      if (row.mountPoint) return `is mounted at ${row.mountPoint}`;
      return row.fileSystem ? undefined : 'carries no file system';
    });
    const device = findDevice(view, host, draftText(draft, 'device'));
    if (!device) return { fields };
    fields.device!.says = device.fileSystem
      ? `${device.fileSystem} with ${formatBytes(device.used, 'used')}.`
      : 'Blank.';
    fields.mountPoint!.suggested = `${families[host.os].mountBase}/${volumeOf(view, device).name}`;
    return { fields };
  },
};
