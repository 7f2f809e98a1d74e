'use client';
import { useState } from 'react';
import type { QueueAnswer } from '@/core/performance/answers';
import { tracedQueue } from '@/core/performance/traced-queue';
import type { TracedIo } from '@/core/qos/traced';
import { counted } from '@/core/units/counted';
import { ReadFile } from '../sheet/read-file';
import { rateText } from './words';

/** Arrivals read from a file, with what could not be read of it. */
export interface ReadArrivals {
  file: string;
  rows: readonly TracedIo[];
  problems: readonly { line: number; message: string; mend: string }[];
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
  const [refused, setRefused] = useState<string | null>(null);
  const read = async (text: string, file: string) => {
    const { readTrace } = await import('@/formats/io-trace');
    const found = readTrace(text);
    setRefused(found.ok ? null : `${found.message} ${found.mend}`);
    onTrace(found.ok ? { file, rows: found.rows, problems: found.problems } : null);
  };
  const found = queue && trace ? tracedQueue(queue, trace.rows) : null;
  const said = (some: Record<string, number>, nameOf: (key: string) => string) =>
    Object.entries(some)
      .map(([key, count]) => `${rateText(count)} of ${nameOf(key)}`)
      .join(', ');
  return (
    <div className="flex flex-wrap items-baseline gap-x-3 pt-1.5">
      <span className="text-ink2">Arrivals</span>
      {trace === null ? (
        <>
          <span>by profile</span>
          <ReadFile
            label="As a trace has it"
            accept=".csv,.txt,text/plain,text/csv"
            onText={(text, file) => void read(text, file)}
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
