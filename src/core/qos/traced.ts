import type { Simulation } from './simulate';

/** An I/O of a trace: seconds since its beginning, and whose it is. */
export interface TracedIo {
  atS: number;
  volume: string;
}

/** A simulation in which some volumes arrive as a trace has it. */
export interface TracedSimulation {
  simulation: Omit<Simulation, 'ios' | 'seed'>;
  /** I/Os of the trace by volume that is in the queue. */
  taken: Record<string, number>;
  /** Names in the trace that stand for no volume of the queue, with their I/Os. */
  strange: Record<string, number>;
}

/**
 * Lets volumes arrive as a trace has it, those that it does not name go on by their profile until it ends. `volumeOf` says whom a name of the
 * trace stands for; `visits` how often an I/O of a volume comes to the queue: of less than one each so many are left out, of more than one each
 * comes again, evenly.
 */
export function traced(
  simulation: Omit<Simulation, 'ios' | 'seed'>,
  rows: readonly TracedIo[],
  volumeOf: (name: string) => string | undefined,
  visits: Readonly<Record<string, number>>,
): TracedSimulation {
  const queue = new Set(simulation.volumes.map(({ id }) => id));
  const arrivals = new Map<string, number[]>();
  const owed = new Map<string, number>();
  const taken: Record<string, number> = {};
  const strange: Record<string, number> = {};
  for (const { atS, volume } of rows) {
    const id = volumeOf(volume);
    if (id === undefined || !queue.has(id)) {
      strange[volume] = (strange[volume] ?? 0) + 1;
      continue;
    }
    taken[id] = (taken[id] ?? 0) + 1;
    const times = arrivals.get(id) ?? [];
    arrivals.set(id, times);
    let owes = (owed.get(id) ?? 0) + (visits[id] ?? 1);
    for (; owes >= 1; owes -= 1) times.push(atS);
    owed.set(id, owes);
  }
  if (arrivals.size === 0) return { simulation, taken, strange };
  return {
    simulation: {
      ...simulation,
      seconds: rows.at(-1)!.atS,
      volumes: simulation.volumes.map((one) => {
        const times = arrivals.get(one.id);
        return times ? { ...one, arrivals: { atS: Float64Array.from(times) } } : one;
      }),
    },
    taken,
    strange,
  };
}
