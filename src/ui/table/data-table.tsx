'use client';
import {
  columnFilteringFeature,
  createFilteredRowModel,
  createSortedRowModel,
  globalFilteringFeature,
  rowSortingFeature,
  tableFeatures,
  useTable,
  type RowData,
} from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useLayoutEffect, useMemo, useRef, useState } from 'react';
import { useParam } from '../shell/place';
import { isDeeds, textOf, textOfRow, type AnyColumn, type Column } from './columns';
import { csvOf, saveFile } from './csv';
import { compareValues, holdsWords, lookFromText, lookToText, parameterOf, type TableLook } from './table-state';
import { TableTools } from './table-tools';

const features = tableFeatures({
  columnFilteringFeature,
  globalFilteringFeature,
  rowSortingFeature,
  filteredRowModel: createFilteredRowModel(),
  sortedRowModel: createSortedRowModel(),
});

/** Beyond so many lines only those near sight are drawn. */
const MOST_LINES = 120;
/** What a line is taken to be high before it was drawn. */
const LINE = 25;
/** The text of the whole line, which words are looked for in. */
const WHOLE_LINE = '$line';

export interface DataTableProps<R extends RowData> {
  /** What it is called: heard by screen readers, in the URL and as the name of its CSV. */
  label: string;
  rows: readonly R[];
  keyOf: (row: R) => string;
  columns: readonly AnyColumn<R>[];
  /** Lines that are marked: the one whose sheet is open. */
  marked?: (row: R) => boolean;
  className?: string;
  /** Stands in a sheet, whose edge its first column keeps away from. */
  inset?: boolean;
}

/**
 * Every table of the interface: ordered by a press on a head, filtered by words, with the columns the reader wants, as long as it likes, taken
 * away as CSV as it is shown. How it is looked at stands in the URL.
 */
export function DataTable<R extends RowData>({
  label,
  rows,
  keyOf,
  columns,
  marked,
  className = '',
  inset = false,
}: DataTableProps<R>) {
  const [text, setText] = useParam(parameterOf(label));
  const heads = useMemo(() => columns.map(({ head }) => head), [columns]);
  const look = useMemo(() => lookFromText(text, heads), [text, heads]);
  const put = (next: Partial<TableLook>) => setText(lookToText({ ...look, ...next }));

  const definitions = useMemo(
    () => [
      { id: WHOLE_LINE, accessorFn: (row: R) => textOfRow(columns, row) },
      ...columns.map((column) => ({
        id: column.head,
        accessorFn: (row: R) => (isDeeds(column) ? undefined : (column.value(row) ?? undefined)),
        sortFn: (
          a: { getValue: (id: string) => unknown },
          b: { getValue: (id: string) => unknown },
          id: string,
        ): number => compareValues(a.getValue(id), b.getValue(id)),
        sortUndefined: 'last' as const,
      })),
    ],
    [columns],
  );
  const data = rows as R[];
  const table = useTable({
    features,
    data,
    columns: definitions,
    getRowId: keyOf,
    getColumnCanGlobalFilter: ({ id }) => id === WHOLE_LINE,
    globalFilterFn: (row, id, words: string) => holdsWords(row.getValue(id), words),
    state: {
      sorting: look.sort ? [{ id: look.sort.column, desc: look.sort.down }] : [],
      globalFilter: look.find,
      columnFilters: [],
    },
  });
  const shown = columns.filter(({ head }) => !look.hidden.includes(head));
  const lines = table.getRowModel().rows.map(({ id, original }) => ({ id, row: original }));

  const press = (head: string) => {
    const { sort } = look;
    if (sort?.column !== head) return put({ sort: { column: head, down: false } });
    put({ sort: sort.down ? null : { column: head, down: true } });
  };
  return (
    <div className={`table-frame ${inset ? 'inset' : ''}`}>
      <TableTools
        label={label}
        all={rows.length}
        found={lines.length}
        columns={columns}
        look={look}
        onLook={put}
        onSave={() =>
          saveFile(
            csvOf(
              shown,
              lines.map(({ row }) => row),
            ),
            `${parameterOf(label).slice('table-'.length)}.csv`,
            'text/csv',
          )
        }
      />
      <table className={`table ${className}`} aria-label={label}>
        <thead>
          <tr>
            {shown.map((column) => (
              <Head key={column.head} column={column} sort={look.sort} onPress={() => press(column.head)} />
            ))}
          </tr>
        </thead>
        <Lines lines={lines} columns={shown} marked={marked} />
      </table>
      {rows.length > 0 && lines.length === 0 && (
        <p className="py-1 text-ink2">
          No line holds “{look.find}”.{' '}
          <button type="button" className="verb" onClick={() => put({ find: '' })}>
            Show all {rows.length}
          </button>
        </p>
      )}
    </div>
  );
}

function Head<R>({ column, sort, onPress }: { column: AnyColumn<R>; sort: TableLook['sort']; onPress: () => void }) {
  if (isDeeds(column)) return column.seen ? <th>{column.head}</th> : <th aria-label={column.head} />;
  const sorted = sort?.column === column.head ? sort : null;
  return (
    <th
      className={`${column.kind === 'number' ? 'right' : ''} ${column.width ?? ''}`}
      aria-sort={sorted ? (sorted.down ? 'descending' : 'ascending') : undefined}
    >
      <button type="button" className="sort" title={`Order by ${column.head}`} onClick={onPress}>
        {column.silent ? <span className="sr-only">{column.head}</span> : column.head}
        <span aria-hidden="true" className="w-0 overflow-visible">
          {sorted ? (sorted.down ? '▾' : '▴') : ''}
        </span>
      </button>
    </th>
  );
}

interface Line<R> {
  id: string;
  row: R;
}

function Lines<R>({
  lines,
  columns,
  marked,
}: {
  lines: readonly Line<R>[];
  columns: readonly AnyColumn<R>[];
  marked: ((row: R) => boolean) | undefined;
}) {
  const body = useRef<HTMLTableSectionElement>(null);
  const [margin, setMargin] = useState(0);
  const sparing = lines.length > MOST_LINES;
  const pane = () => body.current?.closest<HTMLElement>('.scroller') ?? null;
  // eslint-disable-next-line react-hooks/incompatible-library -- lines are drawn by the virtualizer on purpose
  const virtual = useVirtualizer({
    count: sparing ? lines.length : 0,
    getScrollElement: pane,
    estimateSize: () => LINE,
    getItemKey: (k) => lines[k]!.id,
    overscan: 20,
    scrollMargin: margin,
  });
  useLayoutEffect(() => {
    const frame = pane();
    if (!sparing || !frame || !body.current) return;
    setMargin(body.current.getBoundingClientRect().top - frame.getBoundingClientRect().top + frame.scrollTop);
  }, [sparing]);

  const near = virtual.getVirtualItems();
  const drawn = sparing ? near.map(({ index }) => index) : lines.map((_, k) => k);
  const above = sparing ? (near[0]?.start ?? margin) - margin : 0;
  const below = sparing ? virtual.getTotalSize() + margin - (near.at(-1)?.end ?? margin) : 0;
  return (
    <tbody ref={body} onKeyDown={(event) => walk(event, (k) => virtual.scrollToIndex(k))}>
      {above > 0 && <Gap height={above} span={columns.length} />}
      {drawn.map((k) => {
        const { id, row } = lines[k]!;
        return (
          <tr
            key={id}
            ref={sparing ? virtual.measureElement : undefined}
            data-index={k}
            tabIndex={k === drawn[0] ? 0 : -1}
            className={marked?.(row) ? 'bg-wash' : ''}
          >
            {columns.map((column) =>
              isDeeds(column) ? (
                <td key={column.head} className="whitespace-nowrap">
                  {column.deeds(row)}
                </td>
              ) : (
                <Cell key={column.head} column={column} row={row} />
              ),
            )}
          </tr>
        );
      })}
      {below > 0 && <Gap height={below} span={columns.length} />}
    </tbody>
  );
}

/** The room of lines that are not drawn. */
const Gap = ({ height, span }: { height: number; span: number }) => (
  <tr aria-hidden="true" style={{ height }}>
    <td colSpan={span} className="border-0! p-0!" />
  </tr>
);

const kindClasses: Record<NonNullable<Column<unknown>['kind']>, string> = {
  text: '',
  name: 'name',
  number: 'num right',
  mono: 'mono',
  muted: 'text-ink2',
};

function Cell<R>({ column, row }: { column: Column<R>; row: R }) {
  const { className = '', kind = 'text', width = '' } = column;
  const own = typeof className === 'string' ? className : className(row);
  return (
    <td className={`${kindClasses[kind]} ${width} ${own}`} title={column.title?.(row)}>
      {column.cell ? column.cell(row) : textOf(column.value(row))}
    </td>
  );
}

/** From line to line by the arrows; Enter does the first thing that can be done with one. */
function walk(event: React.KeyboardEvent<HTMLElement>, scrollTo: (k: number) => void): void {
  const line = event.target;
  if (!(line instanceof HTMLTableRowElement)) return;
  const lines = [...event.currentTarget.querySelectorAll<HTMLElement>('tr[data-index]')];
  const at = lines.indexOf(line);
  const steps: Record<string, HTMLElement | undefined> = {
    ArrowDown: lines[at + 1],
    ArrowUp: lines[at - 1],
    Home: lines[0],
    End: lines.at(-1),
  };
  if (event.key === 'Enter') {
    event.preventDefault();
    return line.querySelector<HTMLElement>('button, a')?.click();
  }
  if (!(event.key in steps)) return;
  event.preventDefault();
  const next = steps[event.key];
  if (!next) return;
  scrollTo(Number(next.dataset.index));
  next.focus();
}
