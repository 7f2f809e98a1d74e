'use client';
import { useQuery } from '@tanstack/react-query';
import type { ConsumerAnswer, ConsumerVolume } from '@/core/service/consumer';
import { formatBytes, percentUsed } from '@/core/units/bytes';
import { counted } from '@/core/units/counted';
import { momentText } from '@/core/units/date';
import { api } from '../api/client';
import { usePlace } from '../shell/place';
import { MachineTable } from './machine-table';

/** A consumer's own page: what they were given, from where more can be taken, and what they do with what they took. */
export function ConsumerPage({ id, onClose }: { id: string; onClose: () => void }) {
  const consumer = useQuery({ queryKey: ['classes', 'consumer', id], queryFn: () => api.consumer(id), retry: false });
  const { open } = usePlace();
  const data = consumer.data;
  if (consumer.error)
    return (
      <p className="refusal m-3">
        {consumer.error.message}{' '}
        <button type="button" className="verb" onClick={onClose}>
          All allotments
        </button>
      </p>
    );
  if (!data) return <p className="p-3 text-ink2">Reading what was taken…</p>;
  const percent = percentUsed(data.takenBytes, data.bytes);
  const best = data.pools.find(({ leftBytes }) => leftBytes > 0);
  return (
    <section aria-label={data.name} className="scroller min-h-0 flex-1 px-3 py-2 [&_td]:align-baseline!">
      <div className="flex items-baseline gap-3">
        <h2 className="text-[20px] font-[740] [font-stretch:84%]">{data.name}</h2>
        <span className="min-w-0 flex-1 truncate text-ink2">
          {[data.contact, data.notes].filter(Boolean).join('; ')}
        </span>
        <button type="button" className="verb" onClick={onClose}>
          All allotments
        </button>
        <button
          type="button"
          className="btn solid"
          disabled={!best}
          onClick={() =>
            open('allotment.carve', { allotment: data.name, ...(best ? { array: best.array, pool: best.pool } : {}) })
          }
        >
          Make a volume
        </button>
      </div>
      <p className="num pt-1">
        <b className="font-[640]">{formatBytes(Math.max(0, data.bytes - data.takenBytes))}</b> left of{' '}
        {formatBytes(data.bytes)}, {percent} % taken; {counted(data.volumes.length, 'volume')}
        {data.mostVolumes === null ? '' : ` of ${data.mostVolumes}`}; classes {data.classes.join(', ') || 'any'}.
      </p>
      <div className="grid grid-cols-[minmax(0,1fr)_260px] items-start gap-6 pt-3 @max-[860px]:grid-cols-1">
        <Volumes volumes={data.volumes} />
        <Pools data={data} />
      </div>
      <MachineTable machines={data.machines} allotment={data.name} />
    </section>
  );
}

function Volumes({ volumes }: { volumes: readonly ConsumerVolume[] }) {
  const { open } = usePlace();
  if (volumes.length === 0)
    return <p className="text-ink2">Nothing is taken yet. Make a volume in one of the pools beside.</p>;
  return (
    <table className="table w-full" aria-label="Volumes taken">
      <thead>
        <tr className="caps">
          <th>Volume</th>
          <th className="text-right!">Size</th>
          <th className="text-right!">Written</th>
          <th>Class</th>
          <th>Seen by</th>
          <th>Copies</th>
          <th>Do</th>
        </tr>
      </thead>
      <tbody className="num">
        {volumes.map((volume) => {
          const many = { array: volume.array, volumes: [volume.name] };
          const one = { array: volume.array, volume: volume.name };
          return (
            <tr key={volume.id}>
              <td>
                <b className="name">{volume.name}</b>
                <span className="narrow block text-ink2">
                  {volume.array} {volume.pool}
                </span>
              </td>
              <td className="text-right">{formatBytes(volume.size)}</td>
              <td className="text-right">{formatBytes(volume.written, 'used')}</td>
              <td className="text-ink2">{volume.class ?? '–'}</td>
              <td className="whitespace-normal! text-ink2">
                {volume.hosts.map(({ name, mountPoint }) => (mountPoint ? `${name} ${mountPoint}` : name)).join(', ') ||
                  'no host'}
              </td>
              <td className="text-ink2">
                {volume.newestCopy === null ? 'none' : `${volume.copies}, newest ${momentText(volume.newestCopy)}`}
              </td>
              <td>
                {volume.keptUntil === null ? (
                  <span className="flex flex-wrap gap-x-3">
                    <button type="button" className="verb" onClick={() => open('volume.resize', many)}>
                      Grow
                    </button>
                    <button type="button" className="verb" onClick={() => open('snapshot.create', one)}>
                      Copy
                    </button>
                    {volume.copies > 0 && (
                      <button type="button" className="verb" onClick={() => open('copy.go-back', one)}>
                        Go back
                      </button>
                    )}
                    <button type="button" className="verb" onClick={() => open('volume.delete', many)}>
                      Give back
                    </button>
                  </span>
                ) : (
                  <span className="flex gap-3">
                    <span className="text-ink2">kept until {momentText(volume.keptUntil)}</span>
                    <button type="button" className="verb" onClick={() => open('volume.restore', many)}>
                      Restore
                    </button>
                  </span>
                )}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function Pools({ data }: { data: ConsumerAnswer }) {
  const { open } = usePlace();
  return (
    <section aria-label="Where more can be taken">
      <h3 className="caps border-b border-ink pb-1">Where more can be taken</h3>
      {data.pools.length === 0 && <p className="pt-1 text-ink2">No pool fits one of its classes.</p>}
      <ul>
        {data.pools.map(({ array, pool, leftBytes, why }) => (
          <li key={`${array} ${pool}`} className="border-b border-rule-faint py-1">
            <span className="flex items-baseline gap-2">
              <span className="min-w-0 flex-1 truncate">
                {array} {pool}
              </span>
              <b className="num font-[640]">{formatBytes(leftBytes)}</b>
              <button
                type="button"
                className="verb"
                disabled={leftBytes === 0}
                onClick={() => open('allotment.carve', { allotment: data.name, array, pool })}
              >
                Take
                <span className="sr-only">
                  {' '}
                  from {pool} on {array}
                </span>
              </button>
            </span>
            {why && <span className="block text-ink2">{why}</span>}
          </li>
        ))}
      </ul>
    </section>
  );
}
