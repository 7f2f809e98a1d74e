'use client';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { tracedQueue } from '@/core/performance/traced-queue';
import type { SimulatedFigures } from '@/core/qos/simulate';
import { formatDuration, SECOND } from '@/core/units/duration';
import { api } from '../api/client';
import type { SimulationNews } from './simulate.worker';
import { TraceChooser, type ReadArrivals } from './trace-chooser';
import { rateText, waitText } from './words';

const IOS = 2_000_000;

/** Every I/O by itself at the resource where the neighbour waits: in a worker, with its seed, to be stopped at any time; beside the closed form. */
export function SimulatePanel({ of, beside, iops, at }: { of: string; beside: string; iops: number; at: number }) {
  const queue = useQuery({
    queryKey: ['load', 'queue', of, beside, iops, at],
    queryFn: () => api.loadQueue({ x: of, y: beside, iops, at }),
    retry: false,
  });
  const worker = useRef<Worker | null>(null);
  const [seed, setSeed] = useState(1);
  const [trace, setTrace] = useState<ReadArrivals | null>(null);
  const [far, setFar] = useState<{ done: number; of: number } | null>(null);
  const [end, setEnd] = useState<{
    volumes: SimulatedFigures[];
    seconds: number;
    ios: number;
    took: number;
    seed: number;
  } | null>(null);
  const stop = () => {
    worker.current?.terminate();
    worker.current = null;
    setFar(null);
  };
  useEffect(() => () => worker.current?.terminate(), []);
  const data = queue.data;
  const arriveBy = (next: ReadArrivals | null) => {
    stop();
    setEnd(null);
    setTrace(next);
  };
  const run = () => {
    if (!data) return;
    stop();
    setEnd(null);
    setFar({ done: 0, of: IOS });
    const begun = new Worker(new URL('./simulate.worker.ts', import.meta.url));
    worker.current = begun;
    begun.onmessage = ({ data: news }: MessageEvent<SimulationNews>) => {
      if ('result' in news) {
        const { volumes, seconds } = news.result;
        const ios = volumes.reduce((sum, one) => sum + one.done, 0);
        setEnd({ volumes, seconds, ios, took: news.took, seed });
        stop();
      } else setFar(news);
    };
    const { simulation } = trace ? tracedQueue(data, trace.rows) : data;
    begun.postMessage({ ...simulation, ios: IOS, seed });
  };
  if (queue.error) return null;
  return (
    <section aria-label="Simulation" className="border-t border-rule px-4 py-2">
      <h3 className="caps pb-1">I/O by I/O{data ? ` at ${data.resource}` : ''}</h3>
      <div className="flex items-center gap-3">
        <label className="text-ink2" htmlFor="simulation-seed">
          Seed
        </label>
        <input
          id="simulation-seed"
          className="field w-20! text-right"
          inputMode="numeric"
          value={seed}
          onChange={(event) => setSeed(Math.max(0, Math.floor(Number(event.target.value) || 0)))}
        />
        {far === null ? (
          <button type="button" className="btn" onClick={run} disabled={!data}>
            Simulate
          </button>
        ) : (
          <button type="button" className="btn" onClick={stop}>
            Stop
          </button>
        )}
        <span role="status" className="text-ink2">
          {far !== null && `${rateText(far.done)} of ${rateText(far.of)} I/Os`}
          {end !== null &&
            `${rateText(end.ios)} I/Os in ${formatDuration(Math.round(end.seconds) * SECOND)}, ${waitText(end.took / 1000)}, seed ${end.seed}`}
        </span>
      </div>
      <TraceChooser queue={data} trace={trace} onTrace={arriveBy} />
      {end !== null && data && (
        <table className="table mt-2 w-full whitespace-nowrap [&_:is(th,td)]:px-1 [&_:is(th,td):first-child]:pl-0 [&_:is(th,td):last-child]:pr-0">
          <thead>
            <tr className="caps">
              <th>Volume</th>
              <th className="text-right!">Mean</th>
              <th className="text-right!">±</th>
              <th className="text-right!">p50</th>
              <th className="text-right!">p95</th>
              <th className="text-right!">p99</th>
              <th className="text-right!">Refused</th>
            </tr>
          </thead>
          <tbody>
            {end.volumes
              .filter(({ id }) => id === of || id === beside)
              .map((one) => (
                <tr key={one.id}>
                  <td className="name">{data.names[one.id]}</td>
                  <td className="text-right">{waitText(one.meanS)}</td>
                  <td className="text-right">{waitText(one.plusMinusS)}</td>
                  <td className="text-right">{waitText(one.p50S)}</td>
                  <td className="text-right">{waitText(one.p95S)}</td>
                  <td className="text-right">{waitText(one.p99S)}</td>
                  <td className="text-right">{rateText(one.refused)}</td>
                </tr>
              ))}
          </tbody>
        </table>
      )}
      {data && (
        <p className="pt-1 text-ink2">
          {data.closed
            ? `In closed form: mean ${waitText(data.closed.meanS)}, p95 ${waitText(data.closed.p95S)} at this resource.`
            : 'In closed form this resource is full: what cannot be served waits or is refused.'}
        </p>
      )}
    </section>
  );
}
