'use client';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useEffectEvent, useId, useRef, useState } from 'react';
import type { SelectableKind } from '@/core/span/chain';
import { focusSibling, focusSideways } from './columns-keys';
import type { Marker } from './use-marker';

export interface ListItem {
  id: string;
  kind: SelectableKind;
}

interface ListboxProps<T extends ListItem> {
  label: string;
  column: number;
  items: readonly T[];
  marker: Marker;
  onSelect: (item: T | null) => void;
  render: (item: T) => React.ReactNode;
  /** What a screen reader hears of a row. */
  describe: (item: T) => string;
  rowHeight: number | ((item: T) => number);
  /** Told which rows are drawn, whenever others are. */
  onSight?: (items: readonly T[]) => void;
  /** Draws only the rows in sight, in a pane of at most this height. */
  maxHeight?: number;
  className?: string;
}

/** Rows of one column: walked with the arrows, selected with Enter or a click. Long ones draw only what is in sight. */
export function Listbox<T extends ListItem>({
  label,
  column,
  items,
  marker,
  onSelect,
  render,
  describe,
  rowHeight,
  onSight,
  maxHeight,
  className = '',
}: ListboxProps<T>) {
  const base = useId();
  const pane = useRef<HTMLDivElement>(null);
  // The row itself is kept, not its place: rows that come and go above it must not put another under the keys.
  const [active, setActive] = useState<{ id: string | null; at: number }>({ id: null, at: 0 });
  const heightOf = (k: number) => (typeof rowHeight === 'number' ? rowHeight : rowHeight(items[k]!));
  // eslint-disable-next-line react-hooks/incompatible-library -- rows are drawn by the virtualizer on purpose
  const virtual = useVirtualizer({
    count: items.length,
    getScrollElement: () => pane.current,
    estimateSize: heightOf,
    overscan: 12,
    getItemKey: (k) => items[k]!.id,
  });
  const whole = maxHeight === undefined;
  const at = placeOf(active, items);
  const activate = (k: number) => setActive({ id: items[k]?.id ?? null, at: k });

  const onFocus = () => {
    const marked = items.findIndex((item) => item.id === marker.selected);
    const next = marked >= 0 ? marked : items.findIndex((item) => marker.on.has(item.id));
    if (next >= 0) {
      activate(next);
      if (!whole) virtual.scrollToIndex(next);
    }
  };
  const onKeyDown = (event: React.KeyboardEvent<HTMLDivElement>) => {
    const move = (next: number) => {
      activate(next);
      if (!whole) virtual.scrollToIndex(next);
      else document.getElementById(`${base}-${next}`)?.scrollIntoView({ block: 'nearest' });
    };
    const keys: Record<string, () => void> = {
      ArrowDown: () => (at < items.length - 1 ? move(at + 1) : void focusSibling(event.currentTarget, 1)),
      ArrowUp: () => (at > 0 ? move(at - 1) : void focusSibling(event.currentTarget, -1)),
      Home: () => move(0),
      End: () => move(items.length - 1),
      PageDown: () => move(Math.min(items.length - 1, at + 12)),
      PageUp: () => move(Math.max(0, at - 12)),
      ArrowRight: () => focusSideways(event.currentTarget, 1),
      ArrowLeft: () => focusSideways(event.currentTarget, -1),
      Enter: () => onSelect(items[at]!),
      ' ': () => onSelect(items[at]!),
    };
    const act = keys[event.key];
    if (!act) return;
    event.preventDefault();
    act();
  };

  const option = (item: T, k: number, style?: React.CSSProperties) => (
    <div
      key={item.id}
      id={`${base}-${k}`}
      role="option"
      aria-label={describe(item)}
      aria-selected={item.id === marker.selected}
      data-selected={item.id === marker.selected || undefined}
      data-node={item.id}
      data-on={marker.on.has(item.id) || undefined}
      data-active={k === at || undefined}
      className="span-item"
      style={style}
      onClick={(event) => {
        event.stopPropagation();
        activate(k);
        onSelect(item.id === marker.selected ? null : item);
      }}
    >
      {render(item)}
    </div>
  );

  const rows = virtual.getVirtualItems();
  const drawn = whole ? items : rows.map(({ index }) => items[index]!);
  const tellSight = useEffectEvent(() => onSight?.(drawn));
  const sight = `${drawn[0]?.id} ${drawn.at(-1)?.id} ${drawn.length}`;
  useEffect(() => tellSight(), [sight]);
  const inSight = whole ? null : visibleRange(pane.current, rows);
  const markedAbove = inSight && marker.selected ? countMarked(items, marker, 0, inSight.from) : 0;
  const markedBelow = inSight && marker.selected ? countMarked(items, marker, inSight.to + 1, items.length) : 0;

  return (
    <div className={`relative ${className}`}>
      {markedAbove > 0 && <EdgeCount where="top" count={markedAbove} />}
      <div
        ref={pane}
        role="listbox"
        aria-label={label}
        aria-activedescendant={items.length > 0 ? `${base}-${at}` : undefined}
        tabIndex={items.length > 0 ? 0 : -1}
        data-column={column}
        className={`listbox ${whole ? '' : 'scroller -mx-[5px] px-[5px]'}`}
        style={whole ? undefined : { maxHeight }}
        onKeyDown={onKeyDown}
        onFocus={onFocus}
      >
        {whole ? (
          items.map((item, k) => option(item, k))
        ) : (
          <div role="presentation" style={{ height: virtual.getTotalSize(), position: 'relative' }}>
            {rows.map((row) =>
              option(items[row.index]!, row.index, {
                position: 'absolute',
                top: row.start,
                left: 0,
                right: 0,
                height: row.size,
              }),
            )}
          </div>
        )}
      </div>
      {markedBelow > 0 && <EdgeCount where="bottom" count={markedBelow} />}
    </div>
  );
}

/** Where the active row stands now; where it stood, if it is gone. */
function placeOf(active: { id: string | null; at: number }, items: readonly ListItem[]): number {
  const at = Math.min(active.at, items.length - 1);
  if (active.id === null || items[at]?.id === active.id) return at;
  const found = items.findIndex(({ id }) => id === active.id);
  return found < 0 ? at : found;
}

function visibleRange(
  pane: HTMLElement | null,
  rows: readonly { index: number; start: number; end: number }[],
): { from: number; to: number } {
  const top = pane?.scrollTop ?? 0;
  const bottom = top + (pane?.clientHeight ?? 0);
  const seen = rows.filter((row) => row.end > top + 4 && row.start < bottom - 4);
  return { from: seen[0]?.index ?? 0, to: seen.at(-1)?.index ?? 0 };
}

function countMarked(items: readonly ListItem[], marker: Marker, from: number, to: number): number {
  let count = 0;
  for (let k = from; k < to; k++) if (marker.on.has(items[k]!.id)) count += 1;
  return count;
}

function EdgeCount({ where, count }: { where: 'top' | 'bottom'; count: number }) {
  return (
    <span
      className={`narrow pointer-events-none absolute right-1 z-10 bg-wash px-1 text-ink ${where === 'top' ? 'top-0' : 'bottom-0'}`}
    >
      {count} {where === 'top' ? 'above' : 'below'}
    </span>
  );
}
