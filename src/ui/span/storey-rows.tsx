'use client';
import { workWords } from '@/core/kinds/work-words';
import type { SpanGroup, SpanPool, SpanVolume } from '@/core/span/model';
import { formatBytes, percentUsed, TIB } from '@/core/units/bytes';
import { Beam, VolumeBar } from '../look/beam';
import { StatePost } from '../look/post';
import { RaidStrip } from '../look/raid-strip';
import { rateText, waitText } from '../load/words';
import { useClock } from '../shell/clock-context';
import { useLoadFigure, type LoadFigure } from './by-load';

/** One decimal, cut off: usable is never shown larger than it is. The unit stands in the column's head. */
const tebibytes = (bytes: number): string => (Math.floor((bytes / TIB) * 10) / 10).toFixed(1);

/** Rounded up: what is used is never shown smaller than it is. */
const tebibytesUsed = (bytes: number): string => (Math.ceil((bytes / TIB) * 10 - 1e-9) / 10).toFixed(1);

export function GroupRow({ group }: { group: SpanGroup }) {
  const clock = useClock();
  const share =
    group.job && clock
      ? Math.min(1, Math.max(0, (clock.now - group.job.startedAt) / (group.job.finishesAt - group.job.startedAt)))
      : null;
  return (
    <div className="h-[45px] pt-[4px]">
      <div className="flex h-[17px] items-center gap-[5px] text-[12.5px] whitespace-nowrap">
        <StatePost post={group.post} />
        <span className="name">{group.name}</span>
        <span className="sub overflow-hidden text-ellipsis [font-stretch:80%]">
          {share === null ? group.label : `${Math.floor(share * 100)} % ${workWords[group.job!.kind].share}`}
        </span>
        <span className="flex-1" />
        <span className="num">{tebibytes(group.usable)}</span>
      </div>
      <div className="mt-[4px] overflow-hidden">
        <RaidStrip data={group.data} redundancy={group.redundancy} mirror={group.mirror} />
      </div>
    </div>
  );
}

export function PoolRow({ pool }: { pool: SpanPool }) {
  const filled = percentUsed(pool.used, pool.size);
  const promised = percentUsed(pool.promised, pool.size);
  return (
    <div className="h-[61px] pt-[4px]">
      <div className="flex h-[17px] items-center gap-[5px]">
        <StatePost post={pool.post} />
        <span className="name min-w-0 flex-1 truncate" title={pool.name}>
          {pool.name}
        </span>
        <b className="num font-[640]">{filled} %</b>
      </div>
      <Beam filled={pool.filled} subscribed={pool.subscribed} label={`${filled} % filled, ${promised} % promised`} />
      <div className="sub num flex justify-between text-[11.5px] leading-[14px] [font-stretch:78%]">
        <span>
          {tebibytesUsed(pool.used)} of {tebibytes(pool.size)} TiB
        </span>
        <span>{pool.direct ? 'carved straight' : `promised ${promised} %`}</span>
      </div>
    </div>
  );
}

/** How much is asked, against the volume that is asked most. */
function LoadBar({ figure }: { figure: LoadFigure | undefined }) {
  return (
    <span className="inline-block h-[7px] w-[34px] flex-none border-b border-field" aria-hidden>
      <span
        className={`block h-full ${figure?.hot ? 'bg-red' : 'bg-ink'}`}
        style={{ width: `${Math.round((figure?.share ?? 0) * 100)}%` }}
      />
    </span>
  );
}

export function VolumeRow({ volume }: { volume: SpanVolume }) {
  const load = useLoadFigure(volume.id);
  const short = volume.hosts > 0 && volume.paths.usable < volume.paths.expected;
  return (
    <div className="flex h-[26px] items-center gap-[5px] whitespace-nowrap">
      <StatePost post={volume.post} />
      <span className="name min-w-0 flex-1 overflow-hidden text-ellipsis">{volume.name}</span>
      {load === null ? (
        <>
          <VolumeBar share={volume.written / volume.size} thin={volume.thin} />
          <span className="num w-[32px] text-right [font-stretch:84%]">
            {percentUsed(volume.written, volume.size)} %
          </span>
          <span className="num w-[50px] text-right [font-stretch:84%]">{formatBytes(volume.size, 'used', 1)}</span>
        </>
      ) : (
        <>
          <LoadBar figure={load} />
          <span className="num w-[40px] text-right [font-stretch:84%]">
            {load?.iops == null ? '–' : rateText(load.iops)}
          </span>
          <span className={`num w-[50px] text-right [font-stretch:84%] ${load?.hot ? 'fell-short' : ''}`}>
            {waitText(load?.p95S ?? null)}
          </span>
        </>
      )}
      <span className={`num w-[26px] text-right ${short ? 'fell-short' : 'sub'}`}>
        {volume.hosts === 0 ? '' : `${volume.paths.usable}/${volume.paths.expected}`}
      </span>
    </div>
  );
}
