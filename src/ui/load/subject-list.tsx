'use client';
import { useMemo } from 'react';
import type { FleetAnswer } from '@/core/performance/answers';
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
        <section key={pool} aria-label={pool}>
          <h2 className="mx-3 flex h-6 items-end border-b border-ink pb-0.5 font-[700] [font-stretch:84%]">{pool}</h2>
          {volumes.map((one) => (
            <button
              key={one.id}
              type="button"
              aria-pressed={one.id === of}
              onClick={() => onLook(one.id)}
              className="flex h-7 w-full items-center gap-2 px-3 text-left"
            >
              <span
                className={`name min-w-0 overflow-hidden text-ellipsis whitespace-nowrap ${one.id === of ? 'swipe' : ''}`}
              >
                {one.name}
              </span>
              <span className="flex-1" />
              <span className="num text-ink2">{rateText(one.iops)}</span>
            </button>
          ))}
        </section>
      ))}
      <section aria-label="Workloads">
        <h2 className="mx-3 flex h-6 items-end border-b border-ink pb-0.5 font-[700] [font-stretch:84%]">Workloads</h2>
        {[...fleet.subjects.workload]
          .sort((a, b) => b.iops - a.iops)
          .map((one) => (
            <button
              key={one.id}
              type="button"
              aria-pressed={one.id === of}
              onClick={() => onLook(one.id)}
              className="flex h-7 w-full items-center gap-2 px-3 text-left"
            >
              <span
                className={`name min-w-0 overflow-hidden text-ellipsis whitespace-nowrap ${one.id === of ? 'swipe' : ''}`}
              >
                {one.name}
              </span>
              <span className="flex-1" />
              <span className="num text-ink2">{rateText(one.iops)}</span>
            </button>
          ))}
      </section>
    </nav>
  );
}
