'use client';
import { useMemo } from 'react';
import type { LossRow, LossVerdict, SiteLoss } from '@/core/replicate/site-lost';
import { formatBytes } from '@/core/units/bytes';
import { momentText } from '@/core/units/date';
import { formatDuration } from '@/core/units/duration';
import { usePlace } from '../shell/place';
import type { AnyColumn } from '../table/columns';
import { DataTable } from '../table/data-table';

function words(one: LossVerdict): string {
  if (one.verdict === 'goes-on') return 'goes on';
  if (one.verdict === 'nothing') return `nothing left: ${one.why}`;
  const lost =
    one.lag === 0
      ? 'nothing lost'
      : `${formatDuration(one.lag)}, about ${formatBytes(Math.round(one.risk), 'used')} lost`;
  return `back to ${momentText(one.pit)} at ${one.site}; ${lost}`;
}

/** Site by site what would be left of each workload, were it lost now. */
export function SiteLostTable({ loss }: { loss: SiteLoss }) {
  const { visit } = usePlace();
  const columns = useMemo<AnyColumn<LossRow>[]>(
    () => [
      {
        head: 'Workload',
        width: 'whitespace-nowrap',
        value: ({ name }) => name,
        cell: ({ id, name }) => (
          <button type="button" className="verb name" onClick={() => visit('/protection', { of: id })}>
            {name}
          </button>
        ),
      },
      { head: 'At work in', kind: 'muted', width: 'whitespace-nowrap', value: ({ at }) => at.join(', ') },
      ...loss.sites.map((site, k): AnyColumn<LossRow> => ({
        head: `Were ${site} lost`,
        value: ({ lost }) => words(lost[k]!),
        className: ({ lost }) =>
          lost[k]!.verdict === 'nothing' ? 'text-red' : lost[k]!.verdict === 'goes-on' ? 'text-ink2' : '',
      })),
    ],
    [loss.sites, visit],
  );
  return <DataTable label="Were a site lost now" rows={loss.rows} keyOf={({ id }) => id} columns={columns} />;
}
