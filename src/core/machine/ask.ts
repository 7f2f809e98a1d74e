import type { Cluster, Host, Machine, MachineDisk, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { byName } from '../operation/draft';
import type { Choice } from '../operation/operation';
import { subjectOf, type Refusal } from '../operation/refusal';

export const membersOf = (view: EstateView, cluster: Pick<Cluster, 'id'>): Host[] =>
  [...view.table('host').by('cluster', cluster.id)].sort(byName);

export const disksOf = (view: EstateView, machine: Pick<Machine, 'id'>): MachineDisk[] =>
  [...view.table('machineDisk').by('machine', machine.id)].sort(byName);

/** Disks that lie on a volume, each with its machine. */
export const disksOn = (view: EstateView, volume: string): { disk: MachineDisk; machine: Machine }[] =>
  view
    .table('machineDisk')
    .by('volume', volume)
    .map((disk) => ({ disk, machine: view.table('machine').get(disk.machine)! }))
    .sort((a, b) => byName(a.machine, b.machine) || byName(a.disk, b.disk));

/** Volumes that are disks of a machine whole, by name. */
export const ownVolumes = (view: EstateView, machine: Machine): Volume[] =>
  disksOf(view, machine)
    .filter(({ share }) => !share)
    .map(({ volume }) => view.table('volume').get(volume)!)
    .sort(byName);

export const machineChoices = (
  view: EstateView,
  unfit: (row: Machine) => string | undefined = () => undefined,
): Choice[] =>
  [...view.table('machine').values()].sort(byName).map((row) => {
    const why = unfit(row);
    return {
      value: row.name,
      label: `${row.name}, ${row.running ? 'running' : 'off'}`,
      ...(why ? { unfit: why } : {}),
    };
  });

export const refusalOn = (
  row: Machine,
  code: string,
  message: string,
  mend: string,
  more: Partial<Refusal> = {},
): Refusal => ({ code, field: 'machine', subject: subjectOf('machine', row), message, mend, ...more });
