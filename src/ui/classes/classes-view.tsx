'use client';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { counted } from '@/core/units/counted';
import { api } from '../api/client';
import { useParam, usePlace } from '../shell/place';
import { AllotmentTable } from './allotment-table';
import { ClassTable } from './class-table';
import { ConsumerPage } from './consumer-page';
import { PoolTable } from './pool-table';
import { RequestForm } from './request-form';
import { RequestTable } from './request-table';
import { askedFor, useRequest } from './use-request';

const NONE: never[] = [];

/** What pools can do, what is said of them, what a request asks for, and who answers it best. */
export function ClassesView() {
  const { open, sheet } = usePlace();
  const [picked, setPicked] = useParam('pool');
  const [consumer, setConsumer] = useParam('consumer');
  const classes = useQuery({ queryKey: ['classes'], queryFn: api.classes });
  const request = useRequest(classes.data?.requests ?? NONE, classes.data?.receivers ?? NONE);
  const places = useQuery({
    queryKey: ['classes', 'place', request.asked],
    queryFn: () => api.place(request.asked),
    // A request that is kept under a name is asked once it is known what it asks.
    enabled: classes.data !== undefined,
    placeholderData: keepPreviousData,
    retry: false,
  });
  const all = classes.data;
  const wrong = all?.contradictions[0];
  const fits = places.data?.pools.filter(({ score }) => score !== null).length ?? 0;
  return (
    <main className="flex min-h-0 min-w-0 flex-col overflow-hidden bg-paper">
      <div className="flex flex-none flex-wrap items-center gap-x-4 border-b border-rule px-3 py-1 whitespace-nowrap">
        <h1 className="font-[640]">Classes</h1>
        <span className="num min-w-0 flex-1 overflow-hidden text-ellipsis text-ink2">
          {all && (
            <>
              {counted(all.pools, 'pool')}, {counted(all.classes.length, 'class', 'classes')}.
              {wrong && (
                <>
                  {' '}
                  <b className="font-[640] text-red">
                    ✕ {wrong.array} {wrong.pool}: declared {wrong.key} {wrong.declared}, read {wrong.derived}; the
                    reading counts.
                  </b>
                </>
              )}
            </>
          )}
        </span>
        <button type="button" className="verb" onClick={() => open('fact.declare')}>
          Declare a fact
        </button>
        <button type="button" className="verb" onClick={() => open('fact-order.set')}>
          Order words
        </button>
        <button type="button" className="verb" onClick={() => open('class.create', { rules: request.asked.rules })}>
          Make a class
        </button>
        <button type="button" className="verb" onClick={() => open('request.create', askedFor(request))}>
          Keep a request
        </button>
        <button type="button" className="verb" onClick={() => open('allotment.create')}>
          Set capacity aside
        </button>
      </div>
      {classes.error && (
        <p className="refusal m-3">
          The classes were asked for. {classes.error.message}{' '}
          <button type="button" className="verb" onClick={() => void classes.refetch()}>
            Ask again
          </button>
        </p>
      )}
      {!all && !classes.error && <p className="p-3 text-ink2">Reading what pools can do…</p>}
      {all && consumer && (
        <div className="@container flex min-h-0 flex-1 flex-col">
          <ConsumerPage id={consumer} onClose={() => setConsumer('')} />
        </div>
      )}
      {all && !consumer && (
        <div className="@container min-h-0 flex-1">
          <div
            className={`grid h-full min-h-0 ${sheet ? '' : 'grid-cols-[minmax(0,1fr)_364px] @max-[860px]:auto-rows-max @max-[860px]:grid-cols-1 @max-[860px]:overflow-auto'}`}
          >
            <div className="scroller min-h-0">
              <PoolTable
                keys={all.keys}
                answer={places.data}
                picked={picked}
                onPick={setPicked}
                says={`${fits} of ${all.pools} fit`}
                request={request.asked}
              />
              <RequestTable requests={all.requests} />
              <AllotmentTable allotments={all.allotments} />
              <ClassTable classes={all.classes} pools={all.pools} />
            </div>
            {/* A sheet takes its place: one thing is filled in at a time. */}
            {!sheet && (
              <RequestForm
                request={request}
                requests={all.requests}
                receivers={all.receivers}
                keys={all.keys}
                classes={all.classes}
                answer={places.data}
                refusal={places.error?.message ?? null}
                picked={picked}
              />
            )}
          </div>
        </div>
      )}
    </main>
  );
}
