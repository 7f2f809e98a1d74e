'use client';
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { LoadView, PortLoadLine } from '@/core/trace/load-view';
import { formatRate } from '@/core/units/rate';
import { api } from '../api/client';
import { usePlace } from '../shell/place';
import { stateColumn } from '../table/cells';
import type { Column } from '../table/columns';
import { DataTable } from '../table/data-table';

function percent(share: number): string {
  if (share === 0) return '0 %';
  return share < 0.01 ? 'under 1 %' : `${Math.round(share * 100)} %`;
}

/** Load of array ports, oversubscription of links, and buffer credits for the distance. */
export function LoadTables() {
  const { open } = usePlace();
  const { data, error } = useQuery({ queryKey: ['load'], queryFn: api.load });
  const fanIn = data?.fanIn ?? Infinity;
  const ports = useMemo(() => portColumns(fanIn), [fanIn]);
  if (error) return <p className="refusal mt-2">The load was asked for. {error.message}</p>;
  if (!data) return null;
  return (
    <>
      <section aria-label="Array ports" className="pt-3">
        <h2 className="caps border-b border-ink pb-1">Array ports</h2>
        <DataTable
          label="Load of array ports"
          rows={data.ports}
          keyOf={({ array, port }) => `${array} ${port}`}
          columns={ports}
          className="[&_td]:align-middle!"
        />
      </section>
      <div className="grid grid-cols-[repeat(auto-fit,minmax(480px,1fr))] gap-6 pt-4">
        <section aria-label="Links between switches">
          <h2 className="caps border-b border-ink pb-1">Links between switches</h2>
          <DataTable label="Oversubscription" rows={data.trunks} keyOf={({ between }) => between} columns={trunks} />
        </section>
        <section aria-label="Buffer credits">
          <h2 className="caps border-b border-ink pb-1">Buffer credits for the distance</h2>
          <DataTable label="Buffer credits" rows={data.credits} keyOf={({ link }) => link} columns={credits} />
        </section>
      </div>
      <p className="pt-3">
        <button type="button" className="verb" onClick={() => open('storage.give')}>
          Give storage to a host
        </button>{' '}
        <span className="text-ink2">joins it with the ports marked “here”.</span>
      </p>
    </>
  );
}

const tooMuch = (line: PortLoadLine, fanIn: number): boolean =>
  line.overcommit > 1 || line.utilisation >= 0.7 || line.survivor > 0.9 || line.initiators > fanIn;

const portColumns = (fanIn: number): Column<PortLoadLine>[] => [
  stateColumn((line) => (tooMuch(line, fanIn) ? 'leans' : 'stands')),
  { head: 'Port', kind: 'name', width: 'whitespace-nowrap', value: ({ array, port }) => `${array} ${port}` },
  { head: 'Plugged in', kind: 'muted', width: 'whitespace-nowrap', value: ({ where }) => where || 'nowhere' },
  { head: 'Host ports', kind: 'number', value: ({ initiators }) => initiators },
  { head: 'LUNs', kind: 'number', value: ({ luns }) => luns },
  { head: 'Commands asked', kind: 'number', value: ({ demand }) => demand },
  { head: 'It takes', kind: 'number', value: ({ limit }) => limit },
  {
    head: 'Asked ÷ takes',
    kind: 'number',
    value: ({ overcommit }) => overcommit,
    cell: ({ overcommit }) => overcommit.toFixed(2),
    className: ({ overcommit }) => (overcommit > 1 ? 'text-red' : ''),
  },
  {
    head: 'Safe depth',
    kind: 'number',
    value: ({ luns, safeDepth }) => (luns > 0 ? safeDepth : null),
    cell: ({ luns, safeDepth }) => (luns > 0 ? safeDepth : '–'),
  },
  {
    head: 'Written',
    unit: 'bytes a second',
    kind: 'number',
    width: 'whitespace-nowrap',
    value: ({ rate }) => rate,
    cell: ({ rate }) => (rate > 0 ? formatRate(rate) : '–'),
  },
  {
    head: 'Of the port',
    unit: 'share',
    kind: 'number',
    width: 'whitespace-nowrap',
    value: ({ utilisation }) => utilisation,
    cell: ({ utilisation }) => percent(utilisation),
    className: ({ utilisation }) => (utilisation >= 0.7 ? 'text-red' : ''),
  },
  {
    head: 'With one side lost',
    unit: 'share',
    kind: 'number',
    width: 'whitespace-nowrap',
    value: ({ survivor }) => survivor,
    cell: ({ survivor }) => percent(survivor),
    className: ({ survivor }) => (survivor > 0.9 ? 'text-red' : ''),
  },
  { head: 'Next host', value: ({ next }) => (next ? 'here' : '') },
];

const trunks: Column<LoadView['trunks'][number]>[] = [
  { head: 'Between', kind: 'name', value: ({ between }) => between },
  { head: 'Links', value: ({ links }) => links.join(', ') },
  { head: 'Edge, Gb/s', kind: 'number', value: ({ crossing }) => crossing },
  { head: 'Links, Gb/s', kind: 'number', value: ({ carries }) => carries },
  {
    head: 'Ratio',
    kind: 'number',
    value: ({ ratio }) => ratio,
    cell: ({ ratio }) => `${ratio.toFixed(1)}:1`,
    className: ({ ratio }) => (ratio > 7 ? 'text-red' : ''),
  },
];

const credits: Column<LoadView['credits'][number]>[] = [
  { head: 'Link', kind: 'name', value: ({ link }) => link },
  { head: 'km', kind: 'number', value: ({ km }) => km },
  { head: 'Gb/s', kind: 'number', value: ({ speed }) => speed },
  {
    head: 'Has',
    kind: 'number',
    value: (line) => line.credits,
    className: (line) => (line.credits < line.needed ? 'text-red' : ''),
  },
  { head: 'Needs', kind: 'number', value: ({ needed }) => needed },
  {
    head: 'Line rate reached',
    unit: 'share',
    kind: 'number',
    value: ({ share }) => share,
    cell: ({ share }) => percent(share),
  },
];
