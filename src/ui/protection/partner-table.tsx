'use client';
import { useMemo } from 'react';
import type { PartnerRow } from '@/core/replicate/partner-view';
import { formatBytes } from '@/core/units/bytes';
import { counted } from '@/core/units/counted';
import { dateText } from '@/core/units/date';
import { usePlace } from '../shell/place';
import { stateColumn } from '../table/cells';
import type { AnyColumn } from '../table/columns';
import { DataTable } from '../table/data-table';

function standing({ state, misfit, peer, array }: PartnerRow): string {
  if (state === 'established') return 'both agree';
  if (misfit) return `${misfit.at} finds: ${misfit.message}`;
  return `${peer} was not told of ${array} yet`;
}

const posts = { established: 'stands', offered: 'in work', failing: 'broken' } as const;

function quotaText(row: PartnerRow): string {
  const pools = row.offers.map(({ pool, bytes, used }) => `${formatBytes(used)} of ${formatBytes(bytes)} of ${pool}`);
  const volumes =
    row.volumes === null
      ? counted(row.usedVolumes, 'volume')
      : `${row.usedVolumes} of ${counted(row.volumes, 'volume')}`;
  if (pools.length === 0) return 'nothing is offered';
  return `${pools.join(', ')}; ${volumes}${row.until === null ? '' : `, until ${dateText(row.until)}`}`;
}

/** Arrays that know each other, each side by itself: how they stand, and what the other uses. */
export function PartnerTable({ rows }: { rows: readonly PartnerRow[] }) {
  const { open } = usePlace();
  const columns = useMemo<AnyColumn<PartnerRow>[]>(
    () => [
      stateColumn(({ state }) => posts[state]),
      { head: 'Array', kind: 'name', width: 'whitespace-nowrap', value: ({ array }) => array },
      { head: 'Knows', width: 'whitespace-nowrap', value: ({ peer }) => peer },
      {
        head: 'How they stand',
        value: standing,
        className: ({ state }) => (state === 'failing' ? 'text-red' : ''),
      },
      { head: 'At', kind: 'muted', width: 'whitespace-nowrap', value: ({ addresses }) => addresses.join(', ') },
      { head: 'Its copies use here', value: quotaText },
      {
        head: 'Secret holds until',
        kind: 'muted',
        width: 'whitespace-nowrap',
        value: ({ secretUntil }) => (secretUntil === null ? 'no end' : dateText(secretUntil)),
      },
      {
        head: 'Deeds',
        deeds: (row) => {
          const { array, peer, state } = row;
          const verb = (label: string, kind: string, given = { array, peer }) => (
            <button type="button" className="verb" onClick={() => open(kind, given)}>
              {label}
              <span className="sr-only">
                {' '}
                {array}, {peer}
              </span>
            </button>
          );
          return (
            <span className="flex gap-3">
              {state === 'offered' && verb('Answer', 'partner.introduce', { array: peer, peer: array })}
              {verb('Change', 'partner.configure')}
              {state === 'established' && verb('Renew', 'partner.renew')}
              {verb('Forget', 'partner.revoke')}
            </span>
          );
        },
      },
    ],
    [open],
  );
  if (rows.length === 0)
    return <p className="py-2 text-ink2">No array knows another one: nothing can be copied between two.</p>;
  return <DataTable label="Partners" rows={rows} keyOf={({ id }) => id} columns={columns} />;
}
