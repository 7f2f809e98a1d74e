'use client';
import { partTook } from '@/core/replicate/rehearse-time';
import type { DrillView } from '@/core/replicate/drill-view';
import { momentText } from '@/core/units/date';
import { formatDuration, type Milliseconds } from '@/core/units/duration';
import { StatePost } from '../look/post';
import { usePlace } from '../shell/place';
import { drillText } from './drill-table';

/** One drill: how long each turn and task took, and what was found on each volume. */
export function DrillPanel({ drill, onClose }: { drill: DrillView; onClose: () => void }) {
  const { open } = usePlace();
  const turns = [...new Set(drill.parts.map(({ tier }) => tier))].sort((a, b) => a - b);
  const stretches: { what: string; took: Milliseconds }[] = [
    { what: 'noticing', took: drill.detect },
    { what: 'deciding', took: drill.decide },
    ...drill.tiers.map((took, k) => ({ what: `turn ${turns[k]}:`, took })),
  ];
  return (
    <section aria-label="Drill" className="scroller printed min-h-0 border-t-[1.5px] border-ink bg-raised px-3 py-2">
      <p className="caps">
        failover to {drill.site} rehearsed at {drill.host}
      </p>
      <h2 className="sheet-title">
        <span className="swipe">{drill.name}</span>
      </h2>
      <p className="pt-1">
        <b className="font-[640]">Back within {formatDuration(drill.total)}</b>: {drillText(drill)}.{' '}
        {momentText(drill.startedAt)}
        {drill.endedAt === null ? '; its volumes still stand.' : `; ended ${momentText(drill.endedAt)}.`}
      </p>
      <Times stretches={stretches} total={drill.total} />
      <p className="unprinted flex gap-4 pt-1">
        <a className="verb inline-flex items-center" href={`/api/v1/protection/report?drill=${drill.id}`} download>
          Report as Markdown
        </a>
        <button type="button" className="verb" onClick={() => window.print()}>
          Print
        </button>
        {drill.endedAt === null && (
          <button type="button" className="verb" onClick={() => open('drill.end', { drill: drill.name })}>
            End it
          </button>
        )}
        <button type="button" className="verb" onClick={onClose}>
          Back to the replications
        </button>
      </p>
      <div className="grid grid-cols-[repeat(auto-fit,minmax(360px,1fr))] gap-x-6">
        {drill.parts.map((part) => (
          <div key={part.replication} className="pt-2">
            <h3 className="border-b border-ink pb-0.5">
              <b className="font-[640]">{part.name}</b>{' '}
              <span className="narrow text-ink2">
                turn {part.tier}, back to {momentText(part.pit, true)},{' '}
                {part.lag === 0 ? 'nothing lost' : `${formatDuration(part.lag)} lost`};{' '}
                {part.goal === null ? 'no time is promised' : `to be back within ${formatDuration(part.goal)}`}
              </span>
            </h3>
            <dl className="narrow">
              {part.tasks.map(({ what, took }) => (
                <div key={what} className="flex justify-between border-b border-rule-faint py-0.5">
                  <dt>{what}</dt>
                  <dd className="num">{formatDuration(took)}</dd>
                </div>
              ))}
              <div className="flex justify-between border-b border-rule py-0.5 font-[640]">
                <dt>all</dt>
                <dd className="num">{formatDuration(partTook(part))}</dd>
              </div>
            </dl>
            <ul className="narrow pt-1">
              {part.found.map(({ volume, good, says }) => (
                <li key={volume} className="flex items-baseline gap-2 py-0.5">
                  <StatePost post={good ? 'stands' : 'broken'} />
                  <span className={good ? '' : 'text-red'}>
                    {volume}: {says}
                  </span>
                </li>
              ))}
            </ul>
          </div>
        ))}
      </div>
    </section>
  );
}

/** The stretches one after the other, to scale. */
function Times({
  stretches,
  total,
}: {
  stretches: readonly { what: string; took: Milliseconds }[];
  total: Milliseconds;
}) {
  return (
    <ol className="flex max-w-[760px] pt-2" aria-label="What the time went to">
      {stretches.map(({ what, took }) => (
        <li
          key={what}
          className="narrow min-w-[64px] overflow-hidden border-l border-ink pt-1 pl-1 text-ellipsis whitespace-nowrap shadow-[inset_0_3px_0_var(--ink)] last:border-r"
          style={{ flexGrow: Math.max(0.02, took / total) }}
        >
          {what} <span className="num">{formatDuration(took)}</span>
        </li>
      ))}
    </ol>
  );
}
