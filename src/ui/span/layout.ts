/** The seven columns of the Span with their heads; widths are shares, gutters in pixels. */
export const spanColumns = [
  { n: 1, label: 'Drives', min: 150 },
  { n: 2, label: 'RAID groups', min: 142 },
  { n: 3, label: 'Pools', min: 156 },
  { n: 4, label: 'Volumes', min: 262 },
  { n: 5, label: 'Array ports', min: 104 },
  { n: 6, label: 'Networks', min: 112 },
  { n: 7, label: 'Hosts', min: 152 },
] as const;

/** Gutter behind each column. */
const gutters = [16, 18, 22, 28, 38, 36, 0];

/** `grid-template-columns` for the columns in sight; every column is followed by its gutter. */
export function gridTemplate(visible: readonly number[]): string {
  return visible
    .map((n, k) => {
      const column = spanColumns[n - 1]!;
      const gutter = k === visible.length - 1 ? '' : ` ${gutters[n - 1]}px`;
      return `minmax(${column.min}px, ${column.min}fr)${gutter}`;
    })
    .join(' ');
}

/** Grid line at which a column begins: columns and gutters alternate. */
export const gridColumn = (visible: readonly number[], n: number): number => visible.indexOf(n) * 2 + 1;

/** Fewer columns where the pane is narrow: drives and RAID groups fold first. */
export function columnsFor(width: number, wanted: readonly number[] | null): readonly number[] {
  const all = [1, 2, 3, 4, 5, 6, 7];
  const columns = wanted ?? all;
  const room = (list: readonly number[]) =>
    list.reduce((sum, n) => sum + spanColumns[n - 1]!.min + gutters[n - 1]!, 28) <= width;
  let shown = columns;
  for (const fold of [1, 2, 6, 3, 5]) {
    if (room(shown)) break;
    shown = shown.filter((n) => n !== fold);
  }
  return shown;
}
