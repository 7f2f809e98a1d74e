import { deviceAt, isFirstWay } from '../copies/legs';
import { changed, type Effect } from '../estate/effects';
import type { Mapping } from '../estate/entities';
import { Overlay, type EstateView } from '../estate/estate';
import { arrayOf, hostOf, volumeOf, workloadOf } from '../estate/relations';
import { pathFinder } from '../attach/paths';
import { settled } from '../replicate/stretched';
import { adapterId, componentsOf, type Component } from './components';

export const verdicts = ['lost', 'non-optimized-only', 'degraded', 'unchanged'] as const;
export type Verdict = (typeof verdicts)[number];

/** What an outage does to a host and one of its volumes. */
export interface Hurt {
  mapping: string;
  host: string;
  volume: string;
  array: string;
  verdict: Verdict;
  before: number;
  after: number;
  /** Where it is in use there; empty where it is not mounted. */
  mountPoint: string;
  workload: string;
  important: boolean;
}

/** What follows when components fail together. Nothing is touched. */
export interface Outage {
  components: Component[];
  hurt: Hurt[];
  /** How many host–volume pairs come off how. */
  counts: Record<Verdict, number>;
  /** Pairs that have no path as it is. */
  without: number;
}

/** Everything that fails with the given components: a site takes its arrays, switches and networks along, a card its ports. */
export function effectsOfFailure(view: EstateView, failed: readonly Component[]): Effect[] {
  const effects = new Map<string, Effect>();
  const down = (
    kind: 'interface' | 'switch' | 'isl' | 'network' | 'port' | 'controller' | 'enclosure' | 'siteLink' | 'witness',
    id: string,
  ) => {
    const row = view.table(kind).get(id);
    if (row && row.state === 'up') effects.set(id, changed(kind, row as never, { state: 'down' } as never));
  };
  const array = (id: string) => {
    for (const row of view.table('controller').by('array', id)) down('controller', row.id);
    for (const row of view.table('enclosure').by('array', id)) down('enclosure', row.id);
  };
  for (const one of failed)
    switch (one.class) {
      case 'adapter':
        for (const row of view.table('interface').values())
          if (row.host && one.id === adapterId(row.host, row.adapter)) down('interface', row.id);
        break;
      case 'host-port':
        down('interface', one.id);
        break;
      case 'array-port':
        down('port', one.id);
        break;
      case 'array':
        array(one.id);
        break;
      case 'site-link':
        down('siteLink', one.id);
        for (const isl of view.table('siteLink').get(one.id)?.isls ?? []) down('isl', isl);
        break;
      case 'site':
        for (const row of view.table('array').by('site', one.id)) array(row.id);
        for (const row of view.table('switch').by('site', one.id)) down('switch', row.id);
        for (const row of view.table('network').by('site', one.id)) down('network', row.id);
        for (const row of view.table('witness').by('site', one.id)) down('witness', row.id);
        break;
      default:
        down(one.class, one.id);
    }
  return [...effects.values()];
}

/** The estate with some components out. */
export function after(view: EstateView, failed: readonly Component[]): Overlay {
  const overlay = new Overlay(view);
  overlay.apply(effectsOfFailure(view, failed));
  overlay.apply(settled(overlay));
  return overlay;
}

/** Who loses what when components fail: paths are found anew with them down, take-over by other controllers included. */
export function outage(view: EstateView, ids: readonly string[], components = componentsOf(view)): Outage {
  const failed = ids.flatMap((id) => components.get(id) ?? []);
  const overlay = after(view, failed);
  const [old, now] = [pathFinder(view), pathFinder(overlay)];
  const result: Outage = {
    components: failed,
    hurt: [],
    counts: { lost: 0, 'non-optimized-only': 0, degraded: 0, unchanged: 0 },
    without: 0,
  };
  for (const mapping of view.table('mapping').values()) {
    if (!isFirstWay(view, mapping)) continue;
    const before = old.total(mapping);
    if (before.usable === 0) {
      result.without += 1;
      continue;
    }
    const after = now.total(mapping);
    const verdict = verdictOf(before, after);
    result.counts[verdict] += 1;
    if (verdict !== 'unchanged') result.hurt.push(hurtOf(view, mapping, verdict, before.usable, after.usable));
  }
  const rank = (hurt: Hurt) => verdicts.indexOf(hurt.verdict) * 2 + (hurt.mountPoint ? 0 : 1);
  result.hurt.sort((a, b) => rank(a) - rank(b) || (`${a.host} ${a.volume}` < `${b.host} ${b.volume}` ? -1 : 1));
  return result;
}

function hurtOf(view: EstateView, mapping: Mapping, verdict: Verdict, before: number, after: number): Hurt {
  const volume = volumeOf(view, mapping);
  const device = deviceAt(view, mapping.host, volume.id);
  return {
    mapping: mapping.id,
    host: hostOf(view, mapping).name,
    volume: volume.name,
    array: arrayOf(view, volume).name,
    verdict,
    before,
    after,
    mountPoint: device?.mountPoint ?? '',
    workload: volume.workload ? (workloadOf(view, volume)?.name ?? '') : '',
    important: volume.important,
  };
}

interface Reach {
  usable: number;
  optimized: number;
}

function verdictOf(before: Reach, after: Reach): Verdict {
  if (after.usable === 0) return 'lost';
  if (before.optimized > 0 && after.optimized === 0) return 'non-optimized-only';
  return after.usable < before.usable ? 'degraded' : 'unchanged';
}
