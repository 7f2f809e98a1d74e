import { z } from 'zod';
import { clusterChoices } from '../../attach/receivers';
import { draftArray, draftList, draftText, arrayChoices, namedChoices } from '../../operation/draft';
import { pick, such, the } from '../../operation/form';
import { inquire, lookUp } from '../../operation/inquiry';
import { flag } from '../../operation/params';
import type { RecipeType, Written } from '../../operation/recipe';
import type { Machine } from '../../estate/entities';
import type { EstateView } from '../../estate/estate';
import { subjectOf, type Refusal } from '../../operation/refusal';
import { machineChoices, membersOf, refusalOn } from '../../machine/ask';
import { uncopiedWhy } from '../../machine/view';
import { realPools } from '../../pool/direct';
import { takenWords } from '../../service/allotment-fields';
import { formatBytes, parseBytes } from '../../units/bytes';
import { counted } from '../../units/counted';

const makeSchema = z.object({
  name: z.string(),
  cluster: z.string().describe('The hypervisor cluster it runs on'),
  allotment: z.string().describe('Whose capacity its disks take'),
  array: z.string(),
  pool: z.string(),
  disks: z.array(z.string()).min(1, 'give at least one disk').describe('The size of each disk, such as 40 GiB'),
});

export const makeMachine: RecipeType<z.output<typeof makeSchema>> = {
  kind: 'machine.make',
  verb: 'Make a machine',
  summary:
    'A virtual machine with a volume of its own for each disk: carved within an allotment, seen by its whole cluster, copied at one instant.',
  schema: makeSchema,
  form: {
    columns: [2, 3, 4, 7],
    fields: {
      name: such('Name', 'deck-web'),
      cluster: pick('Cluster'),
      allotment: pick('Allotment'),
      array: the.array,
      pool: the.pool,
      disks: 'Disks',
    },
  },
  title: (p) => `Make machine ${p.name} with ${counted(p.disks.length, 'disk')}`,
  unfold(view, p) {
    const asks = inquire(view);
    const cluster = asks.find('cluster', p.cluster, 'cluster');
    asks.find('allotment', p.allotment, 'allotment');
    if (cluster && membersOf(view, cluster).length === 0)
      asks.refuse({
        code: 'cluster-empty',
        field: 'cluster',
        subject: subjectOf('cluster', cluster),
        message: `${cluster.name} has no member.`,
        mend: 'Put a host into it first.',
      });
    if (asks.refusals.length > 0 || !cluster) return { ok: false, refusals: asks.refusals };
    const volumes = p.disks.map((_, k) => `${p.name}-disk${k}`);
    const at = { allotment: p.allotment, array: p.array, pool: p.pool, workload: p.name };
    return {
      ok: true,
      operations: [
        { do: 'workload.create', name: p.name, notes: 'The disks of one machine' },
        ...p.disks.map((size, k): Written => ({ do: 'allotment.carve', ...at, name: volumes[k]!, size, count: 1 })),
        { do: 'mapping.create', cluster: cluster.name, array: p.array, volumes },
        ...membersOf(view, cluster).map(({ name }): Written => ({ do: 'host.rescan', host: name })),
        { do: 'machine.create', name: p.name, cluster: cluster.name, allotment: p.allotment, workload: p.name },
        ...volumes.map((volume, k): Written => ({
          do: 'machine.add-disk',
          machine: p.name,
          array: p.array,
          volume,
          name: `disk${k}`,
        })),
      ],
    };
  },
  foretell(view, draft) {
    const array = draftArray(view, draft);
    const allotment = lookUp(view, 'allotment', draftText(draft, 'allotment'));
    const sizes = draftList(draft, 'disks').map((text) => parseBytes(text, 'promise'));
    const sum = sizes.reduce((total, size) => total + (size.ok ? size.value : 0), 0);
    return {
      fields: {
        name: { says: 'Its volumes and its workload bear it.' },
        cluster: { choices: clusterChoices(view), says: 'All its members see the disks.' },
        allotment: {
          choices: namedChoices(view, 'allotment'),
          says: allotment ? takenWords(view, allotment) : 'Whose it is.',
        },
        array: { choices: arrayChoices(view) },
        pool: {
          choices: (array ? realPools(view, array.id) : []).map(({ name }) => ({ value: name, label: name })),
          says: 'Where its disks lie.',
        },
        disks: { says: sum > 0 ? `${formatBytes(sum)} in ${counted(sizes.length, 'volume')}.` : 'A size each.' },
      },
    };
  },
};

/** The machine that is named and the workload that bears exactly its volumes, or why there is none. */
function askAlone(
  view: EstateView,
  ref: string,
): { ok: true; row: Machine; workload: string } | { ok: false; refusals: Refusal[] } {
  const asks = inquire(view);
  const row = asks.find('machine', ref, 'machine');
  const why = row && uncopiedWhy(view, row);
  if (row && why)
    asks.refuse(
      refusalOn(
        row,
        'machine-not-alone',
        `${row.name} cannot be copied or go back by itself: ${why}.`,
        'Give it volumes of its own, all of one workload.',
      ),
    );
  if (!row || asks.refusals.length > 0) return { ok: false, refusals: asks.refusals };
  return { ok: true, row, workload: view.table('workload').get(row.workload!)!.name };
}

const copySchema = z.object({
  machine: z.string(),
  name: z.string().optional().describe('Without it the date and time'),
});

export const copyMachine: RecipeType<z.output<typeof copySchema>> = {
  kind: 'machine.copy',
  verb: 'Copy a machine',
  summary: 'A copy in time of exactly the volumes of a machine, all at one instant.',
  schema: copySchema,
  form: { columns: [3, 4, 7], fields: { machine: pick('Machine'), name: 'Name' } },
  title: (p) => `Copy machine ${p.machine}`,
  unfold(view, p) {
    const found = askAlone(view, p.machine);
    if (!found.ok) return found;
    const { workload } = found;
    return { ok: true, operations: [{ do: 'snapshot.create', workload, ...(p.name ? { name: p.name } : {}) }] };
  },
  foretell: (view) => ({
    fields: {
      machine: {
        choices: machineChoices(view, (row) => uncopiedWhy(view, row) ?? undefined),
        says: 'Those whose volumes are theirs alone.',
      },
      name: { says: 'Without one, when it was made.' },
    },
  }),
};

const backSchema = z.object({
  machine: z.string(),
  copy: z.string().describe('The copy to go back to'),
  safety: flag.default(true).describe('What stands now is copied first'),
});

export const bringMachineBack: RecipeType<z.output<typeof backSchema>> = {
  kind: 'machine.go-back',
  verb: 'Bring a machine back',
  summary: 'Switches a machine off, brings exactly its volumes back to a copy, and switches it on again.',
  schema: backSchema,
  form: {
    columns: [3, 4, 7],
    fields: {
      machine: pick('Machine'),
      copy: pick('Back to'),
      safety: { label: 'Copy what stands now first', control: 'switch' },
    },
  },
  title: (p) => `Bring machine ${p.machine} back to ${p.copy}`,
  unfold(view, p) {
    const found = askAlone(view, p.machine);
    if (!found.ok) return found;
    const { row, workload } = found;
    const turn = (on: boolean): Written[] => (row.running ? [{ do: 'machine.switch', machines: [row.name], on }] : []);
    return {
      ok: true,
      operations: [...turn(false), { do: 'snapshot.restore', workload, copy: p.copy, safety: p.safety }, ...turn(true)],
    };
  },
  foretell(view, draft) {
    const row = lookUp(view, 'machine', draftText(draft, 'machine'));
    const volumes = row?.workload ? view.table('volume').by('workload', row.workload) : [];
    const cuts = volumes[0] ? [...view.table('snapshot').by('volume', volumes[0].id)].sort((a, b) => b.at - a.at) : [];
    return {
      fields: {
        machine: { choices: machineChoices(view, (one) => uncopiedWhy(view, one) ?? undefined), says: '' },
        copy: {
          choices: cuts.map(({ name }) => ({ value: name, label: name })),
          says: row ? `${counted(volumes.length, 'volume')} go back together.` : '',
        },
        safety: { suggested: 'true', says: 'So that this can be gone back to as well.' },
      },
    };
  },
};
