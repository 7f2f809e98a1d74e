'use client';
import { useQuery } from '@tanstack/react-query';
import type { FabricModel } from '@/core/trace/matrix';
import { memberText } from '@/core/fabric/member';
import type { ZoneDifference } from '@/core/fabric/compare';
import { api } from '../api/client';
import { usePlace } from '../shell/place';
import type { Column } from '../table/columns';
import { DataTable } from '../table/data-table';
import { SheetFrame } from '../sheet/sheet-frame';

const words: Record<ZoneDifference['what'], string> = {
  added: 'comes',
  removed: 'goes',
  changed: 'changes',
};
const signs: Record<ZoneDifference['what'], string> = { added: '+', removed: '−', changed: '±' };

/** What activating the defined zone set would change in the one that is active, member by member. */
export function CompareSheet({ fabric }: { fabric: string }) {
  const { open } = usePlace();
  const { data } = useQuery({ queryKey: ['fabric'], queryFn: () => api.fabric() });
  const found = data?.items.find((one) => one.name === fabric);
  return (
    <SheetFrame
      title="Defined against active"
      line={`fabric ${fabric}`}
      foot={
        found?.zoneSet &&
        found.waiting.length > 0 && (
          <div className="flex items-center gap-3">
            <span className="flex-1 text-ink2">One fabric at a time: the paths over the other stay meanwhile.</span>
            <button
              type="button"
              className="btn solid"
              onClick={() => open('zone-set.activate', { fabric, zoneSet: found.zoneSet })}
            >
              Activate {found.zoneSet}
            </button>
          </div>
        )
      }
    >
      {data && !found && <p className="px-4 py-2">There is no fabric {fabric}.</p>}
      {found && (
        <p className="border-b border-rule px-4 py-2" role="status">
          {found.waiting.length === 0
            ? `What is defined in ${found.zoneSet ?? 'no set'} is what the switches enforce.`
            : `${found.waiting.length} ${found.waiting.length === 1 ? 'zone differs' : 'zones differ'} between ${found.zoneSet} as it is defined and as it is active.`}
        </p>
      )}
      {found && found.waiting.length > 0 && (
        <DataTable label="Differences" rows={found.waiting} keyOf={({ name }) => name} columns={columns} inset />
      )}
    </SheetFrame>
  );
}

/** Principals of peer zones are told apart. */
const text = (member: string): string =>
  member.startsWith('principal ') ? `principal ${memberText(member.slice(10))}` : memberText(member);

const columns: Column<FabricModel['waiting'][number]>[] = [
  { head: 'Zone', kind: 'name', value: ({ name }) => name },
  { head: 'What', width: 'whitespace-nowrap', value: ({ what }) => `${signs[what]} ${words[what]}` },
  {
    head: 'Members that come',
    kind: 'mono',
    className: 'text-[11px]',
    value: ({ comes }) => comes.map(text).join(', ') || '–',
  },
  {
    head: 'Members that go',
    kind: 'mono',
    className: 'text-[11px]',
    value: ({ goes }) => goes.map(text).join(', ') || '–',
  },
];
