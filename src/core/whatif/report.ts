import type { EstateView } from '../estate/estate';
import { criticalBook } from './critical';
import { classWords, componentsOf, listed, type Component } from './components';
import { outage, type Outage } from './outage';
import { pairFinder, spofFinder } from './spof';

/** Single points of failure of a host and a volume, by name. */
export interface SpofLine {
  host: string;
  volume: string;
  array: string;
  state: 'ok' | 'no-path';
  design: Component[];
  inherent: Component[];
  important: boolean;
}

/** Two components whose failure together ends paths that survive either alone. */
export interface PairLine {
  components: [Component, Component];
  /** Host–volume pairs that lose every path. */
  cuts: number;
  /** Some of the hosts. */
  hosts: string[];
}

export interface WhatIf {
  components: Component[];
  outage: Outage;
  spofs: SpofLine[];
  pairs: PairLine[];
}

/** Pairs of parts of one host are that host's matter alone: only what hurts most is told. */
const MOST_PAIRS = 40;

export function whatIf(view: EstateView, failed: readonly string[]): WhatIf {
  const components = componentsOf(view);
  return {
    components: listed(components.values()),
    outage: outage(view, failed, components),
    ...points(view, components),
  };
}

function points(
  view: EstateView,
  components: ReadonlyMap<string, Component>,
): { spofs: SpofLine[]; pairs: PairLine[] } {
  const book = criticalBook(view);
  const spofOf = spofFinder(view, book);
  const pairsOf = pairFinder(view, components, book);
  const named = (ids: readonly string[]) => ids.map((id) => components.get(id)!);
  const spofs: SpofLine[] = [];
  const pairs = new Map<string, { pair: readonly [string, string]; cuts: number; hosts: Set<string> }>();
  for (const mapping of view.table('mapping').values()) {
    const volume = view.table('volume').get(mapping.volume)!;
    const host = view.table('host').get(mapping.host)!;
    const found = spofOf(mapping);
    spofs.push({
      host: host.name,
      volume: volume.name,
      array: view.table('array').get(volume.array)!.name,
      state: found.state,
      design: named(found.design),
      inherent: named(found.inherent),
      important: volume.important,
    });
    for (const pair of pairsOf(mapping)) {
      const key = pair.join(' ');
      const known = pairs.get(key) ?? { pair, cuts: 0, hosts: new Set<string>() };
      known.cuts += 1;
      known.hosts.add(host.name);
      pairs.set(key, known);
    }
  }
  const rank = (line: SpofLine) => (line.state === 'no-path' ? 0 : line.design.length > 0 ? 1 : 2);
  return {
    spofs: spofs.sort(
      (a, b) =>
        rank(a) - rank(b) ||
        b.design.length - a.design.length ||
        (`${a.host} ${a.volume}` < `${b.host} ${b.volume}` ? -1 : 1),
    ),
    pairs: [...pairs.values()]
      .sort((a, b) => b.cuts - a.cuts || (a.pair.join(' ') < b.pair.join(' ') ? -1 : 1))
      .slice(0, MOST_PAIRS)
      .map(({ pair, cuts, hosts }) => ({
        components: named(pair) as [Component, Component],
        cuts,
        hosts: [...hosts].sort().slice(0, 6),
      })),
  };
}

const verdictWords = {
  lost: 'loses its last path',
  'non-optimized-only': 'goes on by the second-best way only',
  degraded: 'goes on with fewer paths',
  unchanged: 'is not hurt',
} as const;

/** Planned work as a report that can be sent round: what goes down, who is hurt, and how. Markdown. */
export function outageReport({ components, hurt, counts, without }: Outage): string {
  const lines = [
    '# Planned work',
    '',
    'Down: ' + (components.map((one) => `${classWords[one.class]} ${one.name}`).join(', ') || 'nothing') + '.',
    '',
    `${counts.lost} host–volume pairs lose every path, ${counts['non-optimized-only']} go on by the second-best way only, ${counts.degraded} go on with fewer paths, ${counts.unchanged} are not hurt. ${without} have no path as it is.`,
    '',
    '| host | volume | what happens | paths | in use at | workload |',
    '|---|---|---|---|---|---|',
    ...hurt.map(
      (one) =>
        `| ${one.host} | ${one.array} ${one.volume}${one.important ? ' (important)' : ''} | ${verdictWords[one.verdict]} | ${one.before} → ${one.after} | ${one.mountPoint || '–'} | ${one.workload || '–'} |`,
    ),
  ];
  return `${lines.join('\n')}\n`;
}
