'use client';
import { useMemo } from 'react';
import type { FleetAnswer } from '@/core/performance/answers';
import type { LoadSummary } from '@/core/performance/top';
import { rateText } from './words';

/** All volumes by pool, those that ask most first. */
export function SubjectList({ fleet, of, onLook }: { fleet: FleetAnswer; of: string; onLook: (id: string) => void }) {
  const pools = useMemo(() => {
    const groups = new Map<string, FleetAnswer['subjects']['volume']>();
    for (const one of fleet.subjects.volume) groups.set(one.of, [...(groups.get(one.of) ?? []), one]);
    return [...groups]
      .map(([pool, volumes]) => ({ pool, volumes: [...volumes].sort((a, b) => b.iops - a.iops) }))
      .sort((a, b) => b.volumes[0]!.iops - a.volumes[0]!.iops);
  }, [fleet]);
  return (
    <nav aria-label="Volumes" className="scroller min-h-0 border-r border-rule">
      <p className="caps flex border-b border-rule px-3 py-1">
        Volume <span className="flex-1" /> IO/s
      </p>
      {pools.map(({ pool, volumes }) => (
        <Named key={pool} title={pool} rows={volumes} of={of} onLook={onLook} />
      ))}
      <Named
        title="Workloads"
        rows={[...fleet.subjects.workload].sort((a, b) => b.iops - a.iops)}
        of={of}
        onLook={onLook}
      />
    </nav>
  );
}

function Named({
  title,
  rows,
  of,
  onLook,
}: {
  title: string;
  rows: readonly LoadSummary[];
  of: string;
  onLook: (id: string) => void;
}) {
  return (
    <section aria-label={title}>
      <h2 className="mx-3 flex h-6 items-end border-b border-ink pb-0.5 font-[700] [font-stretch:84%]">{title}</h2>
      {rows.map(({ id, name, iops }) => (
        <button
          key={id}
          type="button"
          aria-pressed={id === of}
          onClick={() => onLook(id)}
          className="flex h-7 w-full items-center gap-2 px-3 text-left"
        >
          <span className={`name min-w-0 overflow-hidden text-ellipsis whitespace-nowrap ${id === of ? 'swipe' : ''}`}>
            {name}
          </span>
          <span className="flex-1" />
          <span className="num text-ink2">{rateText(iops)}</span>
        </button>
      ))}
    </section>
  );
}
