'use client';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState, useMemo } from 'react';
import { Checkbox } from 'radix-ui';
import type { Post } from '@/core/span/model';
import { classWords, type Component } from '@/core/whatif/components';
import type { Hurt, Verdict } from '@/core/whatif/outage';
import type { ReplicationHurt } from '@/core/replicate/after-outage';
import type { PairLine, SpofLine, WhatIf } from '@/core/whatif/report';
import { api, failedQuery } from '../api/client';
import { StatePost } from '../look/post';
import { usePlace } from '../shell/place';
import { stateColumn } from '../table/cells';
import type { AnyColumn, Column } from '../table/columns';
import { DataTable } from '../table/data-table';
import { SheetFrame } from '../sheet/sheet-frame';

const posts: Record<Verdict, Post> = {
  lost: 'broken',
  'non-optimized-only': 'leans',
  degraded: 'leans',
  unchanged: 'stands',
};
const words: Record<Verdict, string> = {
  lost: 'loses its last path',
  'non-optimized-only': 'goes on second best',
  degraded: 'goes on with fewer paths',
  unchanged: 'is not hurt',
};
const parts = [
  { key: 'hurt', label: 'Who is hurt' },
  { key: 'single', label: 'Single points of failure' },
  { key: 'pairs', label: 'Worst pairs' },
] as const;

/** Components taken as failed without touching the lab, and what follows. The ticks live in the URL, and the topology draws them. */
export function WhatIfSheet({ failed }: { failed: readonly string[] }) {
  const { open } = usePlace();
  const [part, setPart] = useState<(typeof parts)[number]['key']>('hurt');
  const [find, setFind] = useState('');
  const { data, error } = useQuery({
    queryKey: ['what-if', find, ...failed],
    queryFn: () => api.whatIf(failed, find),
    placeholderData: keepPreviousData,
  });
  const down = data?.outage.components ?? [];
  const tick = (component: Component) =>
    open('what-if', {
      failed: down.some((one) => one.id === component.id)
        ? down.filter((one) => one.id !== component.id).map((one) => one.name)
        : [...down.map((one) => one.name), component.name],
    });
  return (
    <SheetFrame
      title="What if"
      line="nothing is touched"
      foot={
        data && (
          <div className="flex items-center gap-3">
            <span className="flex-1" role="status">
              {down.length === 0 ? 'Tick what shall fail.' : summary(data)}
            </span>
            {down.length > 0 && (
              <a className="btn" href={`/api/v1/what-if?${failedQuery(down.map((one) => one.id))}&format=markdown`}>
                Report of planned work
              </a>
            )}
          </div>
        )
      }
    >
      {error && <p className="refusal m-4">What would be was asked. {error.message}</p>}
      {data && (
        <>
          <Choose
            components={data.components}
            found={data.found}
            down={down}
            text={find}
            onText={setFind}
            onTick={tick}
          />
          <div role="group" aria-label="What is shown" className="flex gap-4 border-y border-rule px-4 py-1.5">
            {parts.map(({ key, label }) => (
              <button
                key={key}
                type="button"
                aria-pressed={part === key}
                className={`verb ${part === key ? 'font-[700]' : 'text-ink2'}`}
                onClick={() => setPart(key)}
              >
                {label}
              </button>
            ))}
          </div>
          {part === 'hurt' && <Copies copies={data.copies} />}
          {part === 'hurt' && <Hurts hurt={data.outage.hurt} ticked={down.length > 0} />}
          {part === 'single' && <Spofs spofs={data.spofs} counts={data.counts} onTick={tick} />}
          {part === 'pairs' && (
            <Pairs
              pairs={data.pairs}
              onTry={(pair) => open('what-if', { failed: pair.components.map((one) => one.name) })}
            />
          )}
        </>
      )}
    </SheetFrame>
  );
}

const copyPosts: Record<ReplicationHurt['verdict'], Post> = {
  'back-to': 'leans',
  nothing: 'broken',
  'breaks-off': 'leans',
};

/** What becomes of copies at other sites. */
function Copies({ copies }: { copies: readonly ReplicationHurt[] }) {
  if (copies.length === 0) return null;
  return (
    <ul aria-label="Copies at other sites" className="border-b border-rule px-4 py-1.5">
      {copies.map(({ id, name, verdict, says }) => (
        <li key={id} className="flex items-baseline gap-2 py-0.5">
          <StatePost post={copyPosts[verdict]} />
          <b className="font-[640]">{name}</b>
          <span className={verdict === 'nothing' ? 'text-red' : ''}>{says}</span>
        </li>
      ))}
    </ul>
  );
}

function summary({ outage: { counts, without } }: WhatIf): string {
  const said = [
    `${counts.lost} lose every path`,
    ...(counts['non-optimized-only'] > 0 ? [`${counts['non-optimized-only']} go on second best`] : []),
    `${counts.degraded} have fewer paths`,
    `${counts.unchanged} are not hurt`,
    ...(without > 0 ? [`${without} have no path as it is`] : []),
  ];
  return `Of the host–volume pairs ${said.join(', ')}.`;
}

/** Components by their words; those that are ticked stand first. */
function Choose({
  components,
  found,
  down,
  text,
  onText,
  onTick,
}: {
  components: readonly Component[];
  found: number;
  down: readonly Component[];
  text: string;
  onText: (text: string) => void;
  onTick: (component: Component) => void;
}) {
  const groups = new Map<string, Component[]>();
  for (const one of components)
    if (!down.some((ticked) => ticked.id === one.id))
      groups.set(classWords[one.class], [...(groups.get(classWords[one.class]) ?? []), one]);
  return (
    <div className="grid gap-1.5 px-4 py-2">
      <ul aria-label="Taken as failed" className="flex flex-wrap gap-x-4 gap-y-1">
        {down.map((one) => (
          <li key={one.id} className="flex items-center gap-1.5">
            <Tick component={one} checked onTick={onTick} />
          </li>
        ))}
      </ul>
      <input
        className="field"
        value={text}
        onChange={(event) => onText(event.target.value)}
        placeholder="Find a port, card, switch, link, network, controller, enclosure, array, link or site"
        aria-label="Find a component"
      />
      <div className="scroller max-h-[132px]" role="group" aria-label="Components" tabIndex={0}>
        {[...groups].map(([word, own]) => (
          <div key={word} className="flex flex-wrap items-center gap-x-4 gap-y-0.5 py-0.5">
            <span className="caps w-[116px]">{word}</span>
            {own.map((one) => (
              <Tick key={one.id} component={one} checked={false} onTick={onTick} />
            ))}
          </div>
        ))}
        {found > components.length && (
          <p className="text-ink2">and {found - components.length} more; type to find them.</p>
        )}
        {found === 0 && <p className="text-ink2">Nothing is called so.</p>}
      </div>
    </div>
  );
}

function Tick({
  component,
  checked,
  onTick,
}: {
  component: Component;
  checked: boolean;
  onTick: (component: Component) => void;
}) {
  return (
    <label className="flex h-6 items-center gap-1.5 whitespace-nowrap">
      <Checkbox.Root
        checked={checked}
        onCheckedChange={() => onTick(component)}
        className="grid size-[15px] flex-none place-items-center border border-ink"
        aria-label={`${classWords[component.class]} ${component.name} fails`}
      >
        <Checkbox.Indicator className="size-[9px] bg-ink" />
      </Checkbox.Root>
      <span className={checked ? 'font-[640]' : ''}>{component.name}</span>
    </label>
  );
}

function Hurts({ hurt, ticked }: { hurt: readonly Hurt[]; ticked: boolean }) {
  if (hurt.length === 0)
    return <p className="px-4 py-2 text-ink2">{ticked ? 'Nobody is hurt.' : 'Nothing is taken as failed yet.'}</p>;
  return (
    <DataTable
      label="Who is hurt"
      rows={hurt}
      keyOf={({ mapping }) => mapping}
      columns={hurtColumns}
      className="[&_td]:align-middle!"
      inset
    />
  );
}

function Spofs({
  spofs,
  counts,
  onTick,
}: {
  spofs: readonly SpofLine[];
  counts: WhatIf['counts'];
  onTick: (component: Component) => void;
}) {
  const columns = useMemo(() => spofColumns(onTick), [onTick]);
  return (
    <>
      <p className="px-4 py-1.5 text-ink2">
        {counts.withSpof} of {counts.pairs} host–volume pairs hang on one component by design
        {counts.without > 0 ? `, ${counts.without} have no path` : ''}.
        {spofs.length < counts.pairs ? ` The ${spofs.length} worst are listed.` : ''}
      </p>
      <DataTable
        label="Single points of failure"
        rows={spofs}
        keyOf={({ host, array, volume }) => `${host} ${array} ${volume}`}
        columns={columns}
        inset
      />
    </>
  );
}

function Pairs({ pairs, onTry }: { pairs: readonly PairLine[]; onTry: (pair: PairLine) => void }) {
  const columns = useMemo(
    (): AnyColumn<PairLine>[] => [
      { head: 'Both of', value: ({ components }) => components.map(({ name }) => name).join(' and ') },
      { head: 'Pairs lost', kind: 'number', value: ({ cuts }) => cuts },
      { head: 'Hosts', kind: 'muted', value: ({ hosts }) => hosts.join(', ') },
      {
        head: 'Try',
        deeds: (pair) => (
          <button type="button" className="verb" onClick={() => onTry(pair)}>
            Try<span className="sr-only"> {pair.components.map(({ name }) => name).join(' and ')}</span>
          </button>
        ),
      },
    ],
    [onTry],
  );
  if (pairs.length === 0)
    return <p className="px-4 py-2 text-ink2">No two components end what survives either alone.</p>;
  return (
    <DataTable
      label="Worst pairs"
      rows={pairs}
      keyOf={({ components }) => components.map(({ id }) => id).join(' ')}
      columns={columns}
      inset
    />
  );
}

const hurtColumns: Column<Hurt>[] = [
  stateColumn(({ verdict }) => posts[verdict]),
  { head: 'Host', kind: 'name', value: ({ host }) => host },
  {
    head: 'Volume',
    value: ({ volume, important }) => `${volume}${important ? ' important' : ''}`,
    cell: ({ volume, important }) => (
      <>
        {volume}
        {important && <b className="font-[640]"> important</b>}
      </>
    ),
  },
  {
    head: 'What happens',
    value: ({ verdict }) => words[verdict],
    className: ({ verdict }) => (verdict === 'lost' ? 'text-red' : ''),
  },
  {
    head: 'Paths',
    kind: 'number',
    value: ({ before, after }) => `${before} → ${after}`,
    cell: ({ before, after }) => (
      <>
        {before} → <b>{after}</b>
      </>
    ),
  },
  { head: 'In use at', kind: 'muted', value: ({ mountPoint }) => mountPoint || 'not mounted' },
];

const spofColumns = (onTick: (component: Component) => void): Column<SpofLine>[] => [
  { head: 'Host', kind: 'name', value: ({ host }) => host },
  { head: 'Volume', width: 'whitespace-nowrap', value: ({ volume }) => volume },
  {
    head: 'By design',
    value: ({ state, design }) =>
      state === 'no-path' ? 'no path as it is' : design.map(({ name }) => name).join(', ') || 'none',
    cell: ({ state, design }) => {
      if (state === 'no-path') return <span className="text-red">no path as it is</span>;
      if (design.length === 0) return <span className="text-ink2">none</span>;
      return design.map((one, k) => (
        <span key={one.id}>
          {k > 0 && ', '}
          <button
            type="button"
            className="verb"
            title={`Take ${classWords[one.class]} ${one.name} as failed`}
            onClick={() => onTick(one)}
          >
            {one.name}
          </button>
        </span>
      ));
    },
  },
  {
    head: 'Goes with its place',
    kind: 'muted',
    value: ({ inherent }) => inherent.map(({ name }) => name).join(', '),
  },
];
