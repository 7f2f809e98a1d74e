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
import { usePlace } from '../shell/place';
import { ChangeFileSheet } from './change-file-sheet';
import { hostList, ListImportSheet, zoningList } from './list-import-sheet';
import { OperationSheet } from './operation-sheet';
import { Beside, SheetFrame } from './sheet-frame';

/** The view, and beside it the sheet that the URL names. */
export function SheetHost({ children }: { children: React.ReactNode }) {
  const { sheet, given } = usePlace();
  // What can be done, and how each is filled in, does not change while the page is open.
  const operations = useQuery({ queryKey: ['operations'], queryFn: api.operations, staleTime: Infinity });
  if (sheet === null) return <Beside view={children} />;
  const id = typeof given.id === 'string' ? given.id : '';
  const spec = operations.data?.items.find(({ kind }) => kind === sheet)?.form;
  if (spec)
    return (
      <OperationSheet
        key={`${sheet} ${JSON.stringify(given)}`}
        kind={sheet}
        spec={spec}
        given={given}
        view={children}
      />
    );
  if (sheet === 'change' && id) return <Beside view={children} sheet={<ChangeSheet key={id} id={id} />} />;
  const text = (name: string): string => (typeof given[name] === 'string' ? given[name] : '');
  const own = ownSheet(sheet, text, given);
  if (own) return <Beside view={children} sheet={own} />;
  if (!operations.data && !operations.error)
    return <Beside view={children} sheet={<SheetFrame title=" ">{null}</SheetFrame>} />;
  return (
    <Beside
      view={children}
      sheet={
        <SheetFrame title="No such sheet">
          <p className="px-4 py-3">Nothing is called {sheet}. Press / and type what you want to do.</p>
        </SheetFrame>
      }
    />
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
    case 'file':
      return <ChangeFileSheet />;
    default:
      return null;
  }
}
