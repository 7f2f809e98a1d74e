'use client';
import { useId, useState } from 'react';
import type { QueueAnswer } from '@/core/performance/answers';
import { traced, type TracedIo, type TracedSimulation } from '@/core/qos/traced';
import { counted } from '@/core/units/counted';
import { rateText } from './words';

/** Arrivals read from a file, with what could not be read of it. */
export interface ReadArrivals {
  file: string;
  rows: readonly TracedIo[];
  problems: readonly { line: number; message: string; mend: string }[];
}

/** A queue in which those that a trace names arrive as it has it; a volume is named by itself or behind its array. */
export function tracedQueue({ simulation, names, visits }: QueueAnswer, rows: readonly TracedIo[]): TracedSimulation {
  const ids = new Map(Object.entries(names).map(([id, name]) => [name.toLowerCase(), id]));
  return traced(simulation, rows, (name) => ids.get(name.split('/').at(-1)!.toLowerCase()), visits);
}

/** Lines that are told of those that could not be read. */
const TOLD = 3;

/** Whether I/Os arrive by what is known of the volumes, or as a trace has it. */
export function TraceChooser({
  queue,
  trace,
  onTrace,
}: {
  queue: QueueAnswer | undefined;
  trace: ReadArrivals | null;
  onTrace: (trace: ReadArrivals | null) => void;
}) {
  const id = useId();
  const [refused, setRefused] = useState<string | null>(null);
  const choose = async (file: File | undefined) => {
    if (!file) return;
    const { readTrace } = await import('@/formats/io-trace');
    const read = readTrace(await file.text());
    setRefused(read.ok ? null : `${read.message} ${read.mend}`);
    onTrace(read.ok ? { file: file.name, rows: read.rows, problems: read.problems } : null);
  };
  const found = queue && trace ? tracedQueue(queue, trace.rows) : null;
  const said = (some: Record<string, number>, nameOf: (key: string) => string) =>
    Object.entries(some)
      .map(([key, count]) => `${rateText(count)} of ${nameOf(key)}`)
      .join(', ');
  return (
    <div className="flex flex-wrap items-baseline gap-x-3 pt-1.5">
      <label className="text-ink2" htmlFor={id}>
        Arrivals
      </label>
      {trace === null ? (
        <>
          <span>by profile, or as a trace has it:</span>
          <input
            id={id}
            type="file"
            accept=".csv,.txt,text/plain,text/csv"
            onChange={(event) => void choose(event.target.files?.[0])}
          />
        </>
      ) : (
        <>
          <span>
            {found && Object.keys(found.taken).length > 0
              ? `${trace.file}: ${said(found.taken, (key) => queue!.names[key]!)}; the others by profile`
              : `${trace.file} names no volume that waits here`}
          </span>
          <button type="button" className="verb" onClick={() => onTrace(null)}>
            By profile again
          </button>
        </>
      )}
      {found && Object.keys(found.strange).length > 0 && (
        <span className="basis-full text-ink2">Left out: {said(found.strange, (name) => name)}.</span>
      )}
      {refused !== null && (
        <p role="alert" className="basis-full text-red">
          {refused}
        </p>
      )}
      {trace?.problems.slice(0, TOLD).map(({ line, message, mend }) => (
        <p key={line} className="basis-full text-red">
          {message} <span className="text-ink">{mend}</span>
        </p>
      ))}
      {trace && trace.problems.length > TOLD && (
        <p className="basis-full text-ink2">and {counted(trace.problems.length - TOLD, 'more line')}</p>
      )}
    </div>
  );
}
