'use client';
import { useMemo } from 'react';
import type { FabricModel } from '@/core/trace/matrix';
import { StatePost } from '../look/post';
import { usePlace } from '../shell/place';
import type { Column } from '../table/columns';
import { DataTable } from '../table/data-table';

/** Defined zones against the active ones, what waits for activation, and what the audit finds. */
export function ZoneLists({ fabric }: { fabric: FabricModel }) {
  const { open, openStep } = usePlace();
  const columns = useMemo(
    (): Column<FabricModel['zones'][number]>[] => [
      {
        head: 'Zone',
        value: ({ name }) => name,
        cell: ({ name }) => (
          <button type="button" className="verb" onClick={() => open('zone.configure', { fabric: fabric.name, name })}>
            {name}
          </button>
        ),
      },
      { head: 'Members', className: 'narrow', value: ({ members }) => members.join(', ') },
      {
        head: 'Logged in',
        kind: 'number',
        value: ({ present, members }) => `${present}/${members.length}`,
        className: ({ present, members }) => (present < members.length ? 'text-red' : ''),
      },
      { head: 'State', value: ({ active }) => (active ? 'active' : 'defined only') },
    ],
    [fabric.name, open],
  );
  return (
    <div className="grid grid-cols-[repeat(auto-fit,minmax(440px,1fr))] gap-x-6 gap-y-2 pt-1">
      <DataTable
        label={`Zones of fabric ${fabric.name}`}
        rows={fabric.zones}
        keyOf={({ name }) => name}
        columns={columns}
        className="[&_td]:align-middle!"
      />
      <div>
        <h3 className="caps flex items-baseline gap-3 pt-1">
          Not active yet
          {fabric.waiting.length > 0 && (
            <button
              type="button"
              className="verb tracking-normal normal-case"
              onClick={() => open('compare', { fabric: fabric.name })}
            >
              Compare<span className="sr-only"> what is defined in fabric {fabric.name} with what is active</span>
            </button>
          )}
        </h3>
        {fabric.waiting.length === 0 && <p className="text-ink2">What is defined is what is enforced.</p>}
        <ul>
          {fabric.waiting.map((one) => (
            <li key={one.name}>
              <b className="font-[640]">{one.name}</b> {one.what}
              {one.comes.length > 0 && <span className="narrow"> +{one.comes.length}</span>}
              {one.goes.length > 0 && <span className="narrow"> −{one.goes.length}</span>}
            </li>
          ))}
        </ul>
        <h3 className="caps pt-3">Audit</h3>
        {fabric.audit.length === 0 && <p className="text-ink2">Nothing to mend.</p>}
        <ul>
          {fabric.audit.map((line) => (
            <li key={`${line.kind} ${line.subject.id} ${line.says}`} className="flex items-baseline gap-2">
              <span className="translate-y-[2px]">
                <StatePost post="leans" />
              </span>
              <span className="flex-1">{line.says}</span>
              {line.mend && (
                <button type="button" className="verb" onClick={() => openStep(line.mend!)}>
                  {line.mend.label}
                  <span className="sr-only"> {line.subject.name}</span>
                </button>
              )}
            </li>
          ))}
        </ul>
      </div>
    </div>
  );
}
