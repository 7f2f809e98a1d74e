import type { EstateDocument } from '@/core/estate/document';
import { simulateInParts, type SimulatedFigures, type Simulation } from '@/core/qos/simulate';
import { whole } from '@/core/units/in-parts';
import { readChangeFile, type ReadChange } from '@/formats/change-file';
import { readEstate, writeEstateYaml } from '@/formats/estate-file';

/** What is worked out in a thread of its own, so that others are answered meanwhile. */
export interface ThreadTasks {
  readChange: { in: string; out: ReadChange };
  readEstate: { in: string; out: ReturnType<typeof readEstate> };
  writeEstate: { in: EstateDocument; out: string };
  simulate: { in: Simulation; out: { seconds: number; volumes: SimulatedFigures[] } };
}
export const threadTasks: { [T in keyof ThreadTasks]: (given: ThreadTasks[T]['in']) => ThreadTasks[T]['out'] } = {
  readChange: readChangeFile,
  readEstate: (text) => readEstate(text, true),
  writeEstate: writeEstateYaml,
  simulate: (simulation) => whole(simulateInParts(simulation)),
};
