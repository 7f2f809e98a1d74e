import { z } from 'zod';
import { clusterFileSystems } from '../attach/families';
import { deviceAt, mappingsOf } from '../copies/legs';
import { created, deleted } from '../estate/effects';
import { rowOf, type Machine, type Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayChoices, draftArray, draftText } from '../operation/draft';
import { pick, several, such, the } from '../operation/form';
import { inquire, lookUp, type Inquiry } from '../operation/inquiry';
import { nextStep } from '../operation/next-step';
import { planned, refused, type OperationType } from '../operation/operation';
import { record } from '../operation/record';
import { subjectOf } from '../operation/refusal';
import { allotmentOf } from '../pool/allotments';
import { formatBytes, parseBytes, type Bytes } from '../units/bytes';
import { someOf } from '../units/counted';
import { SECOND } from '../units/duration';
import { volumeChoices } from '../volume/ask';
import { disksOf, disksOn, machineChoices, membersOf, refusalOn } from './ask';

const addSchema = z.object({
  machine: z.string(),
  array: z.string(),
  volume: z.string(),
  name: z.string().optional().describe('Of the disk; without it the next number'),
  size: z
    .string()
    .optional()
    .describe('Of a share of a volume on which the cluster keeps files; without it the whole volume'),
});

/** Room for shares on a cluster volume: its file system less the shares that lie on it. */
export function roomForShares(view: EstateView, volume: Volume): Bytes {
  const sizes = view
    .table('hostDevice')
    .by('volume', volume.id)
    .map(({ fileSystemSize }) => fileSystemSize);
  const taken = disksOn(view, volume.id).reduce((sum, { disk }) => sum + disk.size, 0);
  return Math.max(0, Math.max(0, ...sizes) - taken);
}

/** What keeps a volume from carrying a disk of a machine. */
function askVolume(view: EstateView, asks: Inquiry, machine: Machine, volume: Volume, share: Bytes | null): void {
  const subject = subjectOf('volume', volume);
  const cluster = view.table('cluster').get(machine.cluster)!;
  const members = membersOf(view, cluster);
  const array = view.table('array').get(volume.array)!.name;
  const without = members.filter((host) => mappingsOf(view, host.id, volume.id).length === 0);
  if (without.length > 0)
    asks.refuse({
      code: 'machine-not-mapped',
      field: 'volume',
      subject,
      message: `${someOf(without.map(({ name }) => name))} of ${cluster.name} ${without.length === 1 ? 'does' : 'do'} not see ${volume.name}: ${machine.name} could not run there.`,
      mend: `Map it to all of ${cluster.name}.`,
      offer: nextStep(`Map it to ${cluster.name}`, 'mapping.create', {
        cluster: cluster.name,
        array,
        volumes: [volume.name],
      }),
    });
  const own = allotmentOf(view, volume.id);
  if (machine.allotment !== null && own?.id !== machine.allotment && share === null) {
    const allotment = view.table('allotment').get(machine.allotment)!;
    asks.refuse({
      code: 'machine-outside-allotment',
      field: 'volume',
      subject,
      message: `${volume.name} is ${own ? `taken by ${own.name}` : 'in no allotment'}; ${machine.name} takes its disks from ${allotment.name}.`,
      mend: `Take it from ${allotment.name}, or choose another volume.`,
      offer: nextStep(`Take it from ${allotment.name}`, 'allotment.take', {
        allotment: allotment.name,
        array,
        volumes: [volume.name],
      }),
    });
  }
  const devices = members.flatMap((host) => deviceAt(view, host.id, volume.id) ?? []);
  const others = disksOn(view, volume.id);
  const fileSystem = devices.find((device) => device.fileSystem !== null)?.fileSystem ?? null;
  if (share === null) {
    if (others[0])
      asks.refuse({
        code: 'machine-disk-taken',
        field: 'volume',
        subject,
        message: `${volume.name} carries ${others[0].disk.name} of ${others[0].machine.name}.`,
        mend: 'Choose another volume.',
      });
    else if (fileSystem !== null)
      asks.refuse({
        code: 'machine-disk-formatted',
        field: 'volume',
        subject,
        message: `${volume.name} carries ${fileSystem} of its hosts; a disk of a machine is the whole volume.`,
        mend: 'Choose an empty volume, or give a size: then it is a share of it.',
      });
    return;
  }
  const mounted = devices.some((device) => device.mountPoint !== null);
  if (!mounted || fileSystem === null || (members.length > 1 && !clusterFileSystems.includes(fileSystem)))
    asks.refuse({
      code: 'machine-no-cluster-volume',
      field: 'volume',
      subject,
      message: `${cluster.name} keeps no files on ${volume.name}${fileSystem === null ? '' : `: ${fileSystem} is no file system of a cluster, or it is not mounted`}.`,
      mend: `Make a cluster file system on it (${clusterFileSystems.join(', ')}) and mount it, or leave the size out.`,
    });
  else if (others.some(({ disk }) => !disk.share))
    asks.refuse({
      code: 'machine-disk-taken',
      field: 'volume',
      subject,
      message: `${volume.name} is ${others[0]!.disk.name} of ${others[0]!.machine.name} whole.`,
      mend: 'Choose another volume.',
    });
  else if (share > roomForShares(view, volume))
    asks.refuse({
      code: 'machine-share-too-large',
      field: 'size',
      subject,
      message: `${formatBytes(share)} are asked for; ${volume.name} has ${formatBytes(roomForShares(view, volume))} left beside the disks that lie on it.`,
      mend: 'Make it smaller, or choose another volume.',
    });
}

const nextName = (view: EstateView, machine: Machine): string => {
  const taken = new Set(disksOf(view, machine).map(({ name }) => name));
  for (let number = 0; ; number++) if (!taken.has(`disk${number}`)) return `disk${number}`;
};

export const machineAddDisk: OperationType<z.output<typeof addSchema>> = {
  kind: 'machine.add-disk',
  verb: 'Give a machine a disk',
  summary: 'A volume that its cluster sees becomes a disk of a machine, whole or as a share of a cluster volume.',
  schema: addSchema,
  form: {
    columns: [3, 4, 7],
    fields: {
      machine: pick('Machine'),
      array: the.array,
      volume: pick('Volume'),
      size: such('Share of it', 'all of it'),
      name: 'Disk',
    },
  },
  title: (p) => `Give ${p.machine} ${p.volume}${p.size ? `, ${p.size} of it` : ''}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const machine = asks.find('machine', p.machine, 'machine');
    const array = asks.find('array', p.array, 'array');
    const volume = array && asks.find('volume', p.volume, 'volume', array);
    const size = p.size?.trim()
      ? asks.value(parseBytes(p.size, 'promise'), 'size', { kind: 'machine', name: p.machine })
      : null;
    if (!machine || !volume || size === undefined) return refused(asks.refusals);
    const name = p.name?.trim() ? asks.freeName('machineDisk', p.name, machine) : nextName(view, machine);
    askVolume(view, asks, machine, volume, size);
    if (asks.refusals.length > 0 || !name) return refused(asks.refusals);
    return planned({
      device: record,
      title: `${name} of ${machine.name} is ${size === null ? volume.name : `${formatBytes(size)} on ${volume.name}`}`,
      takes: SECOND,
      effects: [
        created(
          'machineDisk',
          rowOf('machineDisk', {
            id: context.newId('machineDisk'),
            name,
            machine: machine.id,
            volume: volume.id,
            size: size ?? volume.size,
            share: size !== null,
          }),
        ),
      ],
      notes:
        size === null
          ? []
          : [`${volume.name} is copied and brought back as a whole: ${machine.name} cannot go back by itself.`],
    });
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const machine = lookUp(view, 'machine', draftText(draft, 'machine'));
    const volume = array && lookUp(view, 'volume', draftText(draft, 'volume'), array.id);
    return {
      fields: {
        machine: { choices: machineChoices(view), says: '' },
        array: { choices: arrayChoices(view) },
        volume: {
          choices: volumeChoices(view, array, (row) => {
            const [other] = disksOn(view, row.id);
            return other && !other.disk.share ? `is ${other.disk.name} of ${other.machine.name}` : undefined;
          }),
          says: volume ? `${formatBytes(volume.size)}, ${volume.naa}.` : 'What its cluster sees.',
        },
        size: {
          says:
            volume && roomForShares(view, volume) > 0
              ? `${formatBytes(roomForShares(view, volume))} are left for shares.`
              : 'Empty for the whole volume.',
        },
        name: machine ? { suggested: nextName(view, machine) } : {},
      },
    };
  },
};

const removeSchema = z.object({ machine: z.string(), disks: z.array(z.string()).min(1, 'name at least one disk') });

export const machineRemoveDisk: OperationType<z.output<typeof removeSchema>> = {
  kind: 'machine.remove-disk',
  verb: 'Take disks from a machine',
  summary: 'A machine that is off gives disks up; their volumes stay.',
  schema: removeSchema,
  form: { columns: [3, 4, 7], fields: { machine: pick('Machine'), disks: several('Disks') } },
  title: (p) => `Take ${someOf(p.disks)} from ${p.machine}`,
  units: (p) => p.disks.map((disk) => ({ ...p, disks: [disk] })),
  plan(view, p) {
    const asks = inquire(view);
    const machine = asks.find('machine', p.machine, 'machine');
    const disk = machine && asks.find('machineDisk', p.disks[0]!, 'disks', machine);
    if (machine?.running)
      asks.refuse(
        refusalOn(machine, 'machine-running', `${machine.name} is running.`, 'Switch it off first.', {
          offer: nextStep(`Switch ${machine.name} off`, 'machine.switch', { machines: [machine.name], on: false }),
        }),
      );
    if (asks.refusals.length > 0 || !machine || !disk) return refused(asks.refusals);
    return planned({
      device: record,
      title: `Take ${disk.name} from ${machine.name}: ${view.table('volume').get(disk.volume)!.name} stays`,
      takes: SECOND,
      effects: [deleted('machineDisk', disk)],
    });
  },
  foretell(view, draft) {
    const machine = lookUp(view, 'machine', draftText(draft, 'machine'));
    return {
      fields: {
        machine: { choices: machineChoices(view, ({ running }) => (running ? 'is running' : undefined)), says: '' },
        disks: {
          choices: machine ? disksOf(view, machine).map(({ name }) => ({ value: name, label: name })) : [],
          says: 'Their volumes stay.',
        },
      },
    };
  },
};
