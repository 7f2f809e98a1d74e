import type { FactKey } from '@/core/service/answers';
import type { PlaceAnswer } from '@/core/service/place';
import { mediaClasses } from '@/core/estate/entities';
import { comparisons, lineOf, partsOf, type RuleParts } from './rule-parts';

/** Own rules of a request, one a line in three parts, each with how many pools it leaves out. */
export function RuleLines({
  lines,
  setLines,
  keys,
  answer,
  leaves,
}: {
  lines: readonly string[];
  setLines: (lines: readonly string[]) => void;
  keys: readonly FactKey[];
  answer: PlaceAnswer | undefined;
  leaves: (line: string) => string;
}) {
  const change = (at: number, part: Partial<RuleParts>) =>
    setLines(lines.map((line, k) => (k === at ? lineOf({ ...partsOf(line), ...part }) : line)));
  return (
    <>
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
      {[...new Set(lines.map((line) => partsOf(line).key))].map((key) => (
        <datalist key={key} id={`values of ${key}`}>
          {valuesOf(key, answer).map((value) => (
            <option key={value} value={value} />
          ))}
        </datalist>
      ))}
    </>
  );
}

/** What a key can be, as far as it is known: what pools have, and every class of media. */
function valuesOf(key: string, answer: PlaceAnswer | undefined): string[] {
  const found = (answer?.pools ?? []).flatMap(({ facts }) => facts.filter((one) => one.key === key));
  return [...new Set([...(key === 'media' ? mediaClasses : []), ...found.map(({ value }) => value)])];
}
