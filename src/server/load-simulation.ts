import { asQueue } from '@/core/performance/as-queue';
import type { ProposalAnswer, QueueAnswer, SimulateQuestion, SimulationAnswer } from '@/core/performance/answers';
import { SLOT } from '@/core/performance/choices';
import { slotOf } from '@/core/performance/profile';
import type { LoadModel } from '@/core/performance/shape';
import { solveLimit } from '@/core/performance/solve-limit';
import type { Milliseconds } from '@/core/units/duration';
import { inThread } from './in-thread';
import { worstMoment } from './load-questions';
import { CLOSELY, spanOf } from './load-spans';
import type { Plant } from './plant';
import { Problem } from './problem';
import type { ThreadTasks } from './thread-tasks';

/** Where I/Os are carried one by one: a thread of its own, unless somebody says otherwise. */
export type Aside = <T extends 'simulate' | 'replay'>(
  task: T,
  given: ThreadTasks[T]['in'],
  signal?: AbortSignal,
) => Promise<ThreadTasks[T]['out']>;

const tooMuch = () =>
  new Problem(422, 'simulation-too-long', 'The simulation takes more than can be spent on it.', 'Ask for fewer I/Os.');
const inOwnThread: Aside = (task, given, signal) => inThread(task, given, tooMuch, signal);

/** I/Os that a proposal is tried with. */
const TRIED_IOS = 60_000;
const SEED = 1;

/** The limit on X that keeps Y in time, at the moment at which Y waited longest, tried I/O by I/O before it is told. */
export async function propose(
  plant: Plant,
  { x, y, targetS, seconds }: { x: string; y: string; targetS: number; seconds: number },
  signal?: AbortSignal,
  aside = inOwnThread,
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
    simulated: await tried(basis.model, at, { x, y, iops: proposal.iops }, aside, signal),
  };
}

/** A proposal tried I/O by I/O, beside things as they were. */
async function tried(
  model: LoadModel,
  at: Milliseconds,
  { x, y, iops }: { x: string; y: string; iops: number },
  aside: Aside,
  signal?: AbortSignal,
): Promise<ProposalAnswer['simulated']> {
  const p95 = async (limit: { volume: string; iops: number } | null) => {
    const queue = asQueue(model, slotOf(at), y, limit);
    const end = queue && (await aside('simulate', { ...queue.simulation, ios: TRIED_IOS, seed: SEED }, signal));
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
  aside = inOwnThread,
): Promise<SimulationAnswer> {
  const queue = queueOf(plant, question);
  const { names } = queue;
  const begun = performance.now();
  const replayed = trace === null ? null : await aside('replay', { queue, trace, ios, seed }, signal);
  if (replayed && !replayed.ok) throw new Problem(422, 'trace-row', replayed.message, replayed.mend);
  const { seconds, volumes } = replayed ?? (await aside('simulate', { ...queue.simulation, ios, seed }, signal));
  return {
    resource: queue.resource,
    closed: queue.closed,
    seed,
    seconds,
    tookMs: Math.round(performance.now() - begun),
    volumes: volumes.map((one) => ({ ...one, name: names[one.id]! })),
    trace: replayed && {
      taken: Object.fromEntries(Object.entries(replayed.taken).map(([id, count]) => [names[id]!, count])),
      strange: replayed.strange,
      problems: replayed.problems,
    },
  };
}
