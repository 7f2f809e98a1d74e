'use client';
import { useQuery } from '@tanstack/react-query';
import { api } from '../api/client';
import { useParam, usePlace } from '../shell/place';
import { ArrayBeams } from './array-beams';
import { GroupTable, groupings } from './group-table';
import { HadBack } from './had-back';
import { PoolDetail } from './pool-detail';

const tables = ['arrays', 'pools', 'volumes', 'workloads', 'media', 'sites', 'reclaimable', 'runways', 'history'];

/** How full everything is, where it went, what can be had back, and how long it lasts. */
export function CapacityView() {
  const capacity = useQuery({ queryKey: ['capacity'], queryFn: api.capacity });
  const { selection, select } = usePlace();
  const [by, setGrouping] = useParam('by', 'workload');
  const grouping = groupings.find((one) => one === by) ?? 'workload';
  const data = capacity.data;
  const pools = data?.arrays.flatMap((array) => array.pools) ?? [];
  // Nothing picked: the fullest pool is the one to look at.
  const fullest = [...pools].sort((a, b) => b.used / b.size - a.used / a.size)[0];
  const pool = pools.find((one) => one.id === selection?.id) ?? fullest;
  const inPool = useQuery({
    queryKey: ['capacity', pool?.id],
    queryFn: () => api.poolVolumes(pool!.id),
    enabled: pool !== undefined,
  });
  const volumes = inPool.data?.volumes ?? [];
  const runway = data?.runways.find((one) => one.pool === pool?.id);
  return (
    <main className="flex min-h-0 flex-col bg-paper">
      <div className="flex flex-none items-center gap-4 border-b border-rule px-3 py-1 whitespace-nowrap">
        <h1 className="font-[640]">Capacity</h1>
        <span className="overflow-hidden text-ellipsis text-ink2">
          {data && `${data.arrays.length} arrays, ${pools.length} pools. Pick a pool to see where its bytes went.`}
        </span>
        <span className="flex-1" />
        <span className="flex items-center gap-2 overflow-hidden text-ink2">
          CSV:
          {tables.map((table) => (
            <a
              key={table}
              className="verb inline-flex items-center"
              href={`/api/v1/capacity/csv?table=${table}`}
              download
            >
              {table}
            </a>
          ))}
        </span>
      </div>
      <div className="scroller min-h-0 flex-1 px-3 pb-4">
        {capacity.error && (
          <p className="refusal mt-2">
            The capacity was asked for. {capacity.error.message}{' '}
            <button type="button" className="verb" onClick={() => void capacity.refetch()}>
              Ask again
            </button>
          </p>
        )}
        {data && pools.length === 0 && (
          <p className="py-3 text-ink2">
            No pool yet. Carve a RAID group and make a pool of it; its bytes are counted here.
          </p>
        )}
        {data && <ArrayBeams model={data} marked={pool?.id ?? null} onPick={(id) => select({ kind: 'pool', id })} />}
        {data && pool && runway && (
          <PoolDetail key={pool.id} pool={{ ...pool, volumes }} runway={runway} now={data.now} />
        )}
        {data && data.had.length > 0 && <HadBack rows={data.had} />}
        {data && (
          <section aria-label="Tables" className="pt-4">
            <h2 className="caps flex items-center gap-3 border-b border-ink pb-1">
              Where the bytes lie, by
              {groupings.map((one) => (
                <button
                  key={one}
                  type="button"
                  className={`verb ${grouping === one ? 'font-[700]!' : 'text-ink2'}`}
                  aria-pressed={grouping === one}
                  onClick={() => setGrouping(one)}
                >
                  {one === 'volume' && pool ? `volume of ${pool.name}` : one}
                </button>
              ))}
            </h2>
            <GroupTable model={data} grouping={grouping} pool={pool && { ...pool, volumes }} />
          </section>
        )}
      </div>
    </main>
  );
}
