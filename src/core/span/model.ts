import { isOwn } from '../estate/own';
import { pathFinder, type PathFinder } from '../attach/paths';
import type { EstateView } from '../estate/estate';
import { faults } from '../lab/broken';
import { byName } from '../operation/draft';
import { poolUsage } from '../pool/usage';
import { whole, type InParts } from '../units/in-parts';
import type { SpanArray, SpanHost, SpanModel } from './drawn';
import { hostModel } from './hosts';
import { networkModels, networksByAddress } from './networks';
import { storey } from './storey';

export type * from './drawn';

/** Rows that are worked out in one go. */
const PART = 50;

/** Everything the Span view draws, computed from the estate: no figure of it is stored. */
export const spanModel = (view: EstateView): SpanModel => whole(spanInParts(view));

/** The same in slices. */
export function* spanInParts(view: EstateView): InParts<SpanModel> {
  const finder = pathFinder(view);
  const arrays: SpanArray[] = [];
  for (const array of arraysByName(view)) arrays.push(yield* storey(view, finder, array));
  return { arrays, networks: networkModels(view), hosts: yield* hostModels(view, finder), ...spanFigures(view) };
}

/** Those that are looked after here first, each sort by name. */
export const arraysByName = (view: EstateView) =>
  [...view.table('array').values()].sort((a, b) => Number(a.outside) - Number(b.outside) || byName(a, b));

export function* hostModels(view: EstateView, finder: PathFinder): InParts<SpanHost[]> {
  const networksOf = networksByAddress(view);
  const hosts: SpanHost[] = [];
  for (const host of [...view.table('host').values()].sort(byName)) {
    hosts.push(hostModel(view, finder, networksOf, host));
    if (hosts.length % PART === 0) yield;
  }
  return hosts;
}

/** What holds of the whole estate: counts, bytes, what is broken. */
export function spanFigures(view: EstateView): Pick<SpanModel, 'totals' | 'faults'> {
  const size = (kind: 'volume' | 'port' | 'host') => view.table(kind).size;
  const totals: SpanModel['totals'] = {
    drives: 0,
    raidGroups: 0,
    pools: 0,
    volumes: size('volume'),
    ports: size('port'),
    networks: view.table('network').size + view.table('fabric').size,
    hosts: size('host'),
    raw: 0,
    usable: 0,
    used: 0,
    promised: 0,
    available: 0,
  };
  // Of an outside array nothing is known but what it shows.
  for (const drive of view.table('drive').values()) {
    if (!isOwn(view, drive)) continue;
    totals.drives += 1;
    totals.raw += drive.capacity;
  }
  for (const group of view.table('raidGroup').values()) {
    if (!isOwn(view, group)) continue;
    totals.raidGroups += 1;
    totals.usable += group.usable;
  }
  for (const pool of view.table('pool').values()) {
    if (!isOwn(view, pool)) continue;
    totals.pools += 1;
    const usage = poolUsage(view, pool);
    totals.used += usage.usedBytes;
    totals.promised += usage.promised;
    totals.available += usage.availableBytes;
  }
  return { totals, faults: faults(view) };
}
