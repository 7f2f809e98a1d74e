'use client';
import { useQuery } from '@tanstack/react-query';
import { api } from '../api/client';
import { ChangeSheet } from '../changes/change-sheet';
import { LabSheet } from '../lab/lab-sheet';
import { CompareSheet } from '../fabric/compare-sheet';
import { MergeSheet } from '../fabric/merge-sheet';
import { HostSheet } from '../host/host-sheet';
import { LoginSheet } from '../host/login-sheet';
import { TraceSheet } from '../trace/trace-sheet';
import { WhatIfSheet } from '../whatif/what-if-sheet';
import type { FormSpec } from '@/core/operation/form';
import { usePlace } from '../shell/place';
import { VisibleColumns } from '../span/visible-columns';
import { ChangeFileSheet } from './change-file-sheet';
import { calendarList, hostList, ListImportSheet, traceList, zoningList } from './list-import-sheet';
import { OperationSheet } from './operation-sheet';
import { Beside, SheetFrame } from './sheet-frame';

/** The view, and beside it the sheet that the URL names. The view stays the same one whatever stands beside it. */
export function SheetHost({ children }: { children: React.ReactNode }) {
  const { sheet, given } = usePlace();
  // What can be done, and how each is filled in, does not change while the page is open.
  const operations = useQuery({ queryKey: ['operations'], queryFn: api.operations, staleTime: Infinity });
  const spec = operations.data?.items.find(({ kind }) => kind === sheet)?.form;
  return (
    <Beside
      view={<VisibleColumns.Provider value={columnsOf(spec)}>{children}</VisibleColumns.Provider>}
      wide={spec?.lens !== undefined}
      sheet={sheet !== null && <Sheet sheet={sheet} given={given} spec={spec} asking={operations.isPending} />}
    />
  );
}

/** Columns of the Span that the operation is about; one that draws for itself leaves all. */
const columnsOf = (spec: FormSpec | undefined): readonly number[] | null =>
  spec && spec.columns.length > 0 ? spec.columns : null;

function Sheet({
  sheet,
  given,
  spec,
  asking,
}: {
  sheet: string;
  given: Record<string, unknown>;
  spec: FormSpec | undefined;
  asking: boolean;
}) {
  const id = typeof given.id === 'string' ? given.id : '';
  const text = (name: string): string => (typeof given[name] === 'string' ? given[name] : '');
  if (spec) return <OperationSheet key={`${sheet} ${JSON.stringify(given)}`} kind={sheet} spec={spec} given={given} />;
  if (sheet === 'change' && id) return <ChangeSheet key={id} id={id} />;
  const own = ownSheet(sheet, text, given);
  if (own) return own;
  if (asking) return <SheetFrame title=" ">{null}</SheetFrame>;
  return (
    <SheetFrame title="No such sheet">
      <p className="px-4 py-3">Nothing is called {sheet}. Press / and type what you want to do.</p>
    </SheetFrame>
  );
}

/** Sheets that are no operation. */
function ownSheet(
  sheet: string,
  text: (name: string) => string,
  given: Record<string, unknown>,
): React.ReactNode | null {
  switch (sheet) {
    case 'trace':
      return <TraceSheet host={text('host')} volume={text('volume')} />;
    case 'what-if':
      return <WhatIfSheet failed={Array.isArray(given.failed) ? (given.failed as string[]) : []} />;
    case 'host':
      return <HostSheet key={text('host')} host={text('host')} />;
    case 'login':
      return (
        <LoginSheet key={JSON.stringify(given)} host={text('host')} array={text('array')} target={text('target')} />
      );
    case 'compare':
      return <CompareSheet fabric={text('fabric')} />;
    case 'merge':
      return <MergeSheet given={given} />;
    case 'lab':
      return <LabSheet />;
    case 'hosts':
      return <ListImportSheet key="hosts" kind={hostList} />;
    case 'zoning-file':
      return <ListImportSheet key="zoning" kind={zoningList} />;
    case 'io-trace':
      return <ListImportSheet key="io-trace" kind={traceList} />;
    case 'calendar':
      return <ListImportSheet key="calendar" kind={calendarList} />;
    case 'file':
      return <ChangeFileSheet />;
    default:
      return null;
  }
}
