'use client';
import { useQuery } from '@tanstack/react-query';
import { useId } from 'react';
import { api } from '../api/client';
import { useParam } from '../shell/place';
import { hourText, percentText, rateText, waitText } from './words';

/** Guesses that are said in words; the others carry their mark. */
const GUESSES = 2;

/** Tries what nobody would try at work: a controller lost, a workload grown, a volume in another pool. Nothing is touched. */
export function TryPanel() {
  const things = useQuery({ queryKey: ['load', 'things'], queryFn: api.loadThings });
  const [lost, setLost] = useParam('lost');
  const [workload, setWorkload] = useParam('grown');
  const [factor, setFactor] = useParam('times', '2');
  const [volume, setVolume] = useParam('moved');
  const [pool, setPool] = useParam('into');
  const times = Number(factor);
  const question = {
    ...(lost ? { lost } : {}),
    ...(workload && times >= 0 && times <= 1000 ? { grows: { workload, factor: times } } : {}),
    ...(volume && pool ? { moves: { volume, pool } } : {}),
  };
  const asked = Object.keys(question).length > 0;
  const answer = useQuery({
    queryKey: ['load', 'what-if', question],
    queryFn: () => api.loadWhatIf(question),
    enabled: asked,
    retry: false,
  });
  const data = asked ? answer.data : undefined;
  const guessed = new Set(data?.guesses.map(({ id }) => id));
  const all = things.data;
  const array = all?.volumes.find(({ id }) => id === volume)?.array;
  return (
    <section aria-label="What if" className="num border-l-[1.5px] border-ink bg-raised">
      <h2 className="sheet-title border-b border-ink px-4 py-2">What if</h2>
      <div className="grid grid-cols-[92px_minmax(0,1fr)_64px] items-center gap-x-2 gap-y-1.5 border-b border-rule px-4 py-2">
        <Pick label="Lost" value={lost} onChange={setLost} choices={all?.controllers ?? []} wide />
        <Pick label="Grows" value={workload} onChange={setWorkload} choices={all?.workloads ?? []} />
        <input
          aria-label="Times"
          className="field text-right"
          inputMode="decimal"
          value={factor}
          onChange={(event) => setFactor(event.target.value)}
        />
        <Pick label="Moves" value={volume} onChange={setVolume} choices={all?.volumes ?? []} wide />
        <Pick
          label="to pool"
          value={pool}
          onChange={setPool}
          choices={(all?.pools ?? []).filter((one) => array === undefined || one.array === array)}
          wide
        />
      </div>
      {!asked && (
        <p className="px-4 py-2 whitespace-normal text-ink2">
          Choose something: what it would do to the busiest hour is said here. Nothing is touched.
        </p>
      )}
      {asked && answer.error && <p className="refusal m-3">{answer.error.message}</p>}
      {data && (
        <div className="px-4 py-2">
          {data.silent.length > 0 && (
            <p className="pb-1 whitespace-normal text-red">✕ No host would reach {data.silent.join(', ')}.</p>
          )}
          {data.resources.length === 0 && <p className="text-ink2">No resource would be a point busier or quieter.</p>}
          {data.resources.length > 0 && (
            <table className="table w-full">
              <thead>
                <tr className="caps">
                  <th>At its busiest hour</th>
                  <th className="text-right!">Was</th>
                  <th className="text-right!">Would be</th>
                  <th className="text-right!">Good for</th>
                </tr>
              </thead>
              <tbody>
                {data.resources.slice(0, 8).map((one) => (
                  <tr key={one.name}>
                    <td className="name">{one.name}</td>
                    <td className="text-right">{percentText(one.was)}</td>
                    <td className={`text-right ${one.is > one.limit ? 'font-[640] text-red' : ''}`}>
                      {one.is > one.limit ? '✕ ' : ''}
                      {guessed.has(one.id) ? '≈ ' : ''}
                      {percentText(one.is)}
                    </td>
                    <td className="text-right text-ink2">{percentText(one.limit)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {data.guesses.slice(0, GUESSES).map(({ id, message }) => (
            <p key={id} className="pt-1 whitespace-normal text-ink2">
              ≈ {message} It is a guess.
            </p>
          ))}
          {data.volumes.length > 0 && (
            <table className="table mt-2 w-full">
              <thead>
                <tr className="caps">
                  <th>p95, {hourText(data.hour)}</th>
                  <th className="text-right!">Was</th>
                  <th className="text-right!">Would be</th>
                  <th className="text-right!">Not served</th>
                </tr>
              </thead>
              <tbody>
                {data.volumes.slice(0, 8).map((one) => (
                  <tr key={one.id}>
                    <td className="name">{one.name}</td>
                    <td className="text-right">{waitText(one.wasS)}</td>
                    <td className="text-right font-[640]">{waitText(one.isS)}</td>
                    <td className="text-right">{one.unserved < 0.5 ? '–' : `${rateText(one.unserved)} IO/s`}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </div>
      )}
    </section>
  );
}

function Pick({
  label,
  value,
  onChange,
  choices,
  wide = false,
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  choices: readonly { id: string; name: string }[];
  wide?: boolean;
}) {
  const id = useId();
  return (
    <>
      <label className="caps" htmlFor={id}>
        {label}
      </label>
      <select
        id={id}
        className={`field ${wide ? 'col-span-2' : ''}`}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      >
        <option value="">nothing</option>
        {choices.map((one) => (
          <option key={one.id} value={one.id}>
            {one.name}
          </option>
        ))}
      </select>
    </>
  );
}
