import { z } from 'zod';
import { changed } from '../estate/effects';
import { volumeOf } from '../estate/relations';
import { draftHost, hostChoices } from '../operation/draft';
import { the } from '../operation/form';
import { inquire } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { planned, refused, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';
import { askDevice, deviceChoices } from './device-format';

const schema = z.object({ host: z.string(), device: z.string() });

const common = {
  schema,
  form: { columns: [4, 5, 6, 7], fields: { host: the.host, device: the.device } },
  units: (p: z.output<typeof schema>) => [p],
} satisfies Partial<OperationType<z.output<typeof schema>>>;

export const deviceReserve: OperationType<z.output<typeof schema>> = {
  ...common,
  kind: 'host-device.reserve',
  verb: 'Reserve a device',
  summary:
    'A persistent reservation (SPC, write exclusive): hosts that are not of its cluster may no longer write to the volume.',
  title: (p) => `Reserve ${p.device} for ${p.host}`,
  plan(view, p) {
    const asks = inquire(view);
    const host = asks.find('host', p.host, 'host');
    const device = host && askDevice(view, asks, host, p.device);
    const volume = device && volumeOf(view, device);
    const holder = volume?.reservedBy ? view.table('host').get(volume.reservedBy) : undefined;
    if (host && device && volume && holder)
      asks.refuse({
        code: 'reservation-conflict',
        field: 'device',
        subject: subjectOf('hostDevice', device),
        message: `${holder.name} holds a reservation on ${volume.name}${holder.id === host.id ? ' already' : ''}.`,
        mend: holder.id === host.id ? 'Leave it as it is.' : `Release it at ${holder.name} first.`,
        ...(holder.id === host.id
          ? {}
          : {
              offer: nextStep(`Release it at ${holder.name}`, 'host-device.release', {
                host: holder.name,
                device: volume.name,
              }),
            }),
      });
    if (asks.refusals.length > 0 || !host || !device || !volume) return refused(asks.refusals);
    const writing = view
      .table('hostDevice')
      .by('volume', volume.id)
      .filter((one) => one.mountPoint !== null && one.host !== host.id)
      .map((one) => view.table('host').get(one.host)!)
      .filter((one) => one.cluster === null || one.cluster !== host.cluster);
    return planned({
      device: { kind: 'host', id: host.id, name: host.name },
      title: `Reserve ${volume.name} for ${host.name}`,
      takes: SECOND,
      effects: [changed('volume', volume, { reservedBy: host.id })],
      notes: writing.map(({ name }) => `${name} has it mounted: its writes will fail.`),
    });
  },
  foretell(view, draft) {
    const host = draftHost(view, draft);
    return {
      fields: {
        host: { choices: hostChoices(view), says: 'Who alone is to write, with its cluster.' },
        device: host
          ? {
              choices: deviceChoices(view, host, (row) => (volumeOf(view, row).reservedBy ? 'is reserved' : undefined)),
            }
          : {},
      },
    };
  },
};

export const deviceRelease: OperationType<z.output<typeof schema>> = {
  ...common,
  kind: 'host-device.release',
  verb: 'Release a device',
  summary: 'The host gives its reservation up: others that are shown the volume may write again.',
  title: (p) => `Release ${p.device} at ${p.host}`,
  plan(view, p) {
    const asks = inquire(view);
    const host = asks.find('host', p.host, 'host');
    const device = host && askDevice(view, asks, host, p.device);
    const volume = device && volumeOf(view, device);
    if (host && device && volume && volume.reservedBy !== host.id) {
      const holder = volume.reservedBy ? view.table('host').get(volume.reservedBy)!.name : null;
      asks.refuse({
        code: 'not-reserved',
        field: 'device',
        subject: subjectOf('hostDevice', device),
        message: holder
          ? `${holder} holds the reservation, not ${host.name}.`
          : `Nobody holds a reservation on ${volume.name}.`,
        mend: holder ? `Release it at ${holder}.` : 'Leave it as it is.',
      });
    }
    if (asks.refusals.length > 0 || !host || !device || !volume) return refused(asks.refusals);
    return planned({
      device: { kind: 'host', id: host.id, name: host.name },
      title: `Release ${volume.name} at ${host.name}`,
      takes: SECOND,
      effects: [changed('volume', volume, { reservedBy: null })],
    });
  },
  foretell(view, draft) {
    const host = draftHost(view, draft);
    return {
      fields: {
        host: { choices: hostChoices(view), says: 'Who holds it.' },
        device: host
          ? {
              choices: deviceChoices(view, host, (row) =>
                volumeOf(view, row).reservedBy === host.id ? undefined : 'is not reserved by it',
              ),
            }
          : {},
      },
    };
  },
};
