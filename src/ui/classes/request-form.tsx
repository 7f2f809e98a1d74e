import type { ReactNode } from 'react';
import type { ClassRow, FactKey, Receiver, RequestRow } from '@/core/service/answers';
import { keepings } from '@/core/kinds/kept-request';
import { keepingWords } from '@/core/service/several';
import type { PlacesAnswer } from '../api/client';
import { usePlace } from '../shell/place';
import { RuleLines } from './rule-lines';
import { askedFor, nameOf, type useRequest } from './use-request';
import { WhyBest } from './why-best';

/** What is asked for, rule by rule with what each leaves out, where several go, and why the best is the best. */
export function RequestForm({
  request,
  requests,
  receivers,
  keys,
  classes,
  answer,
  refusal,
  picked,
}: {
  request: ReturnType<typeof useRequest>;
  requests: readonly RequestRow[];
  receivers: readonly Receiver[];
  keys: readonly FactKey[];
  classes: readonly ClassRow[];
  answer: PlacesAnswer | undefined;
  refusal: string | null;
  picked: string;
}) {
  const { visit } = usePlace();
  const { fields, kept } = request;
  const best = answer?.pools.find(({ id }) => id === picked) ?? answer?.pools[0];
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
          {requests.length > 0 && (
            <Ask id="ask-kept" label="Request">
              <Pick
                id="ask-kept"
                value={kept?.name ?? ''}
                onChange={(name) => visit('/classes', name ? { request: name } : {})}
                choices={[['', 'As asked below'], ...requests.map(({ name }) => [name, name] as const)]}
              />
            </Ask>
          )}
          <Ask id="ask-size" label="Size">
            <span className="grid grid-cols-[minmax(0,1fr)_auto_52px] items-center gap-1.5">
              <input
                id="ask-size"
                className="field"
                value={fields.size}
                onChange={(event) => request.setSize(event.target.value)}
              />
              <label htmlFor="ask-volumes" className="caps">
                times
              </label>
              <input
                id="ask-volumes"
                className="field"
                inputMode="numeric"
                value={fields.volumes}
                onChange={(event) => request.setVolumes(event.target.value)}
              />
            </span>
          </Ask>
          {request.asked.volumes > 1 && (
            <Ask id="ask-keeping" label="They go">
              <Pick
                id="ask-keeping"
                value={fields.keeping}
                onChange={request.setKeeping}
                choices={keepings.map((one) => [one, keepingWords[one]] as const)}
              />
            </Ask>
          )}
          <Ask id="ask-iops" label={request.asked.volumes > 1 ? 'IO/s each' : 'IO/s'}>
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
          <Ask id="ask-for" label="For">
            <Pick
              id="ask-for"
              value={request.to ? nameOf(request.to) : ''}
              onChange={request.setReceiver}
              choices={[['', 'Whoever'], ...receivers.map((one) => [nameOf(one), nameOf(one)] as const)]}
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
        <RuleLines lines={request.lines} setLines={request.setLines} keys={keys} answer={answer} leaves={leaves} />
        {answer?.several && !refusal && (
          <div className="border-b border-rule px-4 py-2">
            <h3 className="caps">Where they go</h3>
            <ul className="num">
              {answer.several.placed.map(({ id, array, pool, volumes }) => (
                <li key={id} className="flex justify-between gap-2">
                  <span>
                    <b className="name">{pool}</b> <span className="narrow text-ink2">{array}</span>
                  </span>
                  <span>{volumes}</span>
                </li>
              ))}
            </ul>
            {answer.several.unplaced > 0 && (
              <p className="text-red">
                ✕ {answer.several.unplaced} {answer.several.unplaced === 1 ? 'finds' : 'find'} no place
              </p>
            )}
          </div>
        )}
        {answer && !refusal && best && <WhyBest best={best} />}
      </div>
      <Foot request={request} answer={answer} refusal={refusal} picked={picked} />
    </section>
  );
}

/** What the answer says, and what can be made of it. */
function Foot({
  request,
  answer,
  refusal,
  picked,
}: {
  request: ReturnType<typeof useRequest>;
  answer: PlacesAnswer | undefined;
  refusal: string | null;
  picked: string;
}) {
  const { open } = usePlace();
  const { asked, kept, to } = request;
  const several = answer?.several;
  const best = answer?.pools.find(({ id }) => id === picked) ?? answer?.pools[0];
  const given = askedFor(request);
  return (
    <div className="flex-none border-t border-ink px-4 py-2">
      {refusal ? (
        <p className="refusal" role="alert">
          {refusal}
        </p>
      ) : (
        <p aria-live="polite">{answer ? (several?.says ?? answer.says) : 'Weighing the pools…'}</p>
      )}
      {!refusal && answer && (
        <p className="flex flex-wrap justify-end gap-x-3 gap-y-2 pt-2">
          <button
            type="button"
            className="btn"
            onClick={() =>
              kept ? open('request.configure', { request: kept.name, ...given }) : open('request.create', given)
            }
          >
            {kept ? 'Change the request' : 'Keep the request'}
          </button>
          {asked.rules.length > 0 && (
            <button type="button" className="btn" onClick={() => open('class.create', { rules: asked.rules })}>
              Keep the rules as a class
            </button>
          )}
          {several
            ? several.unplaced === 0 && (
                <button
                  type="button"
                  className="btn solid"
                  onClick={() =>
                    open('storage.carve', { ...(kept ? { request: kept.name } : {}), ...withoutCopy(given) })
                  }
                >
                  Carve them there
                </button>
              )
            : best &&
              best.score !== null && (
                <button
                  type="button"
                  className="btn solid"
                  onClick={() =>
                    to
                      ? open('storage.give', {
                          [to.cluster ? 'cluster' : 'host']: to.name,
                          pool: `${best.array}/${best.name}`,
                          size: asked.size,
                        })
                      : open('volume.create', { array: best.array, pool: best.name, size: asked.size })
                  }
                >
                  {to ? `Give it to ${to.name} from ${best.name}` : `Carve it in ${best.name}`}
                </button>
              )}
        </p>
      )}
    </div>
  );
}

/** Copies are made once the volumes are there. */
const withoutCopy = ({ replica: _replica, ...given }: Record<string, unknown>): Record<string, unknown> => given;

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
  value,
  onChange,
  choices,
}: {
  id: string;
  value: string;
  onChange: (value: string) => void;
  choices: readonly (readonly [string, string])[];
}) {
  return (
    <select id={id} className="field" value={value} onChange={(event) => onChange(event.target.value)}>
      {choices.map(([one, words]) => (
        <option key={one} value={one}>
          {words}
        </option>
      ))}
    </select>
  );
}
