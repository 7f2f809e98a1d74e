import type { EstateDocument } from '@/core/estate/document';
import type { QueueAnswer } from '@/core/performance/answers';
import { tracedQueue } from '@/core/performance/traced-queue';
import type { TracedSimulation } from '@/core/qos/traced';
import { simulateInParts, type SimulatedFigures, type Simulation } from '@/core/qos/simulate';
import { whole } from '@/core/units/in-parts';
import { readChangeFile, type ReadChange } from '@/formats/change-file';
import { readEstate, writeEstateYaml } from '@/formats/estate-file';
import { readTrace, type ReadTrace, type TraceProblem } from '@/formats/io-trace';

/** What is worked out in a thread of its own, so that others are answered meanwhile. */
export interface ThreadTasks {
  readChange: { in: string; out: ReadChange };
  readEstate: { in: string; out: ReturnType<typeof readEstate> };
  writeEstate: { in: EstateDocument; out: string };
  simulate: { in: Simulation; out: Simulated };
  replay: { in: Replay; out: Replayed };
}
interface Simulated {
  seconds: number;
  volumes: SimulatedFigures[];
}
/** A queue to which I/Os come as the text of a trace has them. */
interface Replay {
  queue: QueueAnswer;
  trace: string;
  ios: number;
  seed: number;
}
type Replayed =
  | (Simulated & Pick<TracedSimulation, 'taken' | 'strange'> & { ok: true; problems: TraceProblem[] })
  | Extract<ReadTrace, { ok: false }>;

/** Lines of a trace that are told of at the most. */
const MOST_PROBLEMS = 50;

function replay({ queue, trace, ios, seed }: Replay): Replayed {
  const read = readTrace(trace);
  if (!read.ok) return read;
  const { simulation, taken, strange } = tracedQueue(queue, read.rows);
  const problems = read.problems.slice(0, MOST_PROBLEMS);
  return { ok: true, taken, strange, problems, ...whole(simulateInParts({ ...simulation, ios, seed })) };
}

export const threadTasks: { [T in keyof ThreadTasks]: (given: ThreadTasks[T]['in']) => ThreadTasks[T]['out'] } = {
  readChange: readChangeFile,
  readEstate: (text) => readEstate(text, true),
  writeEstate: writeEstateYaml,
  simulate: (simulation) => whole(simulateInParts(simulation)),
  replay,
};
