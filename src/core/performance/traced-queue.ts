import { traced, type TracedIo, type TracedSimulation } from '../qos/traced';
import type { QueueAnswer } from './answers';

/** A queue in which those that a trace names arrive as it has it; a volume is named by itself or behind its array. */
export function tracedQueue({ simulation, names, visits }: QueueAnswer, rows: readonly TracedIo[]): TracedSimulation {
  const ids = new Map(Object.entries(names).map(([id, name]) => [name.toLowerCase(), id]));
  return traced(simulation, rows, (name) => ids.get(name.split('/').at(-1)!.toLowerCase()), visits);
}
