'use client';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import type { EffectAnswer, SpanSeconds, SubjectLoad } from '@/core/performance/answers';
import { api } from '../api/client';
import { usePlace } from '../shell/place';
import { WeekStrip } from './week-strip';
import { SimulatePanel } from './simulate-panel';
import { percentText, rateText, waitText, whenText } from './words';

/** A limit before it is set: what it would have done to this volume and its neighbours, and the one that keeps a neighbour in time. */
export function LimitPanel({
  subject,
  span,
  at,
  neighbour,
  onEffect,
}: {
  subject: SubjectLoad;
  span: SpanSeconds;
  at: number | null;
  neighbour: string | null;
  onEffect: (effect: EffectAnswer | null) => void;
}) {
  const { open } = usePlace();
  const [own] = subject.limits.filter(({ shared }) => !shared);
  const most = Math.max(0, ...subject.points.map((one) => Math.max(one.mostIops, one.asked)));
  const [text, setText] = useState(String(own?.iops ? Math.round(own.iops) : niceOf(most / 2)));
  const [burst, setBurst] = useState('0');
  const [target, setTarget] = useState('');
  const iops = Number(text);
  const valid = Number.isFinite(iops) && iops > 0;
  const saved = Math.max(0, Math.floor(Number(burst) || 0));
  const seconds = Math.min(span, 86_400);
  const until = at !== null && seconds <= 3600 ? Math.min(at + seconds * 500, subject.to) : null;
  // What is typed, and beside it the same the other way: with something saved up, or without.
  const labelled = (spare: number) => ({
    label: spare > 0 ? `${rateText(iops)}, spare ${rateText(spare)}` : `${rateText(iops)} hard`,
    iops,
    burst: spare,
  });
  const variants = valid ? [labelled(saved), labelled(saved > 0 ? 0 : Math.round(iops * 10))] : [];
  const effect = useQuery({
    queryKey: ['load', 'effect', subject.id, neighbour, seconds, until, variants],
    queryFn: () =>
      api.loadEffect({ volume: subject.id, neighbour, replaces: own?.id ?? null, seconds, until, variants }),
    enabled: valid,
    placeholderData: (before) => before,
    retry: false,
  });
  const propose = useMutation({
    mutationFn: (of: { y: string; targetS: number }) => api.loadProposal({ x: subject.id, ...of, seconds }),
    onSuccess: ({ proposal }) => {
      if (proposal.ok) setText(String(proposal.iops));
    },
  });
  const data = effect.data;
  useEffect(() => {
    onEffect(data ?? null);
    return () => onEffect(null);
  }, [data, onEffect]);
  const shown = data?.variants ?? [];
  const victim = data?.neighbour ?? null;
  const proposal = propose.data?.proposal;
  const tried = propose.data?.simulated;
  const simulatedText = tried
    ? ` Tried with ${rateText(tried.ios)} I/Os at ${tried.resource}: p95 there ${waitText(tried.p95S)}, ${waitText(tried.wasS)} without.`
    : '';
  const name = own ? own.name : `${subject.name}-limit`;
  const put = () => {
    const figures = { iops: text, ...(saved > 0 ? { burst: String(saved) } : {}) };
    const array = arrayNameOf(subject);
    if (own) open('limit.configure', { array, limit: own.name, ...figures });
    else open('limit.create', { array, name, volumes: [subject.name], ...figures });
  };
  return (
    <div className="num whitespace-normal!">
      <div className="grid grid-cols-[112px_minmax(0,1fr)] gap-x-2 border-b border-rule px-4 py-2">
        <label className="caps pt-1.5" htmlFor="limit-iops">
          Most IO/s
        </label>
        <input
          id="limit-iops"
          className="field text-right"
          inputMode="numeric"
          value={text}
          onChange={(event) => setText(event.target.value)}
          aria-invalid={!valid}
        />
        <span />
        <p className="pt-1 text-ink2">
          {valid
            ? `${own?.iops ? `Now ${rateText(own.iops)} by ${own.name}. ` : 'Now without a limit. '}It asked ${rateText(most)} at most.`
            : 'Write a number above 0.'}
        </p>
        <label className="caps pt-2.5" htmlFor="limit-burst">
          Saved up
        </label>
        <input
          id="limit-burst"
          className="field mt-1 text-right"
          inputMode="numeric"
          value={burst}
          onChange={(event) => setBurst(event.target.value)}
        />
        <span />
        <p className="pt-1 text-ink2">Operations it may spend at once after it was quiet.</p>
      </div>
      {victim && (
        <form
          className="grid grid-cols-[112px_minmax(0,1fr)_auto] items-center gap-x-2 border-b border-rule px-4 py-2"
          onSubmit={(event) => {
            event.preventDefault();
            const ms = Number(target);
            if (ms > 0) propose.mutate({ y: victim.id, targetS: ms / 1000 });
          }}
        >
          <label className="caps" htmlFor="limit-target">
            p95 of {victim.name}, ms
          </label>
          <input
            id="limit-target"
            className="field text-right"
            inputMode="decimal"
            placeholder="such as 30"
            value={target}
            onChange={(event) => setTarget(event.target.value)}
          />
          <button type="submit" className="btn" disabled={!(Number(target) > 0) || propose.isPending}>
            Find the limit
          </button>
          {(proposal || propose.error) && (
            <p className="col-span-3 pt-1" role="status">
              {propose.error
                ? propose.error.message
                : proposal!.ok
                  ? `${rateText(proposal!.iops)} IO/s keeps it at ${waitText(proposal!.p95S)} (${waitText(proposal!.nowS)} without) at ${whenText(propose.data!.at)}; ${percentText(proposal!.heldBack)} of what ${subject.name} asks then comes later or not at all.${simulatedText}`
                  : proposal!.message}
            </p>
          )}
        </form>
      )}
      {effect.error && <p className="refusal m-3">{effect.error.message}</p>}
      {data && (
        <div className="px-4">
          <table className="table w-full">
            <thead>
              <tr className="caps">
                <th>Had it held</th>
                {shown.map(({ label }, k) => (
                  <th
                    key={label}
                    className={`text-right! whitespace-normal! normal-case! ${k === 1 ? 'text-ink' : ''}`}
                  >
                    {label}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              <Row says={`Held, of ${data.slots} × 5 s`} cells={shown.map((one) => String(one.heldSlots))} />
              <Row says="Its work late by" cells={shown.map((one) => (one.lateS === 0 ? '–' : waitText(one.lateS)))} />
              {data.volumes.map(({ id, name: volume }) => (
                <Row key={id} says={`Worst wait, ${volume}`} cells={shown.map((one) => waitText(one.worst[id] ?? 0))} />
              ))}
              {data.volumes.slice(0, 2).map(({ id, name: volume }) => (
                <Row key={id} says={`p95, ${volume}`} cells={shown.map((one) => waitText(one.p95[id] ?? 0))} />
              ))}
              <Row
                says={`Peak, ${shown[0]?.busiest?.name ?? ''}`}
                cells={shown.map((one) => percentText(one.busiest?.rho ?? 0))}
              />
            </tbody>
          </table>
        </div>
      )}
      {data?.week && <WeekStrip week={data.week} />}
      {valid && victim && (
        <SimulatePanel
          key={`${victim.id} ${iops}`}
          of={subject.id}
          beside={victim.id}
          iops={iops}
          at={propose.data?.at ?? at ?? subject.spikes[0]?.at ?? subject.to - 5000}
        />
      )}
      <div className="flex justify-end gap-3 border-t border-ink px-4 py-2">
        {own && (
          <button
            type="button"
            className="verb"
            onClick={() =>
              open('limit.lift', { array: arrayNameOf(subject), limit: own.name, volumes: [subject.name] })
            }
          >
            Take {own.name} off
          </button>
        )}
        <span className="flex-1" />
        <button type="button" className="btn solid" disabled={!valid} onClick={put}>
          {own ? 'Change the limit' : 'Set the limit'}
        </button>
      </div>
    </div>
  );
}

const arrayNameOf = (subject: SubjectLoad): string => subject.limits[0]?.array ?? subject.arrayName ?? '';

/** A round figure near another. */
function niceOf(value: number): number {
  if (value <= 10) return 10;
  const unit = 10 ** Math.floor(Math.log10(value));
  return Math.round(value / unit) * unit;
}

function Row({ says, cells }: { says: string; cells: string[] }) {
  return (
    <tr>
      <td className="whitespace-nowrap text-ink2">{says}</td>
      {cells.map((cell, k) => (
        // The columns stand for the variants, in their order.
        <td key={k} className={`text-right ${k === 1 ? 'bg-wash font-[640]' : ''}`}>
          {cell}
        </td>
      ))}
    </tr>
  );
}
