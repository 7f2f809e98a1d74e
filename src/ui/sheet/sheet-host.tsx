'use client';
import { ChangeSheet } from '../changes/change-sheet';
import { LabSheet } from '../lab/lab-sheet';
import { TraceSheet } from '../trace/trace-sheet';
import { usePlace } from '../shell/place';
import { ChangeFileSheet } from './change-file-sheet';
import { formSpecs } from './form-specs';
import { HostImportSheet } from './host-import-sheet';
import { OperationSheet } from './operation-sheet';
import { Beside, SheetFrame } from './sheet-frame';

/** The view, and beside it the sheet that the URL names. */
export function SheetHost({ children }: { children: React.ReactNode }) {
  const { sheet, given } = usePlace();
  if (sheet === null) return <Beside view={children} />;
  const id = typeof given.id === 'string' ? given.id : '';
  const spec = formSpecs[sheet];
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
  if (sheet === 'trace')
    return (
      <Beside
        view={children}
        sheet={
          <TraceSheet
            host={typeof given.host === 'string' ? given.host : ''}
            volume={typeof given.volume === 'string' ? given.volume : ''}
          />
        }
      />
    );
  if (sheet === 'lab') return <Beside view={children} sheet={<LabSheet />} />;
  if (sheet === 'hosts') return <Beside view={children} sheet={<HostImportSheet />} />;
  if (sheet === 'file') return <Beside view={children} sheet={<ChangeFileSheet />} />;
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
