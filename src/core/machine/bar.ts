import type { Effect } from '../estate/effects';
import type { EstateView } from '../estate/estate';
import { nextStep } from '../operation/next-step';
import { subjectOf, type Refusal } from '../operation/refusal';
import { disksOn } from './ask';

/** What effects would harm of machines: a file system of a host on what is a disk of one whole; empty where nothing. */
export function barredByMachines(view: EstateView, effects: readonly Effect[]): Refusal[] {
  if (view.table('machineDisk').size === 0) return [];
  const found = new Map<string, Refusal>();
  for (const { kind, before, after } of effects) {
    if (kind !== 'hostDevice' || !after || !before) continue;
    const made = before.fileSystem === null && after.fileSystem !== null;
    const mounted = before.mountPoint === null && after.mountPoint !== null;
    if (!made && !mounted) continue;
    const whole = disksOn(view, after.volume).find(({ disk }) => !disk.share);
    if (!whole || found.has(after.volume)) continue;
    const volume = view.table('volume').get(after.volume)!;
    found.set(after.volume, {
      code: 'machine-disk-in-use',
      subject: subjectOf('volume', volume),
      message: `${volume.name} is ${whole.disk.name} of ${whole.machine.name}: a host that used it as well would destroy it.`,
      mend: `Take ${whole.disk.name} from ${whole.machine.name} first.`,
      offer: nextStep(`Take ${whole.disk.name} from ${whole.machine.name}`, 'machine.remove-disk', {
        machine: whole.machine.name,
        disks: [whole.disk.name],
      }),
    });
  }
  return [...found.values()];
}
