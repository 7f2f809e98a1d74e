import type { Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { disksOn } from '../machine/ask';
import { formatBytes } from '../units/bytes';
import type { FactLine } from './facts-lines';

/** Disks of machines that lie on a volume. */
export const machineLines = (view: EstateView, volume: Volume): FactLine[] =>
  disksOn(view, volume.id).map(({ disk, machine }) => ({
    text: `${disk.name} of machine ${machine.name}`,
    more: `${disk.share ? `${formatBytes(disk.size)} of it` : 'all of it'}, ${machine.running ? 'running' : 'off'}`,
  }));
