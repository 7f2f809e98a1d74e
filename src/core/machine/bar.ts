import type { Effect } from '../estate/effects';
import type { Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { nextStep } from '../operation/next-step';
import { subjectOf, type Refusal } from '../operation/refusal';
import { disksOn } from './ask';

/** How something serves a machine, before its name. */
const serves = { workload: 'bears the disks of', allotment: 'holds the disks of', cluster: 'runs' } as const;

/** Whether a volume goes back to a copy that stood before; one that is copied, or whose copies go, is cut to another as well. */
const wentBack = (view: EstateView, effects: readonly Effect[], before: Volume, after: Volume): boolean =>
  after.base !== null &&
  after.base !== before.base &&
  view.table('snapshot').get(after.base) !== undefined &&
  !effects.some((one) => one.kind === 'snapshot' && one.after === null);

/** What effects would harm of machines: what one needs going, a file system of a host on what is a disk of one whole; empty where nothing. */
export function barredByMachines(view: EstateView, effects: readonly Effect[]): Refusal[] {
  if (view.table('machine').size === 0) return [];
  const found = new Map<string, Refusal>();
  const going = new Set(effects.flatMap(({ kind, id, after }) => (kind === 'machineDisk' && !after ? [id] : [])));
  const takeOff = (volume: string, says: (disk: string, name: string) => string, share: boolean) => {
    const [on] = disksOn(view, volume).filter(({ disk }) => !going.has(disk.id) && (share || !disk.share));
    if (!on || found.has(volume)) return;
    const { disk, machine } = on;
    const row = view.table('volume').get(volume)!;
    found.set(volume, {
      code: 'machine-disk-in-use',
      subject: subjectOf('volume', row),
      message: says(`${disk.name} of ${machine.name}`, row.name),
      mend: `Take ${disk.name} from ${machine.name} first.`,
      offer: nextStep(`Take ${disk.name} from ${machine.name}`, 'machine.remove-disk', {
        machine: machine.name,
        disks: [disk.name],
      }),
    });
  };
  for (const { kind, id, before, after } of effects) {
    if ((kind === 'workload' || kind === 'allotment' || kind === 'cluster') && before && !after) {
      const machine = view
        .table('machine')
        .by(kind, id)
        .find((row) => !effects.some((one) => one.kind === 'machine' && one.id === row.id && !one.after));
      if (machine)
        found.set(id, {
          code: 'machine-needs-it',
          subject: subjectOf('machine', machine),
          message: `${before.name} cannot go: it ${serves[kind]} machine ${machine.name}.`,
          mend: `Put ${machine.name} away first.`,
          offer: nextStep(`Put ${machine.name} away`, 'machine.delete', { machines: [machine.name] }),
        });
    } else if (kind === 'volume' && before && after && wentBack(view, effects, before, after)) {
      const on = disksOn(view, id).find(({ machine }) => machine.running);
      if (on && !found.has(id))
        found.set(id, {
          code: 'machine-running',
          subject: subjectOf('machine', on.machine),
          message: `${on.machine.name} is running, and its ${on.disk.name} lies on ${before.name}.`,
          mend: `Switch ${on.machine.name} off first.`,
          offer: nextStep(`Switch ${on.machine.name} off`, 'machine.switch', {
            machines: [on.machine.name],
            on: false,
          }),
        });
    } else if (kind === 'volume' && before && (!after || (after.deletedAt !== null && before.deletedAt === null)))
      takeOff(id, (disk, name) => `${name} cannot go: ${disk} lies on it.`, true);
    else if (kind === 'hostDevice' && before && after) {
      const made = before.fileSystem === null && after.fileSystem !== null;
      const mounted = before.mountPoint === null && after.mountPoint !== null;
      if (made || mounted)
        takeOff(
          after.volume,
          (disk, name) => `${name} is ${disk}: a host that used it as well would destroy it.`,
          false,
        );
    }
  }
  return [...found.values()];
}
