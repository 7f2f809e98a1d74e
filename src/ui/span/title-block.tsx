'use client';
import { useState } from 'react';
import type { FactCell, Facts } from '@/core/span/facts';
import { formatBytes, formatDecimalBytes, percentUsed } from '@/core/units/bytes';
import { formatDuration } from '@/core/units/duration';
import { StatePost } from '../look/post';
import { labTime, useClock } from '../shell/clock-context';
import { usePlace } from '../shell/place';
import { useDue } from './use-due';
import type { DrawnSpan } from './use-span';

/** As many lines of what is due as the block has room for. */
const DUE = 5;

/** As many cells as there is room for; the rest wraps out of sight. */
const blockClass =
  'grid h-[152px] auto-rows-[152px] grid-cols-[repeat(auto-fit,minmax(225px,1fr))] overflow-hidden border-t-[1.5px] border-ink bg-raised';
const cellClass = 'flex min-w-0 flex-col overflow-hidden border-l border-rule px-3 pt-2 pb-1.5 -ml-px';

/** What the selection is, what it rests on and what it carries; with nothing marked, how the whole stands. */
export function TitleBlock({ facts, model, gone }: { facts: Facts | null; model: DrawnSpan; gone: boolean }) {
  const { open } = usePlace();
  if (gone)
    return (
      <section aria-label="Selection" className="h-[152px] border-t-[1.5px] border-ink bg-raised p-3">
        What was marked is not there any more. Pick something else, or press Esc.
      </section>
    );
  if (!facts) return <NothingMarked model={model} />;
  return (
    <section aria-label="Selection" className={blockClass}>
      <div className={cellClass}>
        <span className="caps mb-1">{facts.kind}</span>
        <h1 className="flex items-center gap-2 text-[22px] leading-[26px] font-bold [font-stretch:84%]">
          <StatePost post={facts.post} />
          <span className="swipe overflow-hidden text-ellipsis whitespace-nowrap">{facts.name}</span>
        </h1>
        <span className="text-ink2">{facts.line}</span>
        <div id="verbs" className="mt-auto flex flex-wrap gap-x-2.5">
          {facts.verbs.map((verb) => (
            <button key={verb.label} type="button" className="verb" onClick={() => open(verb.do, verb.params)}>
              {verb.label}
            </button>
          ))}
        </div>
      </div>
      {facts.cells.map((cell) => (
        <Cell key={cell.title} cell={cell} />
      ))}
    </section>
  );
}

function Cell({ cell }: { cell: FactCell }) {
  return (
    <div className={cellClass}>
      <span className="caps mb-1">{cell.title}</span>
      <div className="scroller min-h-0" tabIndex={0} role="group" aria-label={cell.title}>
        {cell.rows && (
          <dl className="grid grid-cols-[auto_1fr] gap-x-3 leading-[19px]">
            {cell.rows.map((row, k) => (
              <div key={k} className="contents">
                <dt className="whitespace-nowrap text-ink2">{row.label}</dt>
                <dd className={`text-right ${row.mono ? 'mono leading-[19px] break-all' : 'num'}`}>
                  {row.mono ? <Copyable value={row.value} label={row.label} /> : row.value}
                </dd>
              </div>
            ))}
          </dl>
        )}
        {cell.lines?.map((line, k) => (
          <p key={k} className="flex items-baseline gap-[7px] leading-[18px]">
            {line.post && (
              <span className="translate-y-[2px]">
                <StatePost post={line.post} />
              </span>
            )}
            <span className="min-w-0">
              <b className={line.more ? 'font-[640]' : 'font-normal'}>{line.text}</b>
              {line.more && <span className="text-ink2"> {line.more}</span>}
            </span>
          </p>
        ))}
      </div>
    </div>
  );
}

/** An identity that goes to the clipboard when it is pressed. */
function Copyable({ value, label }: { value: string; label: string }) {
  const [copied, setCopied] = useState(false);
  return (
    <button
      type="button"
      title={copied ? 'Copied' : `Copy the ${label.toLowerCase()}`}
      className="min-h-[24px] min-w-[24px] cursor-pointer text-right break-all underline decoration-dotted decoration-1 underline-offset-2"
      onClick={() =>
        void navigator.clipboard.writeText(value).then(() => {
          setCopied(true);
          setTimeout(() => setCopied(false), 1500);
        })
      }
    >
      {copied ? 'copied' : value}
      <span className="sr-only">, copy the {label}</span>
    </button>
  );
}

function NothingMarked({ model }: { model: DrawnSpan }) {
  const { totals, faults, work } = model;
  const clock = useClock();
  const { open } = usePlace();
  const due = useDue(work, clock?.now ?? null);
  const capacity: FactCell = {
    title: 'Capacity',
    rows: [
      { label: 'Raw, all arrays', value: formatDecimalBytes(totals.raw) },
      { label: 'In RAID groups, usable', value: formatBytes(totals.usable) },
      { label: 'Filled', value: formatBytes(totals.used, 'used') },
      { label: 'Promised', value: formatBytes(totals.promised, 'used') },
      { label: 'Promised, share', value: `${percentUsed(totals.promised, totals.used + totals.available)} %` },
    ],
  };
  const broken: FactCell = {
    title: `Broken, ${faults.length}`,
    lines:
      faults.length === 0
        ? [{ post: 'stands', text: 'Nothing is broken.' }]
        : faults.map((fault) => ({
            post: fault.post,
            text: `${fault.name} ${fault.says}`,
          })),
  };
  return (
    <section aria-label="Selection" className={blockClass}>
      <div className={cellClass}>
        <span className="caps mb-1">Nothing marked</span>
        <p className="text-ink2">
          Pick anything in the drawing. The marker runs over all it rests on and all that rests on it.
        </p>
      </div>
      <Cell cell={capacity} />
      <Cell cell={broken} />
      <div className={cellClass}>
        <span className="caps mb-1">Next due</span>
        {due.length === 0 && <p className="text-ink2">Nothing is at work, nothing waits.</p>}
        <dl className="grid grid-cols-[1fr_auto] gap-x-3 leading-[19px]">
          {due.slice(0, DUE).map((job) => (
            <div key={job.change ?? `${job.name} ${job.says}`} className="contents">
              <dt className="truncate">
                {job.change === null ? (
                  job.name
                ) : (
                  <button type="button" className="verb" onClick={() => open('change', { id: job.change })}>
                    {job.name}
                  </button>
                )}{' '}
                <span className="text-ink2">{job.says}</span>
              </dt>
              <dd className="num text-right">
                {job.finishesAt === null ? 'a person' : labTime(job.finishesAt, false).slice(0, 16)}
                {clock && job.finishesAt !== null && (
                  <span className="text-ink2">, in {formatDuration(job.finishesAt - clock.now)}</span>
                )}
              </dd>
            </div>
          ))}
        </dl>
        {due.length > DUE && <p className="text-ink2">and {due.length - DUE} more</p>}
      </div>
    </section>
  );
}
