'use client';
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { Lane } from '@/core/protect/lanes';
import { counted } from '@/core/units/counted';
import { formatBytes } from '@/core/units/bytes';
import { api } from '../api/client';
import { useParam, usePlace } from '../shell/place';
import { Elsewhere } from './elsewhere';
import { LaneList, Legend } from './lane-list';
import { PlanTable } from './plan-table';
import { PromiseTable } from './promise-table';
import { SubjectPanel } from './subject-panel';
import { VerbChoice } from '../look/verb-choice';

const parts = ['workloads', 'elsewhere', 'plans', 'promises'] as const;
const partWords: Record<(typeof parts)[number], string> = {
  workloads: 'Workloads',
  elsewhere: 'Other sites',
  plans: 'Plans',
  promises: 'Promised and true',
};

/** To which moment one can go back, what falls short of what was promised, and what to do about it. */
export function ProtectionView() {
  const protection = useQuery({ queryKey: ['protection'], queryFn: api.protection });
  const { open } = usePlace();
  const [asked, setPart] = useParam('part', 'workloads');
  const [of, setOf] = useParam('of');
  const part = parts.find((one) => one === asked) ?? 'workloads';
  const data = protection.data;
  const lanes = data?.lanes ?? [];
  const elsewhere = useQuery({ queryKey: ['protection', 'elsewhere'], queryFn: api.elsewhere });
  const there = useMemo(
    () => new Map((elsewhere.data?.replications ?? []).map((row) => [row.of, row])),
    [elsewhere.data],
  );
  // Nothing chosen: the first that a plan protects is the one to look at.
  const chosen = of || (lanes.find((lane) => lane.plan !== null && lane.points > 0) ?? lanes[0])?.id || null;
  return (
    <main className="flex min-h-0 min-w-0 flex-col overflow-hidden bg-paper">
      <div className="flex flex-none items-center gap-4 border-b border-rule px-3 py-1 whitespace-nowrap">
        <h1 className="font-[640]">Protection</h1>
        <VerbChoice
          label="Parts"
          choices={parts.map((one) => [one, partWords[one]] as const)}
          value={part}
          onChange={setPart}
        />
        <span className="flex-1 overflow-hidden text-ellipsis text-ink2">{data && <Summary lanes={lanes} />}</span>
        <a className="verb inline-flex items-center" href="/api/v1/protection/calendar" download>
          Calendar
        </a>
        <button type="button" className="verb" onClick={() => open('calendar')}>
          Import
        </button>
        <button type="button" className="verb" onClick={() => open('plan.attach')}>
          Protect with a plan
        </button>
        <button type="button" className="verb" onClick={() => open('plan.create')}>
          Make a plan
        </button>
      </div>
      {protection.error && (
        <p className="refusal m-3">
          What is protected was asked for. {protection.error.message}{' '}
          <button type="button" className="verb" onClick={() => void protection.refetch()}>
            Ask again
          </button>
        </p>
      )}
      {data && part === 'workloads' && lanes.length === 0 && (
        <p className="p-3 text-ink2">
          No workload has a volume yet. Name a workload, let volumes belong to it, and protect it with a plan.
        </p>
      )}
      {data && part === 'workloads' && lanes.length > 0 && (
        <div className="grid min-h-0 flex-1 grid-rows-[minmax(120px,auto)_auto_minmax(240px,1fr)]">
          <div className="flex max-h-[46vh] min-h-0 flex-col">
            <LaneList
              lanes={lanes}
              now={data.now}
              chosen={chosen}
              elsewhere={there}
              onChoose={(lane: Lane) => setOf(lane.id)}
            />
          </div>
          <Legend />
          {chosen && <SubjectPanel key={chosen} id={chosen} />}
        </div>
      )}
      {part === 'elsewhere' && <Elsewhere />}
      {data && part === 'plans' && <PlanTable plans={data.plans} now={data.now} />}
      {data && part === 'promises' && <PromiseTable lanes={lanes} now={data.now} />}
    </main>
  );
}

function Summary({ lanes }: { lanes: readonly Lane[] }) {
  const of = (...states: Lane['state'][]) => lanes.filter((lane) => states.includes(lane.state)).length;
  const held = lanes.reduce((sum, lane) => sum + lane.held, 0);
  return (
    <>
      {of('good')} as promised, <b className="font-[640] text-ink">{of('short', 'broken')}</b> short of it,{' '}
      <b className="font-[640] text-ink">{of('none')}</b> without a plan.{' '}
      {counted(
        lanes.reduce((sum, lane) => sum + lane.points, 0),
        'copy',
        'copies',
      )}{' '}
      hold {formatBytes(held, 'used')}.
    </>
  );
}
