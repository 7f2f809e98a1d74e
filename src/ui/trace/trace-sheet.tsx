'use client';
import { useQuery } from '@tanstack/react-query';
import type { HopState, Trace, TraceHop, TracePair } from '@/core/trace/trace';
import type { Post } from '@/core/span/model';
import { api } from '../api/client';
import { StatePost } from '../look/post';
import { SheetFrame } from '../sheet/sheet-frame';
import { usePlace } from '../shell/place';
import { stateColumn } from '../table/cells';
import type { Column } from '../table/columns';
import { DataTable } from '../table/data-table';

const posts: Record<HopState, Post> = { pass: 'stands', warn: 'leans', fail: 'broken', 'not-reached': 'absent' };
const pairPosts: Record<TracePair['state'], Post> = {
  optimized: 'stands',
  'non-optimized': 'stands',
  transitioning: 'leans',
  unavailable: 'broken',
  missing: 'broken',
};

/** The chain between a host and a volume, hop by hop, with the first break and its mend. */
export function TraceSheet({ host, volume }: { host: string; volume: string }) {
  const { data, error } = useQuery({
    queryKey: ['trace', host, volume],
    queryFn: () => api.trace(host, volume),
    enabled: host !== '' && volume !== '',
  });
  if (host === '' || volume === '')
    return (
      <SheetFrame title="Trace">
        <p className="px-4 py-3">Pick a host or a volume in the drawing, and choose Trace.</p>
      </SheetFrame>
    );
  return (
    <SheetFrame
      title="Trace"
      line={
        <>
          from <b className="font-[640]">{host}</b> to <b className="font-[640]">{data?.volume ?? volume}</b>
        </>
      }
    >
      {error && <p className="refusal m-4">The trace was asked for. {error.message}</p>}
      {data && (
        <>
          <p className="border-b border-rule px-4 py-2" role="status">
            {verdict(data)}
            {data.stretched &&
              ` ${data.stretched.name} is stretched: ${data.stretched.says}. The leg at ${data.stretched.site} is traced, and paths to both are listed.`}
            {data.moving !== null && ` ${data.moving}`}
          </p>
          {data.pairs.length > 0 && (
            <DataTable
              label="Paths"
              rows={data.pairs}
              keyOf={({ from, to }) => `${from} ${to}`}
              columns={pairColumns}
              className="[&_td]:align-middle!"
              inset
            />
          )}
          <ol aria-label="Hops" className="px-4 py-2">
            {data.hops.map((hop) => (
              <Hop key={hop.number} hop={hop} />
            ))}
          </ol>
        </>
      )}
    </SheetFrame>
  );
}

/** Whether the chain holds, and on how many of its legs. */
function verdict({ whole, hops, legs: { holding, broken } }: Trace): string {
  if (!whole) return `The chain breaks at hop ${hops.find((hop) => hop.state === 'fail')!.number} of ${hops.length}.`;
  if (broken.length === 0) return 'The chain holds from the drives to the host.';
  const others = broken.length === 1 ? `${broken[0]} carries nothing` : `${broken.join(' and ')} carry nothing`;
  return `The chain holds on ${holding.length} of ${holding.length + broken.length} legs, over ${holding.join(' and ')}: ${others}.`;
}

const pairColumns: Column<TracePair>[] = [
  stateColumn(({ state }) => pairPosts[state]),
  { head: 'Path', value: ({ from, to }) => `${from} to ${to}` },
  { head: 'Over', value: ({ via }) => via },
  { head: 'Standing', value: ({ state }) => state },
  { head: 'Now', value: ({ says }) => says, className: ({ state }) => (state === 'missing' ? 'text-red' : '') },
];

function Hop({ hop }: { hop: TraceHop }) {
  const { openStep } = usePlace();
  const broken = hop.state === 'fail';
  const faded = hop.state === 'not-reached';
  return (
    <li
      className={`grid grid-cols-[22px_20px_112px_minmax(0,1fr)] items-baseline py-1 ${faded ? 'text-ink3' : ''}`}
      aria-label={`${hop.number} ${hop.hop}: ${hop.state}`}
    >
      <span className="num narrow">{hop.number}</span>
      <span className="translate-y-[2px]">
        <StatePost post={posts[hop.state]} />
      </span>
      <span className={faded ? '' : 'font-[560]'}>{hop.hop}</span>
      {broken || hop.state === 'warn' ? (
        <div className={broken ? 'border border-red px-3 py-1.5' : 'border-l-[1.5px] border-ink pl-3'}>
          <p className={broken ? 'font-[640] text-red' : ''}>
            {broken ? 'First break: ' : ''}
            {hop.object}
            <span className="narrow text-ink3"> {hop.reason}</span>
          </p>
          <p>{hop.evidence}</p>
          <p className="flex items-baseline gap-3">
            <span className="text-ink2">{hop.advice}</span>
            {hop.mend && (
              <button type="button" className={broken ? 'btn solid' : 'verb'} onClick={() => openStep(hop.mend!)}>
                {hop.mend.label}
              </button>
            )}
          </p>
        </div>
      ) : (
        <span>
          {hop.object && <span className={faded ? '' : 'mono break-all'}>{hop.object}</span>}{' '}
          <span className={faded ? '' : 'text-ink2'}>{faded ? 'not reached' : hop.evidence}</span>
        </span>
      )}
    </li>
  );
}
