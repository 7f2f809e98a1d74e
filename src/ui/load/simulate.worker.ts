import { simulateInParts, type SimulatedFigures, type Simulation } from '@/core/qos/simulate';

/** What the worker tells: how far it is, or the end. */
export type SimulationNews =
  { done: number; of: number } | { result: { seconds: number; volumes: SimulatedFigures[] }; took: number };

addEventListener('message', ({ data }: MessageEvent<Simulation>) => {
  const begun = performance.now();
  const work = simulateInParts(data);
  for (;;) {
    const next = work.next();
    if (next.done) {
      postMessage({ result: next.value, took: performance.now() - begun } satisfies SimulationNews);
      return;
    }
    if (next.value) postMessage(next.value satisfies SimulationNews);
  }
});
