'use client';
import type { SubsystemLine } from '@/core/trace/target-view';
import { Tag } from '../look/marks';
import { usePlace } from '../shell/place';

/** A subsystem with who is let in, where it is offered, and its namespaces. */
export function Subsystem({ subsystem }: { subsystem: SubsystemLine }) {
  const { open } = usePlace();
  return (
    <section aria-label={`Subsystem ${subsystem.name}`} className="pt-4">
      <div className="flex items-baseline gap-3 overflow-hidden border-b border-ink pb-1 whitespace-nowrap">
        <h2 className="flex items-center gap-2 font-[680]">
          {subsystem.array} subsystem {subsystem.name} <Tag tag="NV" />
        </h2>
        <span className="mono text-[11px]">{subsystem.nqn}</span>
        <span className="text-ink2">
          {subsystem.controllers} of at most {subsystem.controllerLimit} controllers connected, by{' '}
          {subsystem.connections} TCP connections
        </span>
        <span className="flex-1" />
        <button
          type="button"
          className="verb"
          onClick={() => open('subsystem.configure', { array: subsystem.array, name: subsystem.name })}
        >
          Change<span className="sr-only"> subsystem {subsystem.name}</span>
        </button>
      </div>
      <dl className="grid grid-cols-[110px_minmax(0,1fr)] gap-x-3 gap-y-0.5 pt-1">
        <dt className="caps pt-[2px]">Let in</dt>
        <dd>
          {subsystem.allowAny
            ? 'every host'
            : subsystem.allowed.map((one) => (
                <span key={one.nqn} className="block">
                  <span className="mono text-[11px]">{one.nqn}</span>{' '}
                  <span className={one.host ? 'text-ink2' : 'text-red'}>{one.host || 'nobody’s'}</span>
                </span>
              ))}
          {!subsystem.allowAny && subsystem.allowed.length === 0 && 'nobody'}
        </dd>
        <dt className="caps pt-[2px]">Offered at</dt>
        <dd className="mono">{subsystem.ports.join('; ') || 'nowhere'}</dd>
        <dt className="caps pt-[2px]">Namespaces</dt>
        <dd>
          {subsystem.namespaces.length === 0
            ? 'none'
            : subsystem.namespaces.map((one) => (
                <span key={one.id} className="block">
                  <b className="num font-[640]">{one.id}</b> {one.volume}{' '}
                  <span className="text-ink2">for {one.hosts.join(', ')}</span>
                </span>
              ))}
        </dd>
      </dl>
    </section>
  );
}
