import type { Rectangle } from './weave';

/** One holder's rectangles of a template. */
export interface Holding {
  rectangles: readonly Rectangle[];
}

/** A part of a template that is stored once, and who refers to it, in the order in which they were given. */
export interface SharedPart extends Rectangle {
  /** Places of the holders in the list given. */
  holders: readonly number[];
}

/**
 * Cuts the rectangles of several holders into parts that each lie under the same holders: a sweep over the weaves, and in every stretch over
 * the places. Parts do not overlap, and together they cover what the holders cover.
 */
export function sharedParts(holdings: readonly Holding[]): SharedPart[] {
  const events: { at: number; opens: boolean; open: Open }[] = [];
  holdings.forEach(({ rectangles }, order) => {
    for (const rectangle of rectangles) {
      const open = { order, rectangle };
      events.push({ at: rectangle.from, opens: true, open }, { at: rectangle.to, opens: false, open });
    }
  });
  events.sort((a, b) => a.at - b.at);
  /** In the order of their holders. */
  const open: Open[] = [];
  const parts: SharedPart[] = [];
  let last = 0;
  for (let k = 0; k < events.length;) {
    const at = events[k]!.at;
    if (at > last && open.length > 0) addStretch(parts, open, last, at);
    for (; k < events.length && events[k]!.at === at; k++) {
      const event = events[k]!;
      if (event.opens) open.splice(placeFor(open, event.open.order), 0, event.open);
      else open.splice(open.indexOf(event.open), 1);
    }
    last = at;
  }
  return parts;
}

interface Open {
  order: number;
  rectangle: Rectangle;
}

function placeFor(open: readonly Open[], order: number): number {
  let low = 0;
  let high = open.length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (open[middle]!.order < order) low = middle + 1;
    else high = middle;
  }
  return low;
}

function addStretch(parts: SharedPart[], open: readonly Open[], from: number, to: number): void {
  const { low: lowest, high: highest } = open[0]!.rectangle;
  // Sisters of one family hold the same places, as a rule.
  if (open.every(({ rectangle }) => rectangle.low === lowest && rectangle.high === highest)) {
    parts.push({ from, to, low: lowest, high: highest, holders: holdersOf(open) });
    return;
  }
  const borders = [...new Set(open.flatMap(({ rectangle }) => [rectangle.low, rectangle.high]))].sort((a, b) => a - b);
  for (let k = 0; k + 1 < borders.length; k++) {
    const [low, high] = [borders[k]!, borders[k + 1]!];
    const here = open.filter(({ rectangle }) => rectangle.low <= low && rectangle.high >= high);
    if (here.length > 0) parts.push({ from, to, low, high, holders: holdersOf(here) });
  }
}

/** Each holder once; the list is in their order. */
function holdersOf(open: readonly Open[]): number[] {
  const holders: number[] = [];
  let last = -1;
  for (const { order } of open)
    if (order !== last) {
      holders.push(order);
      last = order;
    }
  return holders;
}

export const pagesIn = ({ from, to, low, high }: Rectangle): number => (to - from) * (high - low);
