import { notParsed, parsed, type Parsed } from '../units/parsed';

/** Weights and limits closer than this, relatively, are one. */
const CLOSE = 1e-12;

export interface Flow {
  id: string;
  weight: number;
  /** What it may take at the most, and what it asks for; endless without. */
  cap?: number;
  demand?: number;
}

const weightless = (id: string) =>
  notParsed('share-weight-not-positive', `${id} would never get anything; give a weight above 0.`);

/**
 * Shares one link by weights: each gets its weight times θ, but no more than its cap and what it asks for (protect.md H4). `theta` is null when
 * all have what they ask for. Reasons: share-weight-not-positive.
 */
export function shareLink({
  capacity,
  flows,
}: {
  capacity: number;
  flows: readonly Flow[];
}): Parsed<{ alloc: Record<string, number>; theta: number | null }> {
  const light = flows.find((flow) => !(flow.weight > 0));
  if (light) return weightless(light.id);
  const due = flows
    .map((flow) => ({ ...flow, most: Math.min(flow.cap ?? Infinity, flow.demand ?? Infinity) }))
    .sort((a, b) => a.most / a.weight - b.most / b.weight);
  let [left, weight] = [capacity, due.reduce((sum, flow) => sum + flow.weight, 0)];
  const given = new Map<string, number>();
  let theta: number | null = null;
  for (const { id, most, weight: own } of due) {
    if (theta === null && most * weight > left * own * (1 + CLOSE)) theta = Math.max(0, left / weight);
    const got = theta === null ? most : Math.min(most, own * theta);
    given.set(id, got);
    if (theta === null) [left, weight] = [left - got, weight - own];
  }
  return parsed({ alloc: Object.fromEntries(flows.map(({ id }) => [id, given.get(id)!])), theta });
}

export interface RoutedFlow extends Omit<Flow, 'demand'> {
  /** The links on its way, in their order. */
  path: readonly string[];
}

/**
 * Shares several links at once: all grow by their weights until one meets its cap or a link on its way is full (max-min fair, protect.md H4).
 * `boundBy` is `cap` or the first link on its way that was full when it stopped growing. Reasons: share-weight-not-positive, share-link-unknown,
 * share-unbounded.
 */
export function shareNetwork({
  links,
  flows,
}: {
  links: Readonly<Record<string, number>>;
  flows: readonly RoutedFlow[];
}): Parsed<{ alloc: Record<string, number>; boundBy: Record<string, string> }> {
  for (const { id, weight, cap, path } of flows) {
    if (!(weight > 0)) return weightless(id);
    if (path.some((link) => links[link] === undefined))
      return notParsed('share-link-unknown', `${id} uses a link that does not exist.`);
    if (path.length === 0 && (cap ?? Infinity) === Infinity)
      return notParsed('share-unbounded', `${id} has neither link nor cap.`);
  }
  const alloc: Record<string, number> = {};
  const boundBy: Record<string, string> = {};
  let growing = [...flows];
  const left = new Map(Object.entries(links));
  while (growing.length > 0) {
    const weights = new Map<string, number>();
    for (const { weight, path } of growing)
      for (const link of new Set(path)) weights.set(link, (weights.get(link) ?? 0) + weight);
    const levels = new Map([...weights].map(([link, weight]) => [link, Math.max(0, left.get(link)!) / weight]));
    const capped = (flow: RoutedFlow) => (flow.cap ?? Infinity) / flow.weight;
    const theta = Math.min(...levels.values(), ...growing.map(capped));
    const reached = (level: number) => level <= theta * (1 + CLOSE);
    const stopped = (flow: RoutedFlow): string | undefined =>
      reached(capped(flow)) ? 'cap' : flow.path.find((link) => reached(levels.get(link)!));
    const still: RoutedFlow[] = [];
    for (const flow of growing) {
      const bound = stopped(flow);
      if (bound === undefined) {
        still.push(flow);
        continue;
      }
      alloc[flow.id] = bound === 'cap' ? flow.cap! : flow.weight * theta;
      boundBy[flow.id] = bound;
    }
    for (const flow of growing)
      if (alloc[flow.id] !== undefined)
        for (const link of new Set(flow.path)) left.set(link, left.get(link)! - alloc[flow.id]!);
    growing = still;
  }
  return parsed({ alloc, boundBy });
}

/** A segment that a session sends in one piece, bytes (a choice: an Ethernet frame's worth). */
const USUAL_SEGMENT = 1460;

/**
 * What sessions over a line bring through, bytes a second, and what holds them back: the line, their windows over the round trip, or lost
 * segments (Mathis et al., √(3/2p)) (protect.md H4).
 */
export function goodput({
  linkBitsPerS,
  efficiency,
  rttS,
  sessions,
  windowBytes,
  segmentBytes = USUAL_SEGMENT,
  lossFraction = 0,
}: {
  linkBitsPerS: number;
  efficiency: number;
  rttS: number;
  sessions: number;
  windowBytes: number;
  segmentBytes?: number;
  lossFraction?: number;
}): { bytesPerS: number; boundBy: 'link' | 'loss' | 'window' } {
  const perTrip = (bytes: number) => (rttS === 0 ? Infinity : bytes / rttS);
  const limits = [
    ['link', (linkBitsPerS / 8) * efficiency],
    ['loss', lossFraction > 0 ? perTrip(sessions * segmentBytes) * Math.sqrt(1.5 / lossFraction) : Infinity],
    ['window', perTrip(sessions * windowBytes)],
  ] as const;
  const bytesPerS = Math.min(...limits.map(([, limit]) => limit));
  return { bytesPerS, boundBy: limits.find(([, limit]) => limit === bytesPerS)![0] };
}
