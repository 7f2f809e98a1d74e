import Papa from 'papaparse';
import { saying, type AnyColumn } from './columns';

/** The lines as they are shown, with the columns that are shown. Figures are written as numbers, not as words. */
export const csvOf = <R>(columns: readonly AnyColumn<R>[], rows: readonly R[]): string => {
  const written = saying(columns);
  return Papa.unparse(
    {
      fields: written.map(({ head, unit }) => (unit ? `${head}, ${unit}` : head)),
      data: rows.map((row) => written.map((column) => column.value(row) ?? '')),
    },
    { escapeFormulae: true },
  );
};

/** Hands a text to the reader as a file. */
export function saveFile(text: string, name: string, type: string): void {
  const address = URL.createObjectURL(new Blob([text], { type }));
  const link = document.createElement('a');
  link.href = address;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(address), 0);
}
