'use client';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { SpanDrive, SpanEnclosure } from '@/core/span/model';
import { api } from '../api/client';
import { Datum, DimensionLine } from '../look/marks';

interface BoardProps {
  arrayName: string;
  /** Ticked drives as enclosure:slot. */
  ticked: readonly string[];
  unfit: ReadonlyMap<string, string>;
  onTick: (drives: string[]) => void;
  /** What the array would choose by itself, and how many were asked for. */
  chosen?: { drives: string[]; why: string } | undefined;
  count?: { value: number; onChange: (count: number) => void } | undefined;
}

/** The enclosures of one array, enlarged, to tick drives in. */
export function DriveBoard({ arrayName, ticked, unfit, onTick, chosen, count }: BoardProps) {
  const { data: array } = useQuery({
    queryKey: ['span', 'drives', arrayName],
    queryFn: () => api.storey(arrayName),
    enabled: arrayName !== '',
    retry: false,
  });
  if (!array) return <section className="bg-paper p-4 text-ink2">Choose an array; its drives are drawn here.</section>;
  const fit = array.drives - unfit.size;
  return (
    <section aria-label="Drives to tick" className="scroller bg-paper">
      <div className="flex items-center gap-3 border-b border-rule px-3 py-1">
        <b className="font-[680]">Tick drives here</b>
        {count && (
          <span className="flex items-center gap-1.5">
            <button
              type="button"
              className="verb"
              title={chosen?.why}
              // The choice for another number may still be on its way.
              disabled={chosen?.drives.length !== count.value}
              onClick={() => chosen && onTick(chosen.drives)}
            >
              Tick {count.value} for me
            </button>
            <input
              aria-label="How many to tick"
              type="number"
              min={2}
              max={60}
              value={count.value}
              onChange={(event) => count.onChange(Number(event.target.value))}
              className="field h-6! w-[48px]!"
            />
          </span>
        )}
        <button type="button" className="verb" onClick={() => onTick([])} disabled={ticked.length === 0}>
          Lift all ticks
        </button>
        <span className="flex-1" />
        <kbd className="key">Space</kbd> tick <kbd className="key">⇧→</kbd> run
      </div>
      <div className="px-3 pt-1.5">
        <span className="caps text-ink">Drives</span>
        <DimensionLine total={fit} marked={ticked.length} word="that fit" />
      </div>
      <h2 className="mx-3 mt-2 flex items-end gap-2 border-b border-ink pb-0.5">
        <Datum />
        <b className="[font-stretch:84%]">{array.name}</b>
        <span className="narrow text-ink2">
          {array.model}, {array.drives} drives
        </span>
      </h2>
      {array.enclosures.map((enclosure) => (
        <Enclosure key={enclosure.id} enclosure={enclosure} ticked={ticked} unfit={unfit} onTick={onTick} />
      ))}
      <p className="narrow flex flex-wrap gap-x-4 gap-y-0.5 px-3 py-3 text-ink2">
        <span>solid: member</span>
        <span>hollow: free</span>
        <span>ticked: chosen</span>
        <span>half high: spare</span>
        <span>leans: expects to fail</span>
        <span>snapped: failed</span>
        <span>half filled: rebuilds</span>
        <span>dashed: missing</span>
        <span>dot: lamp blinks</span>
      </p>
    </section>
  );
}

const HEIGHT = 50;
const ROW = 30;

function Enclosure({
  enclosure,
  ticked,
  unfit,
  onTick,
}: { enclosure: SpanEnclosure } & Pick<BoardProps, 'ticked' | 'unfit' | 'onTick'>) {
  const [active, setActive] = useState(0);
  const refs = enclosure.drives.map((drive) => `${enclosure.number}:${drive.slot}`);
  const toggle = (ref: string) => {
    if (unfit.has(ref)) return;
    onTick(ticked.includes(ref) ? ticked.filter((one) => one !== ref) : [...ticked, ref]);
  };
  const onKeyDown = (event: React.KeyboardEvent) => {
    const step = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: ROW, ArrowUp: -ROW }[event.key];
    if (step !== undefined) {
      event.preventDefault();
      const next = Math.min(refs.length - 1, Math.max(0, active + step));
      setActive(next);
      if (event.shiftKey) {
        const run = [refs[active]!, refs[next]!].filter((ref) => !unfit.has(ref) && !ticked.includes(ref));
        if (run.length > 0) onTick([...ticked, ...run]);
      }
    } else if (event.key === ' ' || event.key === 'Enter') {
      event.preventDefault();
      toggle(refs[active]!);
    }
  };
  const base = `board-${enclosure.id}`;
  return (
    <div className="px-3 pt-3">
      <div className="flex justify-between">
        <span>
          <b className="font-[560]">Enclosure {enclosure.number}</b>{' '}
          <span className="narrow text-ink2">{enclosure.label}</span>
        </span>
        <span className="narrow text-ink2">{enclosure.free} free</span>
      </div>
      <ul
        role="listbox"
        data-drives
        aria-label={`Drives of enclosure ${enclosure.number}`}
        aria-multiselectable="true"
        aria-activedescendant={`${base}-${active}`}
        tabIndex={0}
        onKeyDown={onKeyDown}
        className="listbox mt-1 grid border-x border-b border-ink2 pb-1"
        style={{ gridTemplateColumns: `repeat(${Math.min(ROW, Math.max(18, refs.length))}, minmax(0, 1fr))` }}
      >
        {enclosure.drives.map((drive, k) => {
          const ref = refs[k]!;
          const on = ticked.includes(ref);
          const why = unfit.get(ref);
          return (
            <li
              key={drive.id}
              id={`${base}-${k}`}
              role="option"
              aria-selected={on}
              data-selected={on || undefined}
              aria-disabled={why !== undefined}
              aria-label={`Slot ${drive.slot}${why ? `, ${why}` : ''}`}
              title={why ? `${ref} ${why}` : ref}
              data-active={k === active || undefined}
              onClick={() => {
                setActive(k);
                toggle(ref);
              }}
              className={`slot grid justify-items-center ${why ? '' : 'cursor-pointer'}`}
              data-post={drive.post}
            >
              <svg
                viewBox={`0 0 14 ${HEIGHT}`}
                height={enclosure.drives.length > ROW ? 34 : HEIGHT}
                width="100%"
                preserveAspectRatio="none"
                aria-hidden="true"
              >
                <SlotPost drive={drive} on={on} />
              </svg>
              <span
                className={`relative text-[11px] leading-[14px] [font-stretch:75%] ${on ? 'font-bold text-[#10201a]' : 'text-ink3'}`}
              >
                {drive.slot}
                {drive.located && (
                  <i aria-label="lamp blinks" className="absolute -top-[3px] right-0 size-[5px] rounded-full bg-ink" />
                )}
              </span>
            </li>
          );
        })}
      </ul>
      {enclosure.brackets.length > 0 && (
        <p className="narrow pt-0.5 text-ink2">
          {enclosure.brackets.map((bracket) => `${bracket.from}–${bracket.to} ${bracket.name}`).join(', ')}
        </p>
      )}
    </div>
  );
}

/** A slot as a post: ticked, or as its drive stands. */
function SlotPost({ drive, on }: { drive: SpanDrive; on: boolean }) {
  if (on)
    return (
      <>
        <rect x="2" y="1" width="10" height={HEIGHT - 1} fill="var(--marker)" stroke="var(--on-marker)" />
        <path
          d={`M3 ${HEIGHT / 2} 6 ${HEIGHT / 2 + 9} 12 ${HEIGHT / 2 - 11}`}
          fill="none"
          stroke="#10201a"
          strokeWidth="1.8"
        />
      </>
    );
  if (drive.post === 'leans') return <path d={`M1 ${HEIGHT}h6L13 1H8Z`} fill="currentColor" />;
  if (drive.post === 'absent')
    return <rect x="2" y="1" width="10" height={HEIGHT - 1} fill="none" stroke="currentColor" strokeDasharray="3 3" />;
  if (drive.spare && drive.post === 'stands' && drive.group === null)
    return <rect x="2" y={HEIGHT / 2} width="10" height={HEIGHT / 2} fill="currentColor" />;
  if (drive.post === 'broken')
    return (
      <>
        <path d={`M2 ${HEIGHT}V28l7 5v${HEIGHT - 33}Z`} fill="currentColor" />
        <path d="M6 1h7v27l-7-5Z" fill="currentColor" />
      </>
    );
  return (
    <>
      <rect
        x="2"
        y="1"
        width="10"
        height={HEIGHT - 1}
        fill={drive.group !== null && drive.post === 'stands' ? 'currentColor' : 'none'}
        stroke="currentColor"
      />
      {drive.post === 'in work' && <rect x="2" y={HEIGHT / 2} width="10" height={HEIGHT / 2} fill="currentColor" />}
    </>
  );
}
