'use client';

const lists = (column: number): HTMLElement[] => [
  ...document.querySelectorAll<HTMLElement>(`[data-column="${column}"][role=listbox]`),
];

/** Puts the focus on a column: on the list that holds something marked, else on its first. */
export function focusColumn(column: number): boolean {
  const found = lists(column);
  const list = found.find((one) => one.querySelector('[data-on]')) ?? found[0];
  list?.focus();
  return list !== undefined;
}

/** Steps from a list to the next or previous one of the same column. */
export function focusSibling(list: HTMLElement, step: 1 | -1): boolean {
  const all = lists(Number(list.dataset.column));
  const next = all[all.indexOf(list) + step];
  next?.focus();
  return next !== undefined;
}

/** Steps sideways to the nearest column that has a list. */
export function focusSideways(list: HTMLElement, step: 1 | -1): void {
  for (let column = Number(list.dataset.column) + step; column >= 1 && column <= 7; column += step)
    if (focusColumn(column)) return;
}
