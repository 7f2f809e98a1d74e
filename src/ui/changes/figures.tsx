'use client';
import type { Figure } from '@/core/change/preview';
import { kindWords, type Kind } from '@/core/estate/entities';
import type { Column } from '../table/columns';
import { DataTable } from '../table/data-table';

const columns: Column<Figure>[] = [
  {
    head: 'What',
    value: ({ subject }) =>
      subject.name === 'Estate' ? 'Estate' : `${subject.name} ${kindWords[subject.kind as Kind]}`,
    cell: ({ subject }) =>
      subject.name === 'Estate' ? (
        'Estate'
      ) : (
        <>
          <span className="name">{subject.name}</span>{' '}
          <span className="narrow text-ink2">{kindWords[subject.kind as Kind]}</span>
        </>
      ),
  },
  { head: 'Figure', value: ({ label }) => label },
  { head: 'Before', kind: 'number', className: 'text-ink2', value: ({ before }) => before ?? '–' },
  {
    head: 'After',
    kind: 'number',
    value: ({ after }) => after ?? '–',
    cell: ({ after }) => <b>{after ?? '–'}</b>,
  },
];

/** Figures that move, before and after. */
export function Figures({ figures, caption = 'Before and after' }: { figures: readonly Figure[]; caption?: string }) {
  if (figures.length === 0) return null;
  return (
    <>
      <h2 className="caps pt-4 pb-1">{caption}</h2>
      <DataTable
        label={caption}
        rows={figures}
        keyOf={({ subject, label }) => `${subject.kind} ${subject.name} ${label}`}
        columns={columns}
      />
    </>
  );
}
