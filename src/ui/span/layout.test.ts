import { columnsFor, gridColumn, gridTemplate, spanColumns } from './layout';

test('all seven columns fit at 1280, and narrow panes fold drives and RAID groups first', () => {
  expect(columnsFor(1280, null)).toEqual([1, 2, 3, 4, 5, 6, 7]);
  expect(columnsFor(1100, null)).toEqual([2, 3, 4, 5, 6, 7]);
  expect(columnsFor(960, null)).toEqual([3, 4, 5, 6, 7]);
});

test('a sheet says which columns stay; volumes and hosts never fold', () => {
  expect(columnsFor(690, [2, 3, 4])).toEqual([2, 3, 4]);
  expect(columnsFor(300, [4, 5, 6, 7])).toEqual([4, 7]);
});

test('columns and gutters alternate', () => {
  const visible = [3, 4, 7];
  expect(gridTemplate(visible).match(/minmax/g)).toHaveLength(3);
  expect(gridTemplate(visible)).toMatch(/^minmax\(\d+px, \d+fr\) \d+px minmax/);
  expect(visible.map((n) => gridColumn(visible, n))).toEqual([1, 3, 5]);
  expect(spanColumns.map((column) => column.n)).toEqual([1, 2, 3, 4, 5, 6, 7]);
});
