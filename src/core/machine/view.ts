import { copiesOf } from '../copies/area';
import type { Machine } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import { byName } from '../operation/draft';
import type { ConsumerAnswer } from '../service/consumer';
import type { Bytes } from '../units/bytes';
import type { Milliseconds } from '../units/duration';
import { disksOf } from './ask';

/** A machine as its team sees it: which disk lies on which volume, by name and identity. */
export interface MachineRow {
  id: string;
  name: string;
  cluster: string;
  running: boolean;
  workload: string | null;
  disks: {
    name: string;
    size: Bytes;
    share: boolean;
    volume: string;
    volumeId: string;
    array: string;
    naa: string;
  }[];
  /** Points to which all of its own volumes can go back, and when the newest was made. */
  copies: number;
  newestCopy: Milliseconds | null;
  /** Why it is not copied by itself; null where it is. */
  uncopied: string | null;
}

/** A consumer's page with the machines whose disks are taken from what it was given. */
export interface ConsumerPage extends ConsumerAnswer {
  machines: MachineRow[];
}

/** Why a machine has no copies of exactly its volumes, in words; null where it can have them. */
export function uncopiedWhy(view: EstateView, machine: Machine): string | null {
  const disks = disksOf(view, machine);
  if (disks.length === 0) return 'it has no disk';
  const shared = disks.find(({ share }) => share);
  if (shared)
    return `${shared.name} is a share of ${view.table('volume').get(shared.volume)!.name}, which carries others, too`;
  if (machine.workload === null) return 'no workload bears its volumes';
  const own = new Set(disks.map(({ volume }) => volume));
  const members = view.table('volume').by('workload', machine.workload);
  const name = view.table('workload').get(machine.workload)!.name;
  const other = members.find(({ id }) => !own.has(id));
  if (other) return `${name} bears ${other.name} as well`;
  const without = [...own].find((id) => !members.some((volume) => volume.id === id));
  return without ? `${view.table('volume').get(without)!.name} is not in ${name}` : null;
}

export function machineRow(view: EstateView, machine: Machine): MachineRow {
  const disks = disksOf(view, machine);
  const uncopied = uncopiedWhy(view, machine);
  const points = new Map<string, { at: Milliseconds; count: number }>();
  for (const { volume, share } of uncopied === null ? disks : [])
    for (const copy of share ? [] : copiesOf(view, volume)) {
      const point = points.get(copy.cut) ?? { at: copy.at, count: 0 };
      points.set(copy.cut, { at: copy.at, count: point.count + 1 });
    }
  const whole = [...points.values()].filter(({ count }) => count === disks.length);
  return {
    id: machine.id,
    name: machine.name,
    cluster: view.table('cluster').get(machine.cluster)!.name,
    running: machine.running,
    workload: machine.workload === null ? null : view.table('workload').get(machine.workload)!.name,
    disks: disks.map(({ name, size, share, volume: id }) => {
      const volume = view.table('volume').get(id)!;
      return {
        name,
        size,
        share,
        volume: volume.name,
        volumeId: id,
        array: arrayOf(view, volume).name,
        naa: volume.naa,
      };
    }),
    copies: whole.length,
    newestCopy: whole.length === 0 ? null : Math.max(...whole.map(({ at }) => at)),
    uncopied,
  };
}

/** Machines of an allotment, by name. */
export const machinesOf = (view: EstateView, allotment: string): MachineRow[] =>
  [...view.table('machine').by('allotment', allotment)].sort(byName).map((row) => machineRow(view, row));
