import { asQueue } from '@/core/performance/as-queue';
import type { ProposalAnswer, QueueAnswer, SimulateQuestion, SimulationAnswer } from '@/core/performance/answers';
import { SLOT } from '@/core/performance/choices';
import { slotOf } from '@/core/performance/profile';
import type { LoadModel } from '@/core/performance/shape';
import { solveLimit } from '@/core/performance/solve-limit';
import { tracedQueue } from '@/core/performance/traced-queue';
import type { Milliseconds } from '@/core/units/duration';
import { readTrace } from '@/formats/io-trace';
import { inThread } from './in-thread';
import { worstMoment } from './load-questions';
import { CLOSELY, spanOf } from './load-spans';
import type { Plant } from './plant';
import { Problem } from './problem';
import type { ThreadTasks } from './thread-tasks';

/** Where I/Os are carried one by one: a thread of its own, unless somebody says otherwise. */
export type Simulate = (
  simulation: ThreadTasks['simulate']['in'],
  signal?: AbortSignal,
) => Promise<ThreadTasks['simulate']['out']>;

const tooMuch = () =>
  new Problem(422, 'simulation-too-long', 'The simulation takes more than can be spent on it.', 'Ask for fewer I/Os.');
const aside: Simulate = (simulation, signal) => inThread('simulate', simulation, tooMuch, signal);

/** I/Os that a proposal is tried with. */
const TRIED_IOS = 60_000;
const SEED = 1;

/** The limit on X that keeps Y in time, at the moment at which Y waited longest, tried I/O by I/O before it is told. */
export async function propose(
  plant: Plant,
  { x, y, targetS, seconds }: { x: string; y: string; targetS: number; seconds: number },
  signal?: AbortSignal,
  simulate = aside,
): Promise<ProposalAnswer> {
  const { from, to } = spanOf(plant, Math.min(seconds, CLOSELY / 1000), null);
  const at = worstMoment(plant, y, from, to);
  const [basis] = plant.telemetry.basis(at, at + SLOT);
  const proposal = basis && solveLimit(basis.model, slotOf(at), { x, y, targetS });
  if (!proposal)
    throw new Problem(
      404,
      'load-unknown',
      'One of the two asks for nothing.',
      'Choose two volumes that hosts work with.',
    );
  if (!proposal.ok) return { at, x, y, proposal, simulated: null };
  return {
    at,
    x,
    y,
    proposal,
    simulated: await tried(basis.model, at, { x, y, iops: proposal.iops }, simulate, signal),
  };
}

/** A proposal tried I/O by I/O, beside things as they were. */
async function tried(
  model: LoadModel,
  at: Milliseconds,
  { x, y, iops }: { x: string; y: string; iops: number },
  simulate: Simulate,
  signal?: AbortSignal,
): Promise<ProposalAnswer['simulated']> {
  const p95 = async (limit: { volume: string; iops: number } | null) => {
    const queue = asQueue(model, slotOf(at), y, limit);
    const end = queue && (await simulate({ ...queue.simulation, ios: TRIED_IOS, seed: SEED }, signal));
    return { resource: queue?.resource ?? '', p95S: end?.volumes.find(({ id }) => id === y)?.p95S ?? 0 };
  };
  const [was, then] = await Promise.all([p95(null), p95({ volume: x, iops })]);
  return { resource: then.resource, ios: TRIED_IOS, seed: SEED, wasS: was.p95S, p95S: then.p95S };
}

/** The queue at which Y waits beside X under a limit, if one is named, to be simulated I/O by I/O, with the names of all. */
export function queueOf(
  plant: Plant,
  { x, y, iops, at }: Omit<SimulateQuestion, 'ios' | 'seed' | 'trace'>,
): QueueAnswer {
  const [basis] = plant.telemetry.basis(at, at + SLOT);
  const limit = x !== null && iops !== null ? { volume: x, iops } : null;
  const queue = basis && asQueue(basis.model, slotOf(at), y, limit);
  if (!queue) throw new Problem(404, 'load-unknown', 'Nothing is known of its load then.', 'Look at a later time.');
  return { ...queue, names: Object.fromEntries(basis.model.volumes.map(({ id, name }) => [id, name])) };
}

/**
 * Every I/O by itself at the resource where a volume waits: by the profiles of all who use it, or as a trace has it for those it names. Whoever
 * takes the request back ends it.
 */
export async function simulateLoad(
  plant: Plant,
  { ios, seed, trace, ...question }: SimulateQuestion,
  signal?: AbortSignal,
  simulate = aside,
): Promise<SimulationAnswer> {
  const queue = queueOf(plant, question);
  const { names } = queue;
  const read = trace === null ? null : readTrace(trace);
  if (read && !read.ok) throw new Problem(422, 'trace-row', read.message, read.mend);
  const asked = tracedQueue(queue, read?.rows ?? []);
  const begun = performance.now();
  const { seconds, volumes } = await simulate({ ...asked.simulation, ios, seed }, signal);
  return {
    resource: queue.resource,
    closed: queue.closed,
    seed,
    seconds,
    tookMs: Math.round(performance.now() - begun),
    volumes: volumes.map((one) => ({ ...one, name: names[one.id]! })),
    trace: read && {
      taken: Object.fromEntries(Object.entries(asked.taken).map(([id, count]) => [names[id]!, count])),
      strange: asked.strange,
      problems: read.problems.slice(0, 50),
    },
  };
}
