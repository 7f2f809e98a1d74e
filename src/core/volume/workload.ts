import { z } from 'zod';
import { pick } from '../operation/form';
import { created, deleted, changed } from '../estate/effects';
import { rowOf } from '../estate/entities';
import { byName, draftText } from '../operation/draft';
import { inquire, lookUp } from '../operation/inquiry';
import { planned, refused, type OperationType } from '../operation/operation';
import { record } from '../operation/record';
import { SECOND } from '../units/duration';
import { parseWorkloadName } from '../naming/names';

const createSchema = z.object({
  name: z.string(),
  notes: z.string().max(1000).default(''),
  plan: z.string().optional().describe('The protection plan that makes copies of its volumes'),
});

/** Workloads are Trabes' own record: no device needs to hear of them. */

export const workloadCreate: OperationType<z.output<typeof createSchema>> = {
  kind: 'workload.create',
  verb: 'Name a workload',
  summary: 'A name for the volumes that serve one application, so that they are counted and kept together.',
  schema: createSchema,
  form: {
    columns: [3, 4, 7],
    fields: {
      name: 'Name',
      plan: pick('Protection plan'),
      notes: 'Notes',
    },
  },
  title: (p) => `Name workload ${p.name}`,
  units: (p) => [p],
  plan(view, p, context) {
    const asks = inquire(view);
    const name = asks.value(parseWorkloadName(p.name), 'name', { kind: 'workload', name: p.name });
    const taken = name && lookUp(view, 'workload', name);
    if (taken)
      asks.refuse({
        code: 'name-taken',
        field: 'name',
        subject: { kind: 'workload', id: taken.id, name: taken.name },
        message: `There is a workload named ${taken.name} already.`,
        mend: 'Choose another name.',
      });
    const plan = p.plan ? asks.find('plan', p.plan, 'plan') : undefined;
    if (asks.refusals.length > 0 || !name) return refused(asks.refusals);
    return planned({
      device: record,
      title: `Name workload ${name}${plan ? `, protected by ${plan.name}` : ''}`,
      takes: SECOND,
      effects: [
        created(
          'workload',
          rowOf('workload', { id: context.newId('workload'), name, notes: p.notes, plan: plan?.id ?? null }),
        ),
      ],
    });
  },
  foretell: (view) => ({
    fields: {
      name: { says: `Such as Cargo booking. ${view.table('workload').size} are named.` },
      plan: {
        choices: [
          { value: '', label: 'None' },
          ...[...view.table('plan').values()].sort(byName).map((row) => ({ value: row.name, label: row.name })),
        ],
        says: 'Volumes join and leave its copies with the workload.',
      },
      notes: { says: 'Who answers for it, what it needs.' },
    },
  }),
};

const deleteSchema = z.object({ name: z.string() });

export const workloadDelete: OperationType<z.output<typeof deleteSchema>> = {
  kind: 'workload.delete',
  verb: 'Drop a workload',
  summary: 'Forgets a workload; its volumes stay and belong to none.',
  schema: deleteSchema,
  form: {
    columns: [3, 4, 7],
    fields: {
      name: pick('Workload'),
    },
  },
  title: (p) => `Drop workload ${p.name}`,
  units: (p) => [p],
  plan(view, p) {
    const asks = inquire(view);
    const workload = asks.find('workload', p.name, 'name');
    if (!workload) return refused(asks.refusals);
    const volumes = view.table('volume').by('workload', workload.id);
    return planned({
      device: record,
      title: `Drop workload ${workload.name}: ${volumes.length} volumes belong to none`,
      takes: SECOND,
      effects: [
        ...volumes.map((volume) => changed('volume', volume, { workload: null })),
        // Copies stay with their volumes.
        ...view
          .table('snapshot')
          .by('workload', workload.id)
          .map((copy) => changed('snapshot', copy, { workload: null })),
        ...view
          .table('planRun')
          .by('workload', workload.id)
          .map((run) => deleted('planRun', run)),
        // What goes to another site goes on going there.
        ...view
          .table('replication')
          .by('workload', workload.id)
          .map((row) => changed('replication', row, { workload: null })),
        ...view
          .table('limitUse')
          .by('workload', workload.id)
          .map((use) => deleted('limitUse', use)),
        deleted('workload', workload),
      ],
    });
  },
  foretell(view, draft) {
    const workload = lookUp(view, 'workload', draftText(draft, 'name'));
    return {
      fields: {
        name: {
          choices: [...view.table('workload').values()]
            .sort(byName)
            .map((row) => ({ value: row.name, label: row.name })),
          says: workload
            ? `${view.table('volume').countBy('workload', workload.id)} volumes stay and belong to none.`
            : '',
        },
      },
    };
  },
};
