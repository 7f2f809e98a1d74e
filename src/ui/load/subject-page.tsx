'use client';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { EffectAnswer, FleetAnswer, LoadPoint, SpanSeconds, SubjectLoad } from '@/core/performance/answers';
import { api } from '../api/client';
import { useParam } from '../shell/place';
import { LimitPanel } from './limit-panel';
import { StepChart, type Level } from './step-chart';
import { SubjectList } from './subject-list';
import { WhyPanel } from './why-panel';
import { rateText, secondText, waitText, whenText } from './words';
import { VerbChoice } from '../look/verb-choice';

const steps = (points: readonly LoadPoint[], of: (point: LoadPoint) => number | null) =>
  points.flatMap((point) => {
    const value = of(point);
    return value === null ? [] : [{ at: point.at, seconds: point.seconds, value }];
  });

/** One volume, workload, array or host: what it asked and got, how long it waited, why, and what a limit would change. */
export function SubjectPage({
  fleet,
  of,
  span,
  onLook,
}: {
  fleet: FleetAnswer;
  of: string;
  span: SpanSeconds;
  onLook: (id: string, at?: number | null) => void;
}) {
  const [atText, setAt] = useParam('at');
  const [side, setSide] = useParam('side', 'why');
  const subject = useQuery({ queryKey: ['load', 'subject', of, span], queryFn: () => api.loadOf(of, span) });
  const [neighbour, setNeighbour] = useParam('beside');
  const [effect, setEffect] = useState<EffectAnswer | null>(null);
  const at = atText === '' ? null : Number(atText);
  const data = subject.data;
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[188px_minmax(0,1fr)_minmax(340px,400px)]">
      <SubjectList fleet={fleet} of={of} onLook={onLook} />
      <section aria-label="Charts" className="scroller min-h-0 min-w-0">
        {subject.error && <p className="refusal m-3">{subject.error.message}</p>}
        {data && (
          <Charts
            subject={data}
            at={at}
            effect={effect?.volumes[0]?.id === of ? effect : null}
            onChoose={(moment) => setAt(String(moment))}
          />
        )}
        {data && <Beside subject={data} onLook={onLook} onChoose={(moment) => setAt(String(moment))} />}
      </section>
      <section aria-label="Beside" className="flex min-h-0 min-w-0 flex-col border-l-[1.5px] border-ink bg-raised">
        <div className="flex flex-none items-center gap-3 border-b border-ink px-4 py-2">
          <h2 className="sheet-title min-w-0 overflow-hidden text-ellipsis whitespace-nowrap">{data?.name ?? ''}</h2>
          <span className="flex-1" />
          {data && (
            <a className="verb inline-flex items-center" href={`/api/v1/load/csv?of=${data.id}&span=${span}`} download>
              CSV
            </a>
          )}
          {data?.kind === 'volume' && (
            <VerbChoice
              label="What is asked"
              choices={
                [
                  ['why', 'Why it waits'],
                  ['limit', 'Limit it'],
                ] as const
              }
              value={side}
              onChange={setSide}
            />
          )}
        </div>
        <div className="scroller min-h-0 flex-1">
          {data?.kind === 'volume' && side === 'why' && (
            <WhyPanel
              key={`${of} ${span} ${at}`}
              of={of}
              span={span}
              at={at}
              onLook={onLook}
              onLimit={(id, victim) => {
                onLook(id);
                setSide('limit');
                setNeighbour(victim);
              }}
            />
          )}
          {data?.kind === 'volume' && side === 'limit' && (
            <LimitPanel
              key={of}
              subject={data}
              span={span}
              at={at}
              neighbour={neighbour || null}
              onEffect={setEffect}
            />
          )}
          {data && data.kind !== 'volume' && <Members subject={data} onLook={onLook} />}
        </div>
      </section>
    </div>
  );
}

function Charts({
  subject,
  at,
  effect,
  onChoose,
}: {
  subject: SubjectLoad;
  at: number | null;
  effect: EffectAnswer | null;
  onChoose: (at: number) => void;
}) {
  const { points, from, to, hours, name } = subject;
  const levels: Level[] = subject.limits.flatMap(({ iops, name: limit, shared }) =>
    iops === null ? [] : [{ value: iops, says: `${limit}, ${rateText(iops)} IO/s${shared ? ' together' : ''}` }],
  );
  const draft = effect?.variants[1];
  const worst = [...points].sort((a, b) => b.mostIops - a.mostIops)[0];
  const mean =
    points.reduce((sum, one) => sum + one.iops * one.seconds, 0) /
    Math.max(
      1,
      points.reduce((sum, one) => sum + one.seconds, 0),
    );
  const neighbour = effect?.neighbour;
  const closely = (points[0]?.seconds ?? 5) <= 5;
  return (
    <>
      <ChartHead
        title={`IO/s of ${name}`}
        says={`${points[0]?.seconds ?? 5} s a step; mean ${rateText(mean)}`}
        keys={[
          ['solid', closely ? 'served' : 'served, greatest 5 s'],
          ['hatch', 'not served, or later'],
          ['thin', 'mean, 1 h'],
        ]}
      />
      <StepChart
        label={`I/O a second of ${name}`}
        from={from}
        to={to}
        marked
        lines={[
          { says: 'most', steps: steps(points, (one) => one.mostIops), look: 'ink' },
          {
            says: 'hour',
            steps: hours.map((one) => ({ at: Math.max(from, one.at), seconds: 3600, value: one.iops })),
            look: 'mean',
          },
        ]}
        missed={points.map((one) => ({
          at: one.at,
          seconds: one.seconds,
          low: one.iops,
          high: Math.max(one.iops, one.asked),
        }))}
        levels={levels}
        marks={
          worst && worst.mostIops > 3 * mean
            ? [{ at: worst.at, value: worst.mostIops, says: `${secondText(worst.at)}, ${rateText(worst.mostIops)}` }]
            : []
        }
        format={rateText}
        chosen={at}
        onChoose={onChoose}
      />
      <ChartHead
        title={`Wait of ${name}`}
        says="p50 to p99 shaded, p95 as a line"
        keys={[
          ['solid', 'p95'],
          ['thin', 'mean of the worst 5 s'],
        ]}
      />
      <StepChart
        label={`Latency of ${name}`}
        from={from}
        to={to}
        height={186}
        lines={[
          { says: 'p95', steps: steps(points, (one) => one.p95S), look: 'ink' },
          {
            says: 'worst',
            steps: steps(points, (one) => (one.latencyS === null ? null : one.mostLatencyS)),
            look: 'thin',
          },
        ]}
        band={points.flatMap((one) =>
          one.p50S === null || one.p99S === null
            ? []
            : [{ at: one.at, seconds: one.seconds, low: one.p50S, high: one.p99S }],
        )}
        marks={subject.spikes.slice(0, 1).map((one) => ({
          at: one.at,
          value: one.latencyS,
          says: `${secondText(one.at)}, ${waitText(one.latencyS)}`,
        }))}
        format={waitText}
        chosen={at}
        onChoose={onChoose}
      />
      {effect && draft && neighbour && (
        <>
          <ChartHead
            title={`Wait of ${neighbour.name}`}
            says="its neighbour, worst 5 s"
            keys={[
              ['thin', 'as it was'],
              ['double', draft.label],
            ]}
          />
          <StepChart
            label={`Latency of ${neighbour.name}, as it was and with ${draft.label}`}
            from={effect.from}
            to={effect.to}
            height={120}
            lines={[
              {
                says: 'with',
                steps: steps(draft.neighbourPoints, (one) => (one.latencyS === null ? null : one.mostLatencyS)),
                look: 'double',
              },
              {
                says: 'was',
                steps: steps(effect.variants[0]!.neighbourPoints, (one) =>
                  one.latencyS === null ? null : one.mostLatencyS,
                ),
                look: 'thin',
              },
            ]}
            format={waitText}
          />
        </>
      )}
    </>
  );
}

const looks: Record<string, React.ReactNode> = {
  solid: <path d="M0 5H22" stroke="var(--ink)" strokeWidth="1.5" />,
  thin: <path d="M0 5H22" stroke="var(--ink3)" strokeDasharray="2 2" />,
  double: (
    <>
      <path d="M0 5H22" stroke="var(--ink)" strokeWidth="3.4" />
      <path d="M0 5H22" stroke="var(--paper)" strokeWidth="1.6" />
    </>
  ),
  hatch: <path d="M2 9 6 1M8 9 12 1M14 9 18 1" stroke="var(--ink)" />,
};

function ChartHead({ title, says, keys }: { title: string; says: string; keys: [string, string][] }) {
  return (
    <div className="flex items-baseline gap-3 px-3 pt-2 whitespace-nowrap">
      <h3 className="font-[640] [font-stretch:90%]">{title}</h3>
      <span className="num narrow min-w-0 overflow-hidden text-ellipsis text-ink2">{says}</span>
      <span className="flex-1" />
      {keys.map(([look, words]) => (
        <span key={words} className="narrow inline-flex items-center gap-1.5 text-ink2">
          <svg width="22" height="10" aria-hidden>
            {looks[look]}
          </svg>
          {words}
        </span>
      ))}
    </div>
  );
}

/** The moments at which it waited longest with what happened then, and hours unlike its own week. */
function Beside({
  subject,
  onLook,
  onChoose,
}: {
  subject: SubjectLoad;
  onLook: (id: string) => void;
  onChoose: (at: number) => void;
}) {
  return (
    <div className="border-t border-rule px-3 py-2">
      <h3 className="caps pb-1">Spikes, and what else happened then</h3>
      {subject.spikes.length === 0 && <p className="text-ink2">No five seconds stood out in this span.</p>}
      <ul>
        {subject.spikes.map((spike) => (
          <li key={spike.at} className="num border-t border-rule-faint py-1 first:border-t-0">
            <button type="button" className="verb" onClick={() => onChoose(spike.at)}>
              {whenText(spike.at)}
            </button>{' '}
            <b className="font-[640]">{waitText(spike.latencyS)}</b> at {rateText(spike.iops)} IO/s.{' '}
            <span className="text-ink2">
              {spike.beside.length === 0
                ? 'Nothing else is on record within the minute.'
                : spike.beside.map(({ says }) => says).join('; ')}
            </span>
          </li>
        ))}
      </ul>
      {subject.unusual.length > 0 && (
        <>
          <h3 className="caps pt-2 pb-1">Unlike its own week</h3>
          <ul className="num">
            {subject.unusual.map(({ at, says }) => (
              <li key={at}>
                {whenText(at).slice(0, -3)}: {says}
              </li>
            ))}
          </ul>
        </>
      )}
      {subject.kind !== 'volume' && subject.volumes.length > 0 && (
        <p className="pt-2 text-ink2">
          Its volumes:{' '}
          {subject.volumes.map(({ id, name }, k) => (
            <span key={id}>
              {k > 0 && ', '}
              <button type="button" className="verb" onClick={() => onLook(id)}>
                {name}
              </button>
            </span>
          ))}
        </p>
      )}
    </div>
  );
}

function Members({ subject, onLook }: { subject: SubjectLoad; onLook: (id: string) => void }) {
  return (
    <div className="px-4 py-2">
      <p className="caps pb-1">Volume by volume</p>
      <table className="table w-full">
        <thead>
          <tr className="caps">
            <th>Volume</th>
            <th className="text-right!">IO/s</th>
            <th className="text-right!">p95</th>
            <th className="text-right!">Worst</th>
          </tr>
        </thead>
        <tbody>
          {subject.volumes.map((one) => (
            <tr key={one.id}>
              <td>
                <button type="button" className="verb" onClick={() => onLook(one.id)}>
                  {one.name}
                </button>
              </td>
              <td className="num text-right">{rateText(one.iops)}</td>
              <td className="num text-right">{waitText(one.p95S)}</td>
              <td className="num text-right">{waitText(one.mostLatencyS)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
