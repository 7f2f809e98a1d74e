'use client';
import { useQuery } from '@tanstack/react-query';
import type { SpanSeconds } from '@/core/performance/answers';
import { api } from '../api/client';
import { percentText, rateText, waitText, whenText } from './words';

/** Why a volume waited: what bound it, how busy its way was, and what each neighbour added. */
export function WhyPanel({
  of,
  span,
  at,
  onLook,
  onLimit,
}: {
  of: string;
  span: SpanSeconds;
  at: number | null;
  onLook: (id: string) => void;
  onLimit: (neighbour: string, victim: string) => void;
}) {
  const why = useQuery({
    queryKey: ['load', 'why', of, span, at],
    queryFn: () => api.loadWhy(of, span, at),
    retry: false,
  });
  const data = why.data;
  if (why.error) return <p className="refusal m-3">{why.error.message}</p>;
  if (!data) return <p className="p-4 text-ink2">Taking that moment apart…</p>;
  const unserved = data.asked > 0 ? 1 - Math.min(1, data.served / data.asked) : 0;
  const [worst] = data.neighbours;
  return (
    <div className="num">
      <p className="border-b border-rule px-4 py-2 whitespace-normal">
        {at === null ? 'At its worst, ' : 'At '}
        <b className="font-[640]">{whenText(data.at)}</b>: {waitText(data.latencyS)} on the mean, p95{' '}
        <b className="font-[640]">{waitText(data.p95S)}</b>.
        {unserved > 0.001 && (
          <>
            {' '}
            It asked {rateText(data.asked)} IO/s and got {rateText(data.served)}.
          </>
        )}
        {data.boundBy && (
          <>
            {' '}
            <b className="font-[640] text-red">✕ {data.boundBy} was full.</b>
          </>
        )}
        {data.limitedBy && (
          <>
            {' '}
            <b className="font-[640]">Limit {data.limitedBy} held it back.</b>
          </>
        )}
      </p>
      <h3 className="caps px-4 pt-2">Who adds to its wait</h3>
      {data.neighbours.length === 0 && <p className="px-4 py-1 text-ink2">No neighbour adds anything that counts.</p>}
      {data.neighbours.length > 0 && (
        <div className="px-4">
          <table className="table w-full">
            <thead>
              <tr className="caps">
                <th>Neighbour</th>
                <th className="text-right!">IO/s</th>
                <th className="text-right!">Adds</th>
                <th className="text-right!">Share</th>
                <th className="text-right!" title="Correlation of the five-second steps within a quarter of an hour">
                  In time
                </th>
              </tr>
            </thead>
            <tbody>
              {data.neighbours.slice(0, 6).map(({ id, name, iops, addedS, share }) => (
                <tr key={id}>
                  <td>
                    <button type="button" className="verb" onClick={() => onLook(id)}>
                      {name}
                    </button>
                  </td>
                  <td className="text-right">{rateText(iops)}</td>
                  <td className="text-right">{waitText(addedS)}</td>
                  <td className={`text-right ${share > 0.5 ? 'font-[640]' : ''}`}>{percentText(share)}</td>
                  <td className="text-right text-ink2">
                    {Math.abs(data.overlap[id] ?? 0) < 0.05 ? '–' : (data.overlap[id] ?? 0).toFixed(2)}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {worst && worst.share > 0.3 && (data.boundBy || worst.addedS > 0.2 * data.latencyS) && (
        <p className="border-b border-rule px-4 py-1.5">
          <button type="button" className="verb" onClick={() => onLimit(worst.id, of)}>
            Find a limit for {worst.name}
          </button>
        </p>
      )}
      <h3 className="caps px-4 pt-2">The way of its I/O</h3>
      <div className="px-4">
        <table className="table w-full">
          <thead>
            <tr className="caps">
              <th>Resource</th>
              <th className="text-right!">Busy</th>
              <th className="text-right!">By itself</th>
              <th className="text-right!">Good for</th>
            </tr>
          </thead>
          <tbody>
            {data.resources.map(({ id, name, rho, own, limit }) => (
              <tr key={id}>
                <td className="name">{name}</td>
                <td className={`text-right ${rho > limit ? 'font-[640] text-red' : ''}`}>
                  {rho > limit ? '✕ ' : ''}
                  {percentText(rho)}
                </td>
                <td className="text-right text-ink2">{percentText(own)}</td>
                <td className="text-right text-ink2">{percentText(limit)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </div>
  );
}
