import { mappingsOf } from '../copies/legs';
import { z } from 'zod';
import { emptied, such, the } from '../operation/form';
import { changed, deleted } from '../estate/effects';
import { pathSelectors, type HostDevice } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { volumeOf } from '../estate/relations';
import { draftHost, draftText, hostChoices } from '../operation/draft';
import { inquire } from '../operation/inquiry';
import { movedWords, type FieldWords, withNamed } from '../operation/moved';
import { planned, refused, type Foretold, type OperationType } from '../operation/operation';
import { subjectOf } from '../operation/refusal';
import { SECOND } from '../units/duration';
import { askDevice, deviceChoices, findDevice } from './device-format';
import { selectorChoices, selectorWords } from './host-foretell';
import { readWeights, weightHint, weightText } from './path-weights';
import { selectorOf } from './selector';
import { saidOr } from '../operation/said';

const base = z.object({ host: z.string(), device: z.string().describe('The device, or the volume under it') });
const configureSchema = base.extend({
  selector: z
    .enum([...pathSelectors, 'host'])
    .optional()
    .describe('How it spreads I/O; host for as the host does'),
  weights: z
    .array(z.string())
    .optional()
    .describe('Weights of paths for failover, each as INTERFACE PORT WEIGHT; those not named weigh 0'),
  state: z.enum(['online', 'offline']).optional(),
  initialised: z.boolean().optional().describe('Write a partition table'),
  persistent: z.boolean().optional().describe('Mount it again after a restart'),
});
const hostSchema = z.object({ host: z.string() });

const deviceWords = (view: EstateView): FieldWords<HostDevice> => ({
  selector: (selector) =>
    selector === null
      ? 'spreads I/O as its host does'
      : `spreads I/O by ${selectorWords[selector].split(':')[0]!.toLowerCase()}`,
  weights: (weights) =>
    weights.length === 0
      ? 'no path weighs more than another'
      : `weights ${weights.map((one) => weightText(view, one)).join(', ')}`,
  state: (state) => state,
  initialised: () => 'initialised',
  persistent: (on) => (on ? 'mounted again after a restart' : 'not mounted after a restart'),
});

export const deviceConfigure: OperationType<z.output<typeof configureSchema>> = {
  kind: 'host-device.configure',
  verb: 'Change a device',
  summary:
    'Sets how a device spreads I/O, takes it online or offline, initialises it, or says whether it is mounted again after a restart.',
  schema: configureSchema,
  form: {
    columns: [4, 5, 6, 7],
    fields: {
      host: the.host,
      device: the.device,
      selector: 'Spreads I/O',
      weights: emptied(such('Path weights', 'eth0 a4 50')),
      state: 'State',
      persistent: 'Mounted again',
      initialised: 'Initialise',
    },
  },
  title: (p) => `Change ${p.device} at ${p.host}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const host = asks.find('host', p.host, 'host');
    const device = host && askDevice(view, asks, host, p.device);
    if (device && p.state === 'offline' && device.mountPoint)
      asks.refuse({
        code: 'in-use',
        field: 'state',
        subject: subjectOf('hostDevice', device),
        message: `${device.name} is mounted at ${device.mountPoint}.`,
        mend: 'Unmount it first.',
      });
    if (device && p.initialised === false && device.initialised)
      asks.refuse({
        code: 'holds-data',
        field: 'initialised',
        subject: subjectOf('hostDevice', device),
        message: `${device.name} carries a partition table${device.fileSystem ? ` and ${device.fileSystem}` : ''}.`,
        mend: 'Format it anew, or map another volume.',
      });
    const weights = device && p.weights && readWeights(view, asks, device, p.weights);
    if (asks.refusals.length > 0 || !host || !device) return refused(asks.refusals);
    const after: HostDevice = {
      ...withNamed(device, p, 'state', 'initialised', 'persistent'),
      selector: saidOr(p.selector, device.selector, 'host'),
      weights: weights ?? device.weights,
    };
    return planned({
      device: { kind: 'host', id: host.id, name: host.name },
      title: `${device.name}: ${movedWords(device, after, deviceWords(view))}`,
      takes: SECOND,
      effects: [changed('hostDevice', device, after)],
    });
  },
  foretell(view, draft) {
    const host = draftHost(view, draft);
    const fields: Foretold['fields'] = {
      host: { choices: hostChoices(view) },
      device: {},
      selector: { choices: [{ value: 'host', label: 'As its host does' }, ...selectorChoices] },
      weights: {},
      state: {
        choices: [
          { value: 'online', label: 'Online' },
          { value: 'offline', label: 'Offline' },
        ],
      },
      initialised: {},
      persistent: {},
    };
    if (!host) return { fields };
    fields.device!.choices = deviceChoices(view, host, () => undefined);
    const device = findDevice(view, host, draftText(draft, 'device'));
    if (!device) return { fields };
    fields.selector!.suggested = device.selector ?? 'host';
    fields.selector!.says = device.selector ? '' : `Its host: ${selectorWords[host.selector].toLowerCase()}.`;
    fields.weights!.suggested = device.weights.map((one) => weightText(view, one));
    fields.weights!.says = weightHint(view, device, selectorOf(host, device) === 'failover');
    fields.state!.suggested = device.state;
    fields.persistent!.suggested = String(device.persistent);
    fields.initialised!.suggested = String(device.initialised);
    fields.initialised!.says = device.initialised ? 'Carries a partition table.' : 'Blank.';
    fields.persistent!.says = device.persistent
      ? 'Is mounted again after a restart.'
      : 'Is gone from its mount point after a restart.';
    return { fields };
  },
};

export const deviceRemove: OperationType<z.output<typeof base>> = {
  kind: 'host-device.remove',
  verb: 'Remove a device',
  summary: 'The host lets go of a device cleanly, before its mapping is taken away. Refused while it is mounted.',
  schema: base,
  form: {
    columns: [4, 5, 6, 7],
    fields: {
      host: the.host,
      device: the.device,
    },
  },
  title: (p) => `Remove ${p.device} at ${p.host}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const host = asks.find('host', p.host, 'host');
    const device = host && askDevice(view, asks, host, p.device);
    if (device?.mountPoint)
      asks.refuse({
        code: 'in-use',
        field: 'device',
        subject: subjectOf('hostDevice', device),
        message: `${device.name} is mounted at ${device.mountPoint}.`,
        mend: 'Unmount it first.',
      });
    if (asks.refusals.length > 0 || !host || !device) return refused(asks.refusals);
    const mapped = mappingsOf(view, host.id, device.volume).length > 0;
    return planned({
      device: { kind: 'host', id: host.id, name: host.name },
      title: `Remove ${device.name} (${volumeOf(view, device).name})`,
      takes: SECOND,
      effects: [deleted('hostDevice', device)],
      notes: mapped ? ['It comes back at the next rescan while it is mapped.'] : [],
    });
  },
  foretell(view, draft) {
    const host = draftHost(view, draft);
    const fields: Foretold['fields'] = { host: { choices: hostChoices(view) }, device: {} };
    if (host)
      fields.device = {
        choices: deviceChoices(view, host, (row) => (row.mountPoint ? `is mounted at ${row.mountPoint}` : undefined)),
        says: 'Its data stays on the array.',
      };
    return { fields };
  },
};

/** From the first word of a restart until its paths carry I/O again. */
export const RESTART_TIME = 120 * SECOND;

export const hostRestart: OperationType<z.output<typeof hostSchema>> = {
  kind: 'host.restart',
  verb: 'Restart a host',
  summary: 'The host starts anew: mounts that are not persistent are gone afterwards.',
  schema: hostSchema,
  form: {
    columns: [5, 6, 7],
    fields: {
      host: the.host,
    },
  },
  title: (p) => `Restart ${p.host}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const host = asks.find('host', p.host, 'host');
    if (!host) return refused(asks.refusals);
    const lost = forgotten(view, host.id);
    return planned({
      device: { kind: 'host', id: host.id, name: host.name },
      title: `Restart ${host.name}${lost.length > 0 ? `: ${lost.map((device) => device.mountPoint).join(', ')} not mounted afterwards` : ''}`,
      takes: RESTART_TIME,
      effects: [
        changed('host', host, { restarts: host.restarts + 1 }),
        ...lost.map((device) => changed('hostDevice', device, { mountPoint: null, writeRate: 0 })),
      ],
      notes: ['What runs on it stops for two minutes.'],
    });
  },
  foretell(view, draft) {
    const host = draftHost(view, draft);
    const lost = host ? forgotten(view, host.id) : [];
    return {
      fields: {
        host: {
          choices: hostChoices(view),
          ...(host
            ? {
                says:
                  lost.length === 0
                    ? 'All its mounts come back.'
                    : `${lost.map((device) => device.mountPoint).join(', ')} will not come back.`,
              }
            : {}),
        },
      },
    };
  },
};

const forgotten = (view: EstateView, host: string): HostDevice[] =>
  view
    .table('hostDevice')
    .by('host', host)
    .filter((device) => device.mountPoint !== null && !device.persistent);
