import { z } from 'zod';
import type { EstateView } from '../estate/estate';
import type { Host } from '../estate/entities';
import { volumeOf } from '../estate/relations';
import { draftHost, draftText, hostChoices } from '../operation/draft';
import { pick, the } from '../operation/form';
import { inquire } from '../operation/inquiry';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { formatBytes } from '../units/bytes';
import { MIB } from '../units/bytes';
import { SECOND } from '../units/duration';
import { askDevice, deviceChoices, findDevice } from './device-format';
import { writeFile } from './files';

const schema = z.object({
  host: z.string(),
  device: z.string().describe('The device that holds the file, or the volume under it'),
  path: z.string().describe('The file'),
  to: z.string().describe('The device it is copied to'),
});

/** What a host copies in a second. */
const RATE = 400 * MIB;

const mountedChoices = (view: EstateView, host: Host) =>
  deviceChoices(view, host, (row) => (row.mountPoint ? undefined : 'is not mounted'));

export const takeFile: OperationType<z.output<typeof schema>> = {
  kind: 'host-device.take-file',
  verb: 'Take a file out',
  summary:
    'A host copies a file from one of its file systems to another: out of a shown copy, back to where it is missed.',
  schema,
  form: {
    columns: [4, 5, 6, 7],
    fields: { host: the.host, device: pick('From'), path: pick('File'), to: pick('To') },
  },
  title: (p) => `Take ${p.path} from ${p.device} to ${p.to} at ${p.host}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const host = asks.find('host', p.host, 'host');
    const from = host && askDevice(view, asks, host, p.device);
    const to = host && askDevice(view, asks, host, p.to);
    for (const [device, field] of [
      [from, 'device'],
      [to, 'to'],
    ] as const)
      if (device && device.mountPoint === null)
        asks.refuse({
          code: 'not-mounted',
          field,
          subject: subjectOf('hostDevice', device),
          message: `${device.name} is not mounted.`,
          mend: 'Mount it first.',
        });
    const file = from && volumeOf(view, from).files.find((one) => one.path === p.path);
    if (from && !file) {
      const known = volumeOf(view, from).files.map((one) => one.path);
      asks.refuse({
        code: 'file-unknown',
        field: 'path',
        subject: subjectOf('hostDevice', from),
        message: `${from.mountPoint ?? from.name} has no file ${p.path}.`,
        mend: known.length > 0 ? `There are: ${known.slice(0, 6).join(', ')}.` : 'Choose another device.',
      });
    }
    if (from && to && from.id === to.id)
      asks.refuse({
        code: 'same-device',
        field: 'to',
        subject: subjectOf('hostDevice', to),
        message: 'The file is there already.',
        mend: 'Choose another device.',
      });
    if (!host || !from || !to || !file || asks.refusals.length > 0) return refused(asks.refusals);
    const there = volumeOf(view, to).files.find((one) => one.path === file.path);
    const written = writeFile(
      view,
      to,
      { path: file.path, size: file.size, checksum: file.checksum },
      context.now,
      context.newId,
    );
    if (!written.ok) return refused([{ ...written.refusal, field: 'to' }]);
    return planned({
      device: { kind: 'host', id: host.id, name: host.name },
      title: `Copy ${file.path} (${formatBytes(file.size, 'used')}) from ${from.mountPoint} to ${to.mountPoint}`,
      takes: Math.max(SECOND, Math.ceil((file.size / RATE) * SECOND)),
      effects: written.effects,
      destroys: there && there.checksum !== file.checksum ? `${file.path} as it stood on ${to.mountPoint}` : null,
    });
  },
  foretell(view, draft) {
    const host = draftHost(view, draft);
    const fields: Foretold['fields'] = { host: { choices: hostChoices(view) }, device: {}, path: {}, to: {} };
    if (!host) return { fields };
    const from = findDevice(view, host, draftText(draft, 'device'));
    const to = findDevice(view, host, draftText(draft, 'to'));
    fields.device!.choices = mountedChoices(view, host);
    fields.to!.choices = mountedChoices(view, host);
    if (!from) return { fields };
    const { files } = volumeOf(view, from);
    fields.path!.choices = files.map((file) => ({
      value: file.path,
      label: `${file.path}, ${formatBytes(file.size, 'used')}`,
    }));
    const file = files.find((one) => one.path === draftText(draft, 'path'));
    const there = to && file && volumeOf(view, to).files.find((one) => one.path === file.path);
    fields.path!.says = file ? `Checksum ${file.checksum}.` : '';
    fields.to!.says = there
      ? there.checksum === file.checksum
        ? 'The very same file is there already.'
        : 'Another file of that name is there and would be written over.'
      : '';
    return { fields };
  },
};
