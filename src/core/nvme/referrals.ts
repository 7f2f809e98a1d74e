/** Where a discovery service answers: transport address and TCP port. */
export interface DiscoveryService {
  address: string;
  service: number;
}

/** A discovery log page (70h) as it is read: what may be connected to, and what other services it refers to (subtype 1). */
export interface LogPage<Entry> {
  /** Generation counter: another number means that the page changed. */
  generation: number;
  entries: readonly Entry[];
  referrals: readonly DiscoveryService[];
}

export interface Walk<Entry> {
  entries: Entry[];
  /** Services in the order in which they were asked, and which one referred to them; null for where it began. */
  asked: { at: DiscoveryService; by: DiscoveryService | null; depth: number }[];
  /** Referrals that lead back to a service that leads to them, and those deeper than is followed. */
  loops: { from: DiscoveryService; to: DiscoveryService }[];
  tooDeep: { from: DiscoveryService; to: DiscoveryService }[];
  /** Services that do not answer. */
  silent: DiscoveryService[];
}

/** So deep are referrals followed. */
export const REFERRAL_DEPTH = 8;
/** A page that keeps changing is taken as it is after so many readings. */
const READINGS = 8;

export const serviceText = ({ address, service }: DiscoveryService): string =>
  address.includes(':') ? `[${address}]:${service}` : `${address}:${service}`;

/** Reads a page again until two readings in a row carry the same generation. */
function steadyPage<Entry>(read: () => LogPage<Entry> | null): LogPage<Entry> | null {
  let page = read();
  for (let k = 1; page !== null && k < READINGS; k++) {
    const again = read();
    if (again === null || again.generation === page.generation) return again;
    page = again;
  }
  return page;
}

/**
 * Follows referrals breadth first from the given services, each asked once, down to a depth (NVM Express, discovery; the depth is our choice).
 * A referral that leads in a circle, or too deep, is told and not followed; it is no failure.
 */
export function walkDiscovery<Entry>(
  from: readonly DiscoveryService[],
  read: (service: DiscoveryService) => LogPage<Entry> | null,
  depth = REFERRAL_DEPTH,
): Walk<Entry> {
  const walk: Walk<Entry> = { entries: [], asked: [], loops: [], tooDeep: [], silent: [] };
  const refers = new Map<string, DiscoveryService[]>();
  const queue: Walk<Entry>['asked'] = from.map((at) => ({ at, by: null, depth: 0 }));
  const known = new Set<string>();
  const cut: Walk<Entry>['tooDeep'] = [];
  for (const next of queue) {
    const key = serviceText(next.at);
    if (known.has(key)) continue;
    if (next.depth > depth) {
      cut.push({ from: next.by!, to: next.at });
      continue;
    }
    known.add(key);
    walk.asked.push(next);
    const page = steadyPage(() => read(next.at));
    if (page === null) {
      walk.silent.push(next.at);
      continue;
    }
    walk.entries.push(...page.entries);
    refers.set(key, [...page.referrals]);
    queue.push(...page.referrals.map((at) => ({ at, by: next.at, depth: next.depth + 1 })));
  }
  // A service may be reached by a shorter way as well: then it was not too deep.
  walk.tooDeep = cut.filter(({ to }) => !known.has(serviceText(to)));
  for (const { at } of walk.asked)
    for (const to of refers.get(serviceText(at)) ?? []) if (leadsTo(refers, to, at)) walk.loops.push({ from: at, to });
  return walk;
}

/** Whether referrals lead from one service to another, over however many. */
function leadsTo(
  refers: ReadonlyMap<string, DiscoveryService[]>,
  from: DiscoveryService,
  to: DiscoveryService,
): boolean {
  const goal = serviceText(to);
  const seen = new Set<string>();
  const left = [serviceText(from)];
  for (let key = left.pop(); key !== undefined; key = left.pop()) {
    if (key === goal) return true;
    if (seen.has(key)) continue;
    seen.add(key);
    left.push(...(refers.get(key) ?? []).map(serviceText));
  }
  return false;
}
