'use client';
import { useQuery } from '@tanstack/react-query';
import { spans, spanWords } from '@/core/performance/answers';
import { formatRate } from '@/core/units/rate';
import { counted } from '@/core/units/counted';
import { api } from '../api/client';
import { useParam, usePlace } from '../shell/place';
import { FleetPage } from './fleet-page';
import { HeatPage } from './heat-page';
import { LimitTable } from './limit-table';
import { RoomTable } from './room-table';
import { SubjectPage } from './subject-page';
import { rateText } from './words';
import { VerbChoice } from '../look/verb-choice';

const parts = ['fleet', 'volumes', 'resources', 'heat', 'limits'] as const;
const partWords: Record<(typeof parts)[number], string> = {
  fleet: 'At a glance',
  volumes: 'Closely',
  resources: 'What is left',
  heat: 'Heat',
  limits: 'Limits',
};

/** Who asks for what, who waits and why, and which limit would cure it. */
export function LoadView() {
  const { open } = usePlace();
  const [asked, setPart] = useParam('part', 'fleet');
  const [spanText, setSpan] = useParam('span', '86400');
  const [of, setOf] = useParam('of');
  const part = parts.find((one) => one === asked) ?? 'fleet';
  const span = spans.find((one) => String(one) === spanText) ?? 86_400;
  const fleet = useQuery({
    queryKey: ['load', 'fleet', span],
    queryFn: () => api.loadFleet(span),
    refetchInterval: 15_000,
  });
  const data = fleet.data;
  const look = (id: string, at?: number | null) => {
    setOf(id);
    setPart('volumes');
    if (at != null) setAt(String(at));
  };
  const [, setAt] = useParam('at');
  return (
    <main className="flex min-h-0 min-w-0 flex-col overflow-hidden bg-paper">
      <div className="flex flex-none flex-wrap items-center gap-x-4 border-b border-rule px-3 py-1 whitespace-nowrap">
        <h1 className="font-[640]">Load</h1>
        <VerbChoice
          label="Parts"
          choices={parts.map((one) => [one, partWords[one]] as const)}
          value={part}
          onChange={setPart}
        />
        <span className="num min-w-0 flex-1 overflow-hidden text-ellipsis text-ink2">
          {data && (
            <>
              {counted(data.sums.volumes, 'volume')}:{' '}
              <b className="font-[640] text-ink">{rateText(data.sums.iops)} IO/s</b>,{' '}
              {formatRate(Math.round(data.sums.bytesPerS))}
              {data.sums.unserved >= 0.5 && <>, {rateText(data.sums.unserved)} IO/s not served</>}.
            </>
          )}
        </span>
        {(part === 'fleet' || part === 'volumes') && (
          <VerbChoice
            label="How far back"
            choices={spans.map((one) => [one, spanWords[one]] as const)}
            value={span}
            onChange={(one) => setSpan(String(one))}
          />
        )}
        <button type="button" className="verb" onClick={() => open('volume.activity')}>
          Say what hosts do
        </button>
        <button type="button" className="verb" onClick={() => open('io-trace')}>
          Read a trace
        </button>
        <button type="button" className="verb" onClick={() => open('limit.create')}>
          Set a limit
        </button>
      </div>
      {fleet.error && (
        <p className="refusal m-3">
          The load was asked for. {fleet.error.message}{' '}
          <button type="button" className="verb" onClick={() => void fleet.refetch()}>
            Ask again
          </button>
        </p>
      )}
      {!data && !fleet.error && <p className="p-3 text-ink2">Reading what was asked and served…</p>}
      {data && data.subjects.volume.length === 0 && (part === 'fleet' || part === 'volumes') && (
        <p className="p-3 text-ink2">
          No host asks a volume for anything that is known. Say what hosts do to volumes, and let time pass.
        </p>
      )}
      {data && data.subjects.volume.length > 0 && part === 'fleet' && <FleetPage fleet={data} onLook={look} />}
      {data && data.subjects.volume.length > 0 && part === 'volumes' && (
        <SubjectPage
          fleet={data}
          of={of || (data.attention[0]?.of ?? data.subjects.volume[0]!.id)}
          span={span}
          onLook={look}
        />
      )}
      {part === 'resources' && <RoomTable />}
      {part === 'heat' && <HeatPage onLook={look} />}
      {part === 'limits' && <LimitTable />}
    </main>
  );
}
