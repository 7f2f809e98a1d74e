import { z } from 'zod';
import { clusterChoices } from '../attach/receivers';
import { changed, created, deleted } from '../estate/effects';
import { rowOf } from '../estate/entities';
import { draftList, draftText, namedChoices, orNone } from '../operation/draft';
import { pick, several } from '../operation/form';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type OperationType } from '../operation/operation';
import { flag } from '../operation/params';
import { record } from '../operation/record';
import { counted, someOf } from '../units/counted';
import { SECOND } from '../units/duration';
import { disksOf, machineChoices, membersOf, refusalOn } from './ask';

const createSchema = z.object({
  name: z.string(),
  cluster: z.string().describe('The hypervisor cluster it runs on'),
  allotment: z.string().optional().describe('Its volumes are taken from this allotment'),
  workload: z.string().optional().describe('Its volumes are copied at one instant under this name'),
  notes: z.string().max(1000).default(''),
});

export const machineCreate: OperationType<z.output<typeof createSchema>> = {
  kind: 'machine.create',
  verb: 'Name a machine',
  summary: 'A virtual machine of a hypervisor cluster, so that it is known which of its disks lies on which volume.',
  schema: createSchema,
  form: {
    columns: [4, 7],
    fields: {
      name: 'Name',
      cluster: pick('Cluster'),
      allotment: pick('Allotment'),
      workload: pick('Workload'),
      notes: 'Notes',
    },
  },
  title: (p) => `Name machine ${p.name} on ${p.cluster}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const name = asks.freeName('machine', p.name);
    const cluster = asks.find('cluster', p.cluster, 'cluster');
    const allotment = p.allotment ? asks.find('allotment', p.allotment, 'allotment') : null;
    const workload = p.workload ? asks.find('workload', p.workload, 'workload') : null;
    if (asks.refusals.length > 0 || !name || !cluster) return refused(asks.refusals);
    return planned({
      device: record,
      title: `Name machine ${name} on ${cluster.name}${allotment ? `, within ${allotment.name}` : ''}`,
      takes: SECOND,
      effects: [
        created(
          'machine',
          rowOf('machine', {
            id: context.newId('machine'),
            name,
            cluster: cluster.id,
            allotment: allotment?.id ?? null,
            workload: workload?.id ?? null,
            notes: p.notes,
            createdAt: context.now,
          }),
        ),
      ],
    });
  },
  foretell(view, draft) {
    const cluster = lookUp(view, 'cluster', draftText(draft, 'cluster'));
    return {
      fields: {
        name: { says: 'As its hypervisors call it.' },
        cluster: {
          choices: clusterChoices(view),
          says: cluster ? `${counted(membersOf(view, cluster).length, 'member')}.` : 'Where it may run.',
        },
        allotment: { choices: orNone(namedChoices(view, 'allotment')), says: 'Its disks then lie within it alone.' },
        workload: {
          choices: orNone(namedChoices(view, 'workload')),
          says: 'What is copied and brought back together.',
        },
        notes: {},
      },
    };
  },
};

const namedSchema = z.object({ machines: z.array(z.string()).min(1, 'name at least one machine') });

export const machineDelete: OperationType<z.output<typeof namedSchema>> = {
  kind: 'machine.delete',
  verb: 'Put machines away',
  summary: 'Forgets machines that are off; their volumes stay.',
  schema: namedSchema,
  form: { columns: [4, 7], fields: { machines: several('Machines') } },
  title: (p) => `Put ${someOf(p.machines)} away`,
  units: (p) => p.machines.map((machine) => ({ machines: [machine] })),
  plan(view, p) {
    const asks = inquire(view);
    const row = asks.find('machine', p.machines[0]!, 'machines');
    if (row?.running)
      asks.refuse(
        refusalOn(row, 'machine-running', `${row.name} is running.`, 'Switch it off first.', { field: 'machines' }),
      );
    if (asks.refusals.length > 0 || !row) return refused(asks.refusals);
    const disks = disksOf(view, row);
    return planned({
      device: record,
      title: `Put ${row.name} away with its ${counted(disks.length, 'disk')}`,
      takes: SECOND,
      effects: [...disks.map((disk) => deleted('machineDisk', disk)), deleted('machine', row)],
      notes: disks.length > 0 ? ['The volumes of its disks stay where they are.'] : [],
    });
  },
  foretell: (view, draft) => ({
    fields: {
      machines: {
        choices: machineChoices(view, ({ running }) => (running ? 'is running' : undefined)),
        says: draftList(draft, 'machines').length > 0 ? 'Their volumes stay.' : 'Those that are off.',
      },
    },
  }),
};

const switchSchema = namedSchema.extend({ on: flag.default(true) });

export const machineSwitch: OperationType<z.output<typeof switchSchema>> = {
  kind: 'machine.switch',
  verb: 'Switch machines on or off',
  summary: 'A machine that is off does not touch its disks: they can be brought back to a copy.',
  schema: switchSchema,
  form: { columns: [4, 7], fields: { machines: several('Machines'), on: { label: 'On', control: 'switch' } } },
  title: (p) => `Switch ${someOf(p.machines)} ${p.on ? 'on' : 'off'}`,
  units: (p) => p.machines.map((machine) => ({ ...p, machines: [machine] })),
  plan(view, p) {
    const asks = inquire(view);
    const row = asks.find('machine', p.machines[0]!, 'machines');
    if (asks.refusals.length > 0 || !row) return refused(asks.refusals);
    return planned({
      device: record,
      title: `Switch ${row.name} ${p.on ? 'on' : 'off'}`,
      takes: 10 * SECOND,
      effects: [changed('machine', row, { running: p.on })],
    });
  },
  foretell: (view) => ({
    fields: { machines: { choices: machineChoices(view), says: '' }, on: { suggested: 'true', says: '' } },
  }),
};
