import type { Rectangle } from './weave';

/** One holder's rectangles of a template. */
export interface Holding {
  holder: string;
  rectangles: readonly Rectangle[];
}

/** A part of a template that is stored once, and who refers to it, in the order in which they were given. */
export interface SharedPart extends Rectangle {
  holders: readonly string[];
}

/**
 * Cuts the rectangles of several holders into parts that each lie under the same holders: a sweep over the weaves, and in every stretch over
 * the places. Parts do not overlap, and together they cover what the holders cover.
 */
export function sharedParts(holdings: readonly Holding[]): SharedPart[] {
  const events: { at: number; opens: boolean; order: number; rectangle: Rectangle }[] = [];
  holdings.forEach(({ rectangles }, order) => {
    for (const rectangle of rectangles) {
      events.push({ at: rectangle.from, opens: true, order, rectangle });
      events.push({ at: rectangle.to, opens: false, order, rectangle });
    }
  });
  events.sort((a, b) => a.at - b.at);
  const open = new Map<Rectangle, number>();
  const parts: SharedPart[] = [];
  let last = 0;
  for (let k = 0; k < events.length;) {
    const at = events[k]!.at;
    if (at > last && open.size > 0) addStretch(parts, open, holdings, last, at);
    for (; k < events.length && events[k]!.at === at; k++) {
      const event = events[k]!;
      if (event.opens) open.set(event.rectangle, event.order);
      else open.delete(event.rectangle);
    }
    last = at;
  }
  return parts;
}

function addStretch(
  parts: SharedPart[],
  open: ReadonlyMap<Rectangle, number>,
  holdings: readonly Holding[],
  from: number,
  to: number,
): void {
  const borders = [...new Set([...open.keys()].flatMap(({ low, high }) => [low, high]))].sort((a, b) => a - b);
  for (let k = 0; k + 1 < borders.length; k++) {
    const [low, high] = [borders[k]!, borders[k + 1]!];
    const orders = new Set<number>();
    for (const [rectangle, order] of open) if (rectangle.low <= low && rectangle.high >= high) orders.add(order);
    if (orders.size === 0) continue;
    const holders = [...orders].sort((a, b) => a - b).map((order) => holdings[order]!.holder);
    parts.push({ from, to, low, high, holders });
  }
}

export const pagesIn = ({ from, to, low, high }: Rectangle): number => (to - from) * (high - low);
