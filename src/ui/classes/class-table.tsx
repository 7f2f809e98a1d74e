import { useMemo } from 'react';
import type { ClassRow } from '@/core/service/answers';
import { usePlace } from '../shell/place';
import type { AnyColumn } from '../table/columns';
import { DataTable } from '../table/data-table';

/** Service classes with their rules, who fits, and who fell out. */
export function ClassTable({ classes, pools }: { classes: readonly ClassRow[]; pools: number }) {
  const { open } = usePlace();
  const columns = useMemo<AnyColumn<ClassRow>[]>(
    () => [
      { head: 'Class', value: ({ name }) => name, kind: 'name' },
      { head: 'Rules', value: ({ says }) => says },
      { head: 'Pools', value: ({ fits }) => fits, cell: ({ fits }) => `${fits} of ${pools}`, kind: 'number' },
      { head: 'Volumes', value: ({ volumes }) => volumes.length, kind: 'number' },
      {
        head: 'Left it',
        value: ({ left }) => left.map(({ volume, rule }) => `${volume}: ${rule}`).join('; ') || '–',
        className: ({ left }) => (left.length > 0 ? 'text-red' : 'text-ink2'),
      },
      {
        head: 'Do',
        deeds: (one) => (
          <span className="flex gap-3">
            <button
              type="button"
              className="verb"
              onClick={() => open('class.configure', { class: one.name, rules: one.rules })}
            >
              Change
            </button>
            <button type="button" className="verb" onClick={() => open('class.apply', { class: one.name })}>
              Put on
            </button>
            <button type="button" className="verb" onClick={() => open('class.delete', { class: one.name })}>
              Drop
            </button>
          </span>
        ),
      },
    ],
    [open, pools],
  );
  return (
    <section aria-label="Service classes" className="border-t border-ink px-3 py-2 [&_td]:align-baseline!">
      <h2 className="pb-2 text-[16px] font-[700] [font-stretch:84%]">Service classes</h2>
      {classes.length === 0 ? (
        <p className="text-ink2">None yet: write rules beside, see which pools fit, and make a class of them.</p>
      ) : (
        <DataTable label="Service classes" rows={classes} keyOf={({ id }) => id} columns={columns} />
      )}
    </section>
  );
}
