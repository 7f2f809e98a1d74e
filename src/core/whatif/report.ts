import { isFirstWay } from '../copies/legs';
import { kinds, type Mapping } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, hostOf, volumeOf } from '../estate/relations';
import { wayOf } from '../attach/paths';
import { criticalBook } from './critical';
import { classWords, componentsOf, listed, type Component } from './components';
import type { Milliseconds } from '../units/duration';
import { replicationsHurt, type ReplicationHurt } from '../replicate/after-outage';
import { after, outage, type Outage } from './outage';
import { pairFinder, spofFinder, type Pair, type Spofs } from './spof';

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
  /** Those that are offered: the large parts, or those that hold the words looked for. */
  components: Component[];
  found: number;
  outage: Outage;
  /** What becomes of replications. */
  copies: ReplicationHurt[];
  /** The worst; how many there are in all. */
  spofs: SpofLine[];
  counts: { pairs: number; withSpof: number; without: number };
  pairs: PairLine[];
}

/** So many lines of a list are of use. */
const MOST_LINES = 400;

/** Pairs of parts of one host are that host's matter alone: only what hurts most is told. */
const MOST_PAIRS = 40;

/** Everything at once: who is hurt by the failures, what stands alone, and which two together are the worst. */
export function whatIf(view: EstateView, failed: readonly string[], find: string, now: Milliseconds): WhatIf {
  const components = componentsOf(view);
  const wanted = find.toLowerCase().split(/\s+/).filter(Boolean);
  const offered = [...components.values()].filter((one) => {
    // Ports and cards by the thousand are found by their words.
    if (wanted.length === 0) return !one.class.endsWith('-port') && one.class !== 'adapter';
    const name = `${classWords[one.class]} ${one.name}`.toLowerCase();
    return wanted.every((word) => name.includes(word));
  });
  return {
    components: listed(offered).slice(0, MOST_LINES),
    found: offered.length,
    outage: outage(view, failed, components),
    copies: replicationsHurt(
      view,
      after(
        view,
        failed.flatMap((id) => components.get(id) ?? []),
      ),
      now,
    ),
    ...points(view, components),
  };
}

type Points = Pick<WhatIf, 'spofs' | 'pairs' | 'counts'>;
const known = new WeakMap<EstateView, { stamp: string; points: Points }>();

/** Points of failure and pairs depend on no ticks: they are kept while the estate is as it was. */
function points(view: EstateView, components: ReadonlyMap<string, Component>): Points {
  const stamp = kinds.map((kind) => view.revision(kind)).join();
  const kept = known.get(view);
  if (kept?.stamp === stamp) return kept.points;
  const points = findPoints(view, components);
  known.set(view, { stamp, points });
  return points;
}

function findPoints(view: EstateView, components: ReadonlyMap<string, Component>): Points {
  const book = criticalBook(view);
  const spofOf = spofFinder(view, book);
  const pairsOf = pairFinder(view, components, book);
  const named = (ids: readonly string[]) => ids.map((id) => components.get(id)!);
  const lines: { mapping: Mapping; found: Spofs }[] = [];
  const alike = new Map<string, { mapping: Mapping; count: number }>();
  for (const mapping of view.table('mapping').values()) {
    if (!isFirstWay(view, mapping)) continue;
    lines.push({ mapping, found: spofOf(mapping) });
    const key = wayOf(view, mapping);
    const one = alike.get(key);
    if (one) one.count += 1;
    else alike.set(key, { mapping, count: 1 });
  }
  const pairs = new Map<string, { pair: Pair; cuts: number; hosts: Set<string> }>();
  for (const { mapping, count } of alike.values())
    for (const pair of pairsOf(mapping)) {
      const key = `${pair[0]} ${pair[1]}`;
      let one = pairs.get(key);
      if (!one) pairs.set(key, (one = { pair, cuts: 0, hosts: new Set() }));
      one.cuts += count;
      if (one.hosts.size < 6) one.hosts.add(hostOf(view, mapping).name);
    }
  const rank = ({ found }: { found: Spofs }) => (found.state === 'no-path' ? 1e6 : found.design.length);
  const spofs = lines
    .sort((a, b) => rank(b) - rank(a))
    .slice(0, MOST_LINES)
    .map(({ mapping, found }): SpofLine => {
      const volume = volumeOf(view, mapping);
      return {
        host: hostOf(view, mapping).name,
        volume: volume.name,
        array: arrayOf(view, volume).name,
        state: found.state,
        design: named(found.design),
        inherent: named(found.inherent),
        important: volume.important,
      };
    });
  return {
    counts: {
      pairs: lines.length,
      withSpof: lines.filter(({ found }) => found.design.length > 0).length,
      without: lines.filter(({ found }) => found.state === 'no-path').length,
    },
    spofs: spofs.sort(
      (a, b) =>
        Number(a.state === 'ok') - Number(b.state === 'ok') ||
        b.design.length - a.design.length ||
        (`${a.host} ${a.volume}` < `${b.host} ${b.volume}` ? -1 : 1),
    ),
    pairs: [...pairs.values()]
      .sort((a, b) => b.cuts - a.cuts || (a.pair.join(' ') < b.pair.join(' ') ? -1 : 1))
      .slice(0, MOST_PAIRS)
      .map(({ pair, cuts, hosts }) => ({
        components: named(pair) as [Component, Component],
        cuts,
        hosts: [...hosts].sort(),
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
