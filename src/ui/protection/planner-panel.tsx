'use client';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useId, useMemo } from 'react';
import type { PlannedPoint, ReplicationPlan } from '@/core/replicate/plan-view';
import { formatBytes } from '@/core/units/bytes';
import { formatDuration, MINUTE } from '@/core/units/duration';
import { formatRate } from '@/core/units/rate';
import { api } from '../api/client';
import { Pick } from '../sheet/controls';
import { useParam, usePlace } from '../shell/place';
import { stateColumn } from '../table/cells';
import type { AnyColumn } from '../table/columns';
import { DataTable } from '../table/data-table';
import { PlannerDay } from './planner-day';

const rate = (bytes: number) => formatRate(Math.round(bytes));
const USUAL: number = 15 * MINUTE;

/** Before a replication exists: which recovery points a line holds, when it breaks, what is kept free, and how the first copy goes. */
export function PlannerPanel({ onClose }: { onClose: () => void }) {
  const [of, setOf] = useParam('planOf');
  const [link, setLink] = useParam('planOver');
  const [point, setPoint] = useParam('planPoint');
  const { open } = usePlace();
  const base = useId();
  const plan = useQuery({
    queryKey: ['protection', 'plan', of, link],
    queryFn: () => api.replicationPlan(of, link),
    placeholderData: keepPreviousData,
  });
  const data = plan.data;
  if (plan.error) return <p className="refusal m-3">A plan was asked for. {plan.error.message}</p>;
  if (!data) return <p className="p-3 text-ink2">Weighing recovery points…</p>;
  const wanted = Number(point) || data.holds || USUAL;
  const chosen = data.points.find(({ rpo }) => rpo === wanted) ?? data.points[3]!;
  const subject = data.subjects.find(({ id }) => id === data.of)!;
  const line = data.links.find(({ id }) => id === data.link)!;
  return (
    <section aria-label="Planner" className="scroller min-h-0 border-t-[1.5px] border-ink bg-raised px-3 py-2">
      <div className="flex flex-wrap items-end gap-4">
        <label className="grid gap-0.5" htmlFor={`${base}-of`}>
          <span className="caps">Were this copied</span>
          <span className="w-[210px]">
            <Pick
              id={`${base}-of`}
              label="Were this copied"
              value={data.of}
              choices={data.subjects.map(({ id, name, site, copied }) => ({
                value: id,
                label: `${name}, ${site}${copied ? ', is copied' : ''}`,
              }))}
              onPick={setOf}
              invalid={false}
              describedBy=""
            />
          </span>
        </label>
        <label className="grid gap-0.5" htmlFor={`${base}-link`}>
          <span className="caps">over</span>
          <span className="w-[260px]">
            <Pick
              id={`${base}-link`}
              label="Over link"
              value={data.link}
              choices={data.links.map(({ id, name, sites }) => ({
                value: id,
                label: `${name}, ${sites.join(' and ')}`,
              }))}
              onPick={setLink}
              invalid={false}
              describedBy=""
            />
          </span>
        </label>
        <p className="flex-1 pb-1">
          {data.holds === null
            ? 'No recovery point that is weighed here holds all week.'
            : `It holds ${formatDuration(data.holds)} and more all week.`}{' '}
          <span className="text-ink2">
            It would have {rate(data.share)} of {rate(data.through)} that {line.name} brings through
            {data.heldBy === null ? '' : `, since ${data.heldBy} spares no more for copies at its busiest`}.
          </span>
        </p>
        <button
          type="button"
          className="verb"
          onClick={() =>
            open('replication.create', {
              workload: subject.name,
              link: line.name,
              rpo: formatDuration(chosen.rpo),
              interval: formatDuration(chosen.interval),
            })
          }
        >
          Copy it so
        </button>
        <button type="button" className="verb" onClick={onClose}>
          Back to the replications
        </button>
      </div>
      <div className="grid grid-cols-[minmax(520px,1.2fr)_minmax(420px,1fr)] gap-6 pt-2 max-[1100px]:grid-cols-1">
        <div>
          <Points plan={data} chosen={chosen} onChoose={(rpo) => setPoint(String(rpo))} />
          <PlannerDay of={data.of} link={data.link} rpo={chosen.rpo} />
        </div>
        <div>
          <Week plan={data} chosen={chosen} />
          <FirstCopies plan={data} />
        </div>
      </div>
    </section>
  );
}

function Points({
  plan,
  chosen,
  onChoose,
}: {
  plan: ReplicationPlan;
  chosen: PlannedPoint;
  onChoose: (rpo: number) => void;
}) {
  const columns = useMemo<AnyColumn<PlannedPoint>[]>(
    () => [
      stateColumn(({ breaks }) => {
        if (breaks === 0) return 'stands';
        return breaks === 168 ? 'broken' : 'leans';
      }),
      {
        head: 'Loses at most',
        width: 'whitespace-nowrap',
        value: ({ rpo }) => rpo,
        cell: ({ rpo }) => (
          <button type="button" className="verb name" aria-pressed={rpo === chosen.rpo} onClick={() => onChoose(rpo)}>
            {formatDuration(rpo)}
          </button>
        ),
      },
      {
        head: 'Cut every',
        width: 'whitespace-nowrap',
        value: ({ interval }) => interval,
        cell: ({ interval }) => formatDuration(interval),
      },
      {
        head: 'Needs at most',
        kind: 'number',
        unit: 'B/s',
        value: ({ need }) => need,
        cell: ({ need }) => (
          <span className={need === null || need > plan.share ? 'text-red' : ''}>
            {need === null ? 'no line would do' : rate(need)}
          </span>
        ),
      },
      { head: 'On', kind: 'muted', width: 'whitespace-nowrap', value: ({ need, hour }) => (need === 0 ? '–' : hour) },
      {
        head: 'Breaks in',
        kind: 'number',
        unit: 'h',
        value: ({ breaks }) => breaks,
        cell: ({ breaks }) => (
          <span className={breaks > 0 ? 'text-red' : ''}>{breaks === 0 ? 'no hour' : `${breaks} of 168 h`}</span>
        ),
      },
      {
        head: 'Kept free here, there',
        kind: 'number',
        unit: 'bytes',
        value: ({ sourceReserve }) => Math.round(sourceReserve),
        cell: ({ sourceReserve, targetReserve }) =>
          `${formatBytes(Math.round(sourceReserve), 'used')}, ${formatBytes(Math.round(targetReserve), 'used')}`,
      },
    ],
    [plan.share, chosen.rpo, onChoose],
  );
  return (
    <div>
      <h2 className="caps pb-1">Recovery points</h2>
      <DataTable
        label="Recovery points"
        rows={plan.points}
        keyOf={({ rpo }) => String(rpo)}
        columns={columns}
        marked={({ rpo }) => rpo === chosen.rpo}
      />
    </div>
  );
}

const days = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];

/** Each hour of the week: how much of the line this one and the others need; crossed where it does not do. */
function Week({ plan, chosen }: { plan: ReplicationPlan; chosen: PlannedPoint }) {
  const needs = chosen.needs;
  const over = (hour: number) =>
    !needs || needs[hour]! > plan.shares[hour]! || needs[hour]! + plan.others[hour]! > plan.through;
  const all = Array.from({ length: 168 }, (_, hour) => hour).filter(over).length;
  const most = Math.max(1, ...Array.from({ length: 168 }, (_, hour) => (needs?.[hour] ?? 0) + plan.others[hour]!));
  return (
    <div>
      <h2 className="caps pb-1">The week at {formatDuration(chosen.rpo)}, with all that goes over the line</h2>
      <svg
        viewBox="0 0 420 122"
        className="block w-full max-w-[520px]"
        role="img"
        aria-label={`Of the 168 hours of a week the line does not do in ${all}`}
      >
        {days.map((day, d) => (
          <g key={day} transform={`translate(0 ${d * 15})`}>
            <text x="0" y="11" className="fill-ink2 text-[11px]">
              {day}
            </text>
            {Array.from({ length: 24 }, (_, h) => {
              const hour = d * 24 + h;
              const share = ((needs?.[hour] ?? 0) + plan.others[hour]!) / most;
              return (
                <g key={h} transform={`translate(${32 + h * 16} 0)`}>
                  <rect width="15" height="13" className="fill-none stroke-rule" />
                  <rect
                    y={13 - 13 * share}
                    width="15"
                    height={13 * share}
                    className={over(hour) ? 'fill-red' : 'fill-ink'}
                  />
                  {over(hour) && <path d="M0 13 15 0M0 0l15 13" className="stroke-red" />}
                </g>
              );
            })}
          </g>
        ))}
        {[0, 6, 12, 18].map((h) => (
          <text key={h} x={32 + h * 16} y="118" className="fill-ink2 text-[11px]">
            {String(h).padStart(2, '0')}:00
          </text>
        ))}
      </svg>
      <p className="narrow text-ink2">
        A full box is {rate(most)}, the most of any hour in UTC;{' '}
        {all === 0 ? 'the line does in every hour.' : `crossed are the ${all} hours in which the line does not do.`}
      </p>
    </div>
  );
}

const ways = {
  network: 'over the line',
  seeded: 'from a copy that is there',
  shipped: 'on media',
} as const;

function FirstCopies({ plan }: { plan: ReplicationPlan }) {
  const best = Math.min(...plan.first.map(({ took }) => took ?? Infinity));
  return (
    <div className="pt-3">
      <h2 className="caps pb-1">First copy of {formatBytes(plan.bytes, 'used')}</h2>
      <dl className="narrow max-w-[520px]">
        {plan.first.map(({ method, took, wire }) => (
          <div key={method} className="grid grid-cols-[180px_1fr_130px] border-b border-rule-faint py-0.5">
            <dt className={took === best ? 'font-[640]' : ''}>{ways[method]}</dt>
            <dd>{took === null ? 'never catches up' : formatDuration(Math.round(took / 1000) * 1000)}</dd>
            <dd className="num text-right">{formatBytes(Math.round(wire), 'used')} sent</dd>
          </div>
        ))}
      </dl>
      <p className="narrow pt-0.5 text-ink2">
        A copy that is there is taken to differ in 5 %, both sides to be read at 400 MB/s, media to move at 250 MB/s and
        to be 4 h on the road.
      </p>
    </div>
  );
}
