'use client';
import type { Trouble } from '@/core/lab/view';
import { StatePost } from '../look/post';

/** What is amiss with the server, above everything else, until it is well again. */
export function TroubleStrip({ troubles }: { troubles: readonly Trouble[] }) {
  if (troubles.length === 0) return null;
  return (
    <div role="alert" className="grid gap-0.5 border-b-[1.5px] border-red bg-raised px-3 py-1.5">
      {troubles.map((trouble) => (
        <p key={trouble.what} className="flex items-baseline gap-2">
          <StatePost post="broken" />
          <span>
            <b className="font-[640] text-red">{trouble.message}</b> {trouble.mend}
          </span>
        </p>
      ))}
    </div>
  );
}
