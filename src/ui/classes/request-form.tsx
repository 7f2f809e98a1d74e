import { useMemo, type ReactNode } from 'react';
import type { ClassRow, FactKey } from '@/core/service/answers';
import type { PlaceAnswer } from '@/core/service/place';
import { mediaClasses } from '@/core/estate/entities';
import { placeTerms, type PlaceTerm } from '@/core/place/rank';
import type { PlaceQuestion } from '../api/client';
import { useParam, usePlace } from '../shell/place';

const comparisons = ['is', 'is not', 'at least', 'at most', 'between', 'one of', 'none of'] as const;

/** A rule in its three parts; what a line says, and the line that parts say. */
interface RuleParts {
  key: string;
  how: string;
  value: string;
}
const partsOf = (line: string): RuleParts => {
  const key = line.split(' ')[0]!;
  const rest = line.slice(key.length + 1);
  const how = [...comparisons]
    .sort((a, b) => b.length - a.length)
    .find((one) => rest === one || rest.startsWith(`${one} `));
  return { key, how: how ?? 'is', value: how ? rest.slice(how.length + 1) : rest };
};
const lineOf = ({ key, how, value }: RuleParts): string => `${key} ${how} ${value}`;

/** The request stands in the address, so that a link leads back to it. */
export function useRequest() {
  const [size, setSize] = useParam('size', '1 TiB');
  const [iops, setIops] = useParam('iops', '1000');
  const [ofClass, setClass] = useParam('class');
  const [replica, setReplica] = useParam('copy');
  const [text, setText] = useParam('rules');
  const lines = useMemo(() => (text ? text.split('\n') : []), [text]);
  const asked = useMemo<PlaceQuestion>(
    () => ({
      size,
      iops: Number(iops) >= 0 ? Number(iops) : 0,
      ...(ofClass ? { class: ofClass } : {}),
      // A rule that is being written asks nothing yet.
      rules: lines.filter((line) => partsOf(line).value.trim() !== ''),
      replica: replica === 'yes',
    }),
    [size, iops, ofClass, lines, replica],
  );
  return {
    asked,
    lines,
    fields: { size, iops, ofClass, replica },
    setSize,
    setIops,
    setClass,
    setReplica,
    setLines: (next: readonly string[]) => setText(next.join('\n')),
  };
}

const termWords: Record<PlaceTerm, string> = {
  capacity: 'Room',
  performance: 'IO/s left',
  replicaCapacity: 'Room for the copy',
  replicaPerformance: 'IO/s for the copy',
  fit: 'Room and IO/s together',
  runway: 'How long it lasts',
  preference: 'Preferred',
};

/** What is asked for, rule by rule with what each leaves out, and why the best is the best. */
export function RequestForm({
  request,
  keys,
  classes,
  answer,
  refusal,
  picked,
}: {
  request: ReturnType<typeof useRequest>;
  keys: readonly FactKey[];
  classes: readonly ClassRow[];
  answer: PlaceAnswer | undefined;
  refusal: string | null;
  picked: string;
}) {
  const { open } = usePlace();
  const { lines, setLines, fields } = request;
  const best = answer?.pools.find(({ id }) => id === picked) ?? answer?.pools[0];
  const change = (at: number, part: Partial<RuleParts>) =>
    setLines(lines.map((line, k) => (k === at ? lineOf({ ...partsOf(line), ...part }) : line)));
  const ofClass = classes.find(({ name }) => name === fields.ofClass);
  const leaves = (line: string) => {
    const rule = answer?.rules.find(({ text }) => text === line.trim());
    return rule ? `leaves out ${rule.leavesOut}${rule.alone > 0 ? `, ${rule.alone} by it alone` : ''}` : '';
  };
  return (
    <section aria-label="Ask for a place" className="flex min-h-0 flex-col border-l-[1.5px] border-ink bg-raised">
      <h2 className="sheet-title flex-none border-b border-ink px-4 py-2">Ask for a place</h2>
      <div className="scroller min-h-0 flex-1">
        <div className="grid grid-cols-[84px_minmax(0,1fr)] items-center gap-x-2 gap-y-1.5 border-b border-rule px-4 py-2">
          <Ask id="ask-size" label="Size">
            <input
              id="ask-size"
              className="field"
              value={fields.size}
              onChange={(event) => request.setSize(event.target.value)}
            />
          </Ask>
          <Ask id="ask-iops" label="IO/s">
            <input
              id="ask-iops"
              className="field"
              inputMode="numeric"
              value={fields.iops}
              onChange={(event) => request.setIops(event.target.value)}
            />
          </Ask>
          <Ask id="ask-class" label="Class">
            <Pick
              id="ask-class"
              value={fields.ofClass}
              onChange={request.setClass}
              choices={[['', 'Own rules alone'], ...classes.map(({ name }) => [name, name] as const)]}
            />
          </Ask>
          <Ask id="ask-copy" label="Copy">
            <Pick
              id="ask-copy"
              value={fields.replica}
              onChange={request.setReplica}
              choices={[
                ['', 'None'],
                ['yes', 'At an array it is introduced to'],
              ]}
            />
          </Ask>
        </div>
        {ofClass && (
          <ul className="narrow border-b border-rule px-4 py-1.5 text-ink2">
            {ofClass.rules.map((line) => (
              <li key={line} className="flex justify-between gap-2">
                <span>{line}</span>
                <span>{leaves(line)}</span>
              </li>
            ))}
            {ofClass.rules.length === 0 && <li>It has no rules.</li>}
          </ul>
        )}
        <fieldset className="border-b border-rule px-4 py-2">
          <legend className="caps float-left pb-1">Rules</legend>
          <ul className="clear-both">
            {lines.map((line, k) => {
              const { key, how, value } = partsOf(line);
              return (
                <li key={k} className="grid grid-cols-[108px_84px_minmax(0,1fr)_24px] items-center gap-1 pb-1">
                  <select
                    aria-label={`Key of rule ${k + 1}`}
                    className="field"
                    value={key}
                    onChange={(event) => change(k, { key: event.target.value })}
                  >
                    {!keys.some((one) => one.key === key) && <option value={key}>{key}</option>}
                    {keys.map((one) => (
                      <option key={one.key} value={one.key}>
                        {one.key}
                      </option>
                    ))}
                  </select>
                  <select
                    aria-label={`Comparison of rule ${k + 1}`}
                    className="field"
                    value={how}
                    onChange={(event) => change(k, { how: event.target.value })}
                  >
                    {comparisons.map((one) => (
                      <option key={one} value={one}>
                        {one}
                      </option>
                    ))}
                  </select>
                  <input
                    aria-label={`Value of rule ${k + 1}`}
                    className="field"
                    value={value}
                    list={`values of ${key}`}
                    placeholder={how === 'between' ? '40 and 60' : ''}
                    onChange={(event) => change(k, { value: event.target.value })}
                  />
                  <button
                    type="button"
                    className="verb"
                    aria-label={`Drop rule ${k + 1}`}
                    onClick={() => setLines(lines.filter((_, other) => other !== k))}
                  >
                    −
                  </button>
                  <span className="narrow col-span-4 text-ink2">
                    {leaves(line) || keys.find((one) => one.key === key)?.says}
                  </span>
                </li>
              );
            })}
          </ul>
          <button type="button" className="verb" onClick={() => setLines([...lines, `${keys[0]?.key ?? 'media'} is `])}>
            Add a rule
          </button>
        </fieldset>
        {answer && !refusal && best && (
          <div className="px-4 py-2">
            <h3 className="caps">
              {best.score === null ? `Against ${best.name} on ${best.array}` : `Why ${best.name} on ${best.array}`}
            </h3>
            {best.score === null ? (
              <ul className="list-disc pl-4">
                {best.against.map((one) => (
                  <li key={one}>{one}</li>
                ))}
              </ul>
            ) : (
              <table className="table w-full">
                <tbody className="num">
                  {placeTerms.flatMap((term) => {
                    const value = best.terms[term];
                    if (value === undefined) return [];
                    return [
                      <tr key={term}>
                        <td>{termWords[term]}</td>
                        <td>
                          <span className="inline-block h-[7px] w-24 border border-rule" aria-hidden>
                            <span className="block h-full bg-ink" style={{ width: `${value * 100}%` }} />
                          </span>
                        </td>
                        <td className="text-right">{value.toFixed(2)}</td>
                      </tr>,
                    ];
                  })}
                </tbody>
              </table>
            )}
            {best.replica && <p className="pt-1 text-ink2">Its copy goes to {best.replica}.</p>}
          </div>
        )}
        {[...new Set(lines.map((line) => partsOf(line).key))].map((key) => (
          <datalist key={key} id={`values of ${key}`}>
            {valuesOf(key, answer).map((value) => (
              <option key={value} value={value} />
            ))}
          </datalist>
        ))}
      </div>
      <div className="flex-none border-t border-ink px-4 py-2">
        {refusal ? (
          <p className="refusal" role="alert">
            {refusal}
          </p>
        ) : (
          <p aria-live="polite">{answer?.says ?? 'Weighing the pools…'}</p>
        )}
        {best && best.score !== null && !refusal && (
          <p className="flex justify-end gap-3 pt-2">
            <button type="button" className="btn" onClick={() => open('class.create', { rules: request.asked.rules })}>
              Keep the rules as a class
            </button>
            <button
              type="button"
              className="btn solid"
              onClick={() => open('volume.create', { array: best.array, pool: best.name, size: request.asked.size })}
            >
              Carve it in {best.name}
            </button>
          </p>
        )}
      </div>
    </section>
  );
}

/** What a key can be, as far as it is known: what pools have, and every class of media. */
function valuesOf(key: string, answer: PlaceAnswer | undefined): string[] {
  const found = (answer?.pools ?? []).flatMap(({ facts }) => facts.filter((one) => one.key === key));
  return [...new Set([...(key === 'media' ? mediaClasses : []), ...found.map(({ value }) => value)])];
}

/** A field of the request beside its label. */
function Ask({ id, label, children }: { id: string; label: string; children: ReactNode }) {
  return (
    <>
      <label htmlFor={id} className="caps">
        {label}
      </label>
      {children}
    </>
  );
}

function Pick({
  id,
  label,
  value,
  onChange,
  choices,
}: {
  id?: string;
  label?: string;
  value: string;
  onChange: (value: string) => void;
  choices: readonly (readonly [string, string])[];
}) {
  return (
    <select
      id={id}
      aria-label={label}
      className="field"
      value={value}
      onChange={(event) => onChange(event.target.value)}
    >
      {choices.map(([one, words]) => (
        <option key={one} value={one}>
          {words}
        </option>
      ))}
    </select>
  );
}
