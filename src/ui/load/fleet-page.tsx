'use client';
import { useState } from 'react';
import type { FleetAnswer, LoadKind } from '@/core/performance/answers';
import { measureOf, topOf, type LoadSummary, type TopBy } from '@/core/performance/top';
import { formatBytes } from '@/core/units/bytes';
import { formatRate } from '@/core/units/rate';
import { StatePost } from '../look/post';
import { percentText, rateText, waitText, whenText } from './words';
import { VerbChoice } from '../look/verb-choice';

const kinds: Record<LoadKind, string> = {
  volume: 'Volumes',
  workload: 'Workloads',
  pool: 'Pools',
  array: 'Arrays',
  host: 'Hosts',
};

interface Top {
  by: TopBy;
  title: string;
  unit: string;
  text: (value: number) => string;
}
const tops: Top[] = [
  { by: 'latency', title: 'Wait longest', unit: 'p95 | worst 5 s', text: (value) => waitText(value) },
  { by: 'iops', title: 'Ask most', unit: 'IO/s, mean | most', text: rateText },
  { by: 'throughput', title: 'Move most', unit: 'mean | most', text: (value) => formatRate(Math.round(value)) },
  { by: 'unserved', title: 'Not served', unit: 'IO/s, mean | most', text: rateText },
  { by: 'queue', title: 'Stand in line', unit: 'operations, in the greatest 5 s', text: rateText },
  { by: 'fullness', title: 'Fullest', unit: 'written of its size', text: percentText },
];

/** What needs somebody, and the top five of everything: by the mean, and by the greatest five seconds, which means hide. */
export function FleetPage({ fleet, onLook }: { fleet: FleetAnswer; onLook: (id: string, at?: number | null) => void }) {
  const [kind, setKind] = useState<LoadKind>('volume');
  const rows = fleet.subjects[kind];
  const { usedBytes, sizeBytes } = fleet.sums;
  return (
    <div className="scroller @container min-h-0 flex-1">
      <div className="grid min-h-full grid-cols-[minmax(300px,0.8fr)_minmax(0,2.2fr)] @max-[960px]:grid-cols-1">
        <div className="min-h-0 border-r border-rule @max-[960px]:border-r-0">
          <section aria-label="Needs somebody" className="border-b border-ink px-3 py-2">
            <h2 className="caps pb-1">Needs somebody</h2>
            {fleet.attention.length === 0 && (
              <p className="text-ink2">Nobody waited unduly, nothing was left unserved, nothing is too busy.</p>
            )}
            <ul>
              {fleet.attention.map(({ says, of, at, severe, others }) => (
                <li key={says} className="flex gap-2 border-t border-rule-faint py-1 first:border-t-0">
                  <span className={`mt-0.5 ${severe ? 'text-red' : 'text-ink2'}`}>
                    <StatePost post={severe ? 'broken' : 'leans'} />
                  </span>
                  <span className="min-w-0">
                    {fleet.resources.some(({ id }) => id === of) ? (
                      says
                    ) : (
                      <button
                        type="button"
                        className="text-left underline decoration-field underline-offset-3"
                        onClick={() => onLook(of, at)}
                      >
                        {says}
                      </button>
                    )}
                    {others.length > 0 && (
                      <span className="block text-ink2">
                        At the same moment:{' '}
                        {others.map(({ id, name }, k) => (
                          <span key={id}>
                            {k > 0 && ', '}
                            <button
                              type="button"
                              className="underline decoration-field underline-offset-3"
                              onClick={() => onLook(id, at)}
                            >
                              {name}
                            </button>
                          </span>
                        ))}
                      </span>
                    )}
                    {at !== null && <span className="num narrow block text-ink2">{whenText(at)}</span>}
                  </span>
                </li>
              ))}
            </ul>
          </section>
          <section aria-label="Capacity" className="border-b border-rule px-3 py-2">
            <h2 className="caps pb-1">Capacity</h2>
            <p className="num">
              <b className="font-[640]">{formatBytes(usedBytes, 'used')}</b> of {formatBytes(sizeBytes)} in all pools
              are used, {percentText(sizeBytes > 0 ? usedBytes / sizeBytes : 0)}.
            </p>
          </section>
          <section aria-label="Busiest" className="px-3 py-2">
            <h2 className="caps pb-1">Busiest</h2>
            <table className="table w-full">
              <thead>
                <tr className="caps">
                  <th>Resource</th>
                  <th className="text-right!">Mean</th>
                  <th className="text-right!">Most</th>
                  <th className="text-right!">Good for</th>
                </tr>
              </thead>
              <tbody>
                {[...fleet.resources]
                  .sort((a, b) => b.mostRho / b.limit - a.mostRho / a.limit)
                  .slice(0, 8)
                  .map(({ id, name, rho, mostRho, limit }) => (
                    <tr key={id}>
                      <td className="name">{name}</td>
                      <td className="num text-right">{percentText(rho)}</td>
                      <td className={`num text-right ${mostRho > limit ? 'font-[640] text-red' : ''}`}>
                        {mostRho > limit ? '✕ ' : ''}
                        {percentText(mostRho)}
                      </td>
                      <td className="num text-right text-ink2">{percentText(limit)}</td>
                    </tr>
                  ))}
              </tbody>
            </table>
          </section>
        </div>
        <div className="min-h-0 min-w-0">
          <div className="flex items-center gap-4 border-b border-rule px-3 py-1">
            <span className="caps">Top five of</span>
            <VerbChoice
              label="Of what"
              choices={Object.entries(kinds) as [LoadKind, string][]}
              value={kind}
              onChange={setKind}
            />
          </div>
          <div className="grid grid-cols-2 @max-[760px]:grid-cols-1">
            {tops
              .filter(({ by }) => kind === 'volume' || by !== 'fullness')
              .map((top) => (
                <TopFive key={top.by} top={top} rows={rows} onLook={onLook} />
              ))}
          </div>
        </div>
      </div>
    </div>
  );
}

function TopFive({
  top,
  rows,
  onLook,
}: {
  top: Top;
  rows: readonly LoadSummary[];
  onLook: (id: string, at?: number | null) => void;
}) {
  const both = top.by === 'fullness' || top.by === 'queue' ? (['mean'] as const) : (['mean', 'most'] as const);
  return (
    <section
      aria-label={top.title}
      className="border-r border-b border-rule px-3 py-2 even:border-r-0 @max-[760px]:border-r-0"
    >
      <h2 className="flex items-baseline gap-2 pb-1">
        <b className="font-[700] [font-stretch:84%]">{top.title}</b>
        <span className="narrow text-ink3">{top.unit}</span>
      </h2>
      <div className={`grid gap-4 ${both.length === 2 ? 'grid-cols-2' : ''}`}>
        {both.map((how) => {
          const list = topOf(rows, top.by, how);
          const most = list[0] ? measureOf(list[0], top.by, how) : 0;
          return (
            <ol
              key={how}
              className="min-w-0"
              aria-label={`${top.title}, ${how === 'mean' ? 'over the span' : 'greatest five seconds'}`}
            >
              {list.length === 0 && <li className="text-ink2">Nothing.</li>}
              {list.map((one) => {
                const value = measureOf(one, top.by, how);
                const moments: { readonly [by: string]: number } = { latency: one.mostLatencyAt, iops: one.mostIopsAt };
                const at = how === 'most' ? (moments[top.by] ?? null) : null;
                return (
                  <li key={one.id} className="grid h-6 grid-cols-[minmax(0,1fr)_auto] items-center gap-2">
                    <button
                      type="button"
                      className="name overflow-hidden text-left text-ellipsis whitespace-nowrap underline decoration-field underline-offset-3"
                      title={one.of ? `${one.name}, ${one.of}` : one.name}
                      onClick={() => onLook(one.id, at)}
                    >
                      {one.name}
                    </button>
                    <span className="num flex items-center gap-1">
                      <span className="inline-block h-[5px] w-7 bg-rule-faint" aria-hidden>
                        <span
                          className="block h-full bg-ink"
                          style={{ width: `${most > 0 ? (100 * value) / most : 0}%` }}
                        />
                      </span>
                      <span className="inline-block w-[76px] text-right">{top.text(value)}</span>
                    </span>
                  </li>
                );
              })}
            </ol>
          );
        })}
      </div>
    </section>
  );
}
