'use client';
import { useState } from 'react';
import type { PoolCapacity } from '@/core/space/capacity';
import type { PoolRunway } from '@/core/space/runway';
import { bandWords, runwayWords } from '@/core/space/forecast';
import { suppose } from '@/core/space/what-if';
import { formatBytes, percentUsed } from '@/core/units/bytes';
import { Scale } from '../sheet/controls';
import { RunwayChart } from './runway-chart';
import { WaterfallLines } from './waterfall-lines';

/** One pool: where its bytes went, how long it lasts, and what would be if. */
export function PoolDetail({ pool, runway, now }: { pool: PoolCapacity; runway: PoolRunway; now: number }) {
  const [drives, setDrives] = useState(0);
  const [growth, setGrowth] = useState(0);
  const has = pool.ratios.reduction ?? 1;
  const [ratio, setRatio] = useState<number | null>(null);
  const supposed = suppose(
    {
      size: pool.size,
      used: pool.used,
      data: pool.waterfall.data,
      nonZero: pool.waterfall.nonZero,
      marks: [pool.notice, pool.urgent],
    },
    runway.days.map(({ day, used }) => ({ day, bytes: used })),
    { added: drives * pool.perDrive, growth: growth / 100, ratio },
  );
  const moved = drives !== 0 || growth !== 0 || ratio !== null;
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-x-6 border-t border-ink pt-2">
      <section aria-label={`Waterfall of ${pool.name}`}>
        <h2 className="caps pb-1">
          Where the bytes of <span className="text-ink">{pool.name}</span> went
        </h2>
        <WaterfallLines pool={pool} />
      </section>
      <section aria-label={`Runway of ${pool.name}`}>
        <h2 className="caps pb-1">
          Runway of <span className="text-ink">{pool.name}</span>
        </h2>
        <RunwayChart pool={pool} runway={runway} now={now} />
        <fieldset className="grid grid-cols-3 gap-x-4 border-t border-rule pt-1">
          <legend className="sr-only">What if</legend>
          <label className="grid">
            <span className="caps">Drives added</span>
            <Scale
              label="Drives added"
              value={drives}
              range={{ from: 0, to: 24, step: 1, unit: '' }}
              onChange={(value) => setDrives(Number(value))}
            />
          </label>
          <label className="grid">
            <span className="caps">Grows by more</span>
            <Scale
              label="Grows by more"
              value={growth}
              range={{ from: -100, to: 300, step: 10, unit: '%' }}
              onChange={(value) => setGrowth(Number(value))}
            />
          </label>
          <label className="grid">
            <span className="caps">Reduction comes to</span>
            <Scale
              label="Reduction comes to"
              value={Number((ratio ?? has).toFixed(1))}
              range={{ from: 1, to: 5, step: 0.1, unit: ':1' }}
              onChange={(value) => setRatio(Number(value))}
            />
          </label>
        </fieldset>
        <dl className="grid grid-cols-[auto_1fr_1fr] gap-x-4 py-1 leading-[19px]" aria-label="What would be">
          <dt className="text-ink2">Used</dt>
          <dd className="num">{percentUsed(pool.used, pool.size)} %</dd>
          <dd className="num font-[640]">
            {moved ? `→ ${percentUsed(supposed.used, supposed.size)} % of ${formatBytes(supposed.size)}` : ''}
          </dd>
          {supposed.marks.map((mark) => {
            const before = runway.marks.find((one) => one.percent === mark.percent);
            return (
              <div key={mark.percent} className="contents">
                <dt className="text-ink2">To {mark.percent} %</dt>
                <dd>{before?.words}</dd>
                <dd className="font-[640]">{moved ? `→ ${runwayWords(mark.answer)}` : bandWords(mark.answer)}</dd>
              </div>
            );
          })}
        </dl>
        {moved && (
          <button
            type="button"
            className="verb"
            onClick={() => {
              setDrives(0);
              setGrowth(0);
              setRatio(null);
            }}
          >
            As it is
          </button>
        )}
      </section>
    </div>
  );
}
