'use client';
import type { CapacityView } from '../api/client';
import { formatBytes, formatDecimalBytes, percentUsed } from '@/core/units/bytes';
import { Datum } from '../look/marks';

type Model = CapacityView;

const columns = '128px minmax(180px,1fr) 76px 116px 76px 72px 168px';

/** Arrays and their pools as beams: what the drives hold raw, and what becomes of it. */
export function ArrayBeams({
  model,
  marked,
  onPick,
}: {
  model: Model;
  marked: string | null;
  onPick: (id: string) => void;
}) {
  const most = Math.max(...model.arrays.map((array) => array.parts.raw), 1);
  return (
    <section aria-label="Arrays and pools">
      <div className="grid items-end gap-x-3 pt-2 pb-1" style={{ gridTemplateColumns: columns }}>
        {[
          'Array, pool',
          'Usable, overhead, spares, free; pools to the largest of their array',
          'Size',
          'Used',
          'Left',
          'Promised',
          'Runway to urgent',
        ].map((head, k) => (
          <span key={head} className={`caps ${k > 1 ? 'text-right' : ''}`}>
            {head}
          </span>
        ))}
      </div>
      {model.arrays.map((array) => {
        const largest = Math.max(...array.pools.map((pool) => pool.size), 1);
        return (
          <div key={array.id} className="pb-2">
            <div
              className="grid items-center gap-x-3 border-t border-ink py-1"
              style={{ gridTemplateColumns: columns }}
            >
              <span className="flex items-center gap-1.5">
                <Datum />
                <b className="[font-stretch:84%]">{array.name}</b>
                <span className="narrow text-ink2">{array.site}</span>
              </span>
              <RawBeam parts={array.parts} width={array.parts.raw / most} />
              <span className="num text-right">{formatDecimalBytes(array.parts.raw)}</span>
              <span className="num col-span-4 text-ink2">
                {formatBytes(array.parts.usable)} usable, {formatDecimalBytes(array.parts.unassigned)} in free drives
              </span>
            </div>
            {array.pools.map((pool) => {
              const runway = model.runways
                .find((one) => one.pool === pool.id)
                ?.marks.find((mark) => mark.percent === pool.urgent);
              const on = pool.id === marked;
              const full = percentUsed(pool.used, pool.size);
              return (
                <button
                  key={pool.id}
                  type="button"
                  aria-pressed={on}
                  onClick={() => onPick(pool.id)}
                  className={`grid w-full cursor-pointer items-center gap-x-3 py-[3px] text-left ${on ? 'bg-wash' : ''}`}
                  style={{ gridTemplateColumns: columns }}
                >
                  <span className="pl-[18px]">
                    <span className={on ? 'swipe font-[700]' : 'name'}>{pool.name}</span>
                  </span>
                  <PoolBeam pool={pool} width={(0.4 * pool.size) / largest} />
                  <span className="num text-right">{formatBytes(pool.size)}</span>
                  <span className={`num text-right ${full >= pool.urgent ? 'font-[640] text-red' : ''}`}>
                    {formatBytes(pool.used, 'used')}, {full} %
                  </span>
                  <span className="num text-right">{formatBytes(pool.available)}</span>
                  <span className="num text-right">{percentUsed(pool.promised, pool.size)} %</span>
                  <span className="truncate text-right">{runway?.words ?? ''}</span>
                </button>
              );
            })}
          </div>
        );
      })}
    </section>
  );
}

const HATCH = 'repeating-linear-gradient(135deg, currentColor 0 1.3px, transparent 1.3px 4px)';

/** Raw bytes of an array: hatched what redundancy and reserves take, half high the spares, hollow what is free, solid lines what is usable. */
function RawBeam({ parts, width }: { parts: Model['arrays'][number]['parts']; width: number }) {
  const share = (bytes: number) => `${(bytes / Math.max(parts.raw, 1)) * 100}%`;
  const label = `${formatDecimalBytes(parts.raw)} raw: ${formatDecimalBytes(parts.overhead)} overhead, ${formatDecimalBytes(parts.spares)} spares, ${formatDecimalBytes(parts.unassigned)} free drives, ${formatDecimalBytes(parts.usable)} usable`;
  return (
    <span
      className="flex h-[14px] border border-ink2 text-ink2"
      style={{ width: `${width * 100}%` }}
      role="img"
      aria-label={label}
      title={label}
    >
      <i className="h-full" style={{ width: share(parts.usable), background: 'currentColor', opacity: 0.28 }} />
      <i className="h-full border-l border-current" style={{ width: share(parts.overhead), backgroundImage: HATCH }} />
      <i className="flex h-full items-end border-l border-current" style={{ width: share(parts.spares) }}>
        <i className="h-1/2 w-full bg-current" />
      </i>
      <i className="h-full border-l border-current" style={{ width: share(parts.unassigned) }} />
    </span>
  );
}

/** A pool: solid what is used, a line below as long as what hosts have written, hatched what is reserved, a tick where promises end, ticks above at the marks. */
function PoolBeam({ pool, width }: { pool: Model['arrays'][number]['pools'][number]; width: number }) {
  const at = (bytes: number) => `${Math.min(100, (bytes / Math.max(pool.size, 1)) * 100)}%`;
  const label = `${formatBytes(pool.used, 'used')} of ${formatBytes(pool.size)} used, ${formatBytes(pool.waterfall.written, 'used')} written, ${formatBytes(pool.promised, 'used')} promised`;
  return (
    <span className="relative block h-[20px] text-ink" role="img" aria-label={label} title={label}>
      <span
        className="absolute top-[5px] left-0 h-[11px] border-x border-y-[1.5px] border-current"
        style={{ width: `${width * 100}%` }}
      >
        <i className="absolute top-[1.5px] left-0 h-[6px] bg-current" style={{ width: at(pool.used) }} />
        <i className="absolute -bottom-[4px] left-0 h-px bg-current" style={{ width: at(pool.waterfall.written) }} />
        <i
          className="absolute top-[1.5px] right-0 h-[6px] text-ink2"
          style={{ width: at(pool.reserve), backgroundImage: HATCH }}
        />
        {[pool.notice, pool.urgent].map((mark) => (
          <i key={mark} className="absolute -top-[6px] h-[4px] w-px bg-current" style={{ left: `${mark}%` }} />
        ))}
        <i className="absolute -top-[2px] h-[14px] w-[2px] bg-current" style={{ left: at(pool.promised) }} />
      </span>
      {pool.promised > pool.size && (
        <span
          className="absolute top-[5px] h-[11px] border-y border-dashed border-current"
          style={{
            left: `${width * 100}%`,
            width: `min(${width * (pool.promised / pool.size - 1) * 100}%, ${100 - width * 100}%)`,
          }}
        />
      )}
    </span>
  );
}
