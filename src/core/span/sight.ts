import { pathFinder } from '../attach/paths';
import { workWords } from '../kinds/work-words';
import { openMoves } from '../moving/roads';
import { finishOf } from '../replicate/carry';
import type { Job } from '../estate/entities';
import { rowName } from '../estate/effects';
import type { EstateView } from '../estate/estate';
import { packed, unpacked, type Packed } from '../units/packed';
import type { InParts } from '../units/in-parts';
import type { SpanArray, SpanHead, SpanHost, SpanModel, SpanPort, SpanVolume } from './drawn';
import { arraysByName, hostModels, spanFigures } from './model';
import { networkModels, networksByAddress } from './networks';
import { hostModel } from './hosts';
import { storey, storeyHead } from './storey';

/** A host by its line alone: how many ports it has, not which. */
export interface HostLine extends Omit<SpanHost, 'interfaces' | 'os' | 'cluster' | 'devices' | 'mounted'> {
  ports: number;
}

export type HostPorts = Pick<SpanHost, 'id' | 'interfaces'>;

/** A storey as it travels: its long lists packed. */
export interface PackedStorey extends Omit<SpanArray, 'volumes' | 'ports'> {
  volumes: Packed<SpanVolume>;
  ports: Packed<SpanPort>;
}

/** What is at work or waits, for what is due next. */
export interface SpanWork {
  name: string;
  /** What it is at, behind its name. */
  says: string;
  /** When that is over; null where it waits for a person. */
  finishesAt: number | null;
}

/**
 * What the drawing shows first, however large the estate: level lines, networks, hosts, totals; and of storeys and hosts as many whole ones as
 * fit. The others are read when they come into sight.
 */
export interface SpanSight extends Pick<SpanModel, 'networks' | 'totals' | 'faults'> {
  heads: SpanHead[];
  hosts: Packed<HostLine>;
  /** The ports of every host, where there are few hosts. */
  ports: HostPorts[] | null;
  storeys: PackedStorey[];
  work: SpanWork[];
}

/** Hosts up to which each is told with its ports at once. */
const FEW_HOSTS = 300;
/** Characters of storeys that travel with the first answer. */
const STOREYS_ALONG = 160_000;

export const packStorey = (array: SpanArray): PackedStorey => ({
  ...array,
  volumes: packed(array.volumes),
  ports: packed(array.ports),
});
export const unpackStorey = (array: PackedStorey): SpanArray => ({
  ...array,
  volumes: unpacked(array.volumes),
  ports: unpacked(array.ports),
});

const lineOf = ({ id, name, site, post, paths, mapped, tags, interfaces }: SpanHost): HostLine => ({
  id,
  name,
  site,
  post,
  paths,
  mapped,
  tags,
  ports: interfaces.length,
});

export function* spanSight(view: EstateView): InParts<SpanSight> {
  const finder = pathFinder(view);
  const arrays = arraysByName(view);
  const storeys: PackedStorey[] = [];
  let room = STOREYS_ALONG;
  for (const array of arrays) {
    // One that surely does not fit is not worked out for nothing.
    if (view.table('volume').countBy('array', array.id) * 100 > room) break;
    const one = packStorey(yield* storey(view, finder, array));
    room -= JSON.stringify(one).length;
    if (room < 0) break;
    storeys.push(one);
  }
  const hosts = yield* hostModels(view, finder);
  return {
    heads: arrays.map((array) => storeyHead(view, array)),
    networks: networkModels(view),
    hosts: packed(hosts.map(lineOf)),
    ports: hosts.length <= FEW_HOSTS ? hosts.map(({ id, interfaces }) => ({ id, interfaces })) : null,
    storeys,
    work: spanWork(view),
    ...spanFigures(view),
  };
}

/** What a job works on, behind the name of its array: a volume, a group, a pool or a drive. */
function workedOn(view: EstateView, job: Job): string {
  const of = (['volume', 'raidGroup', 'pool', 'drive'] as const).find((kind) => job[kind] !== null);
  const row = of && view.table(of).get(job[of]!);
  return `${view.table('array').get(job.array)?.name ?? ''} ${of && row ? rowName(of, row) : ''}`.trim();
}

function spanWork(view: EstateView): SpanWork[] {
  const jobs = [...view.table('job').values()].flatMap((job): SpanWork[] =>
    job.paused ? [] : [{ name: workedOn(view, job), says: workWords[job.kind].share, finishesAt: job.finishesAt }],
  );
  const moves = openMoves(view).flatMap((row): SpanWork[] => {
    if (row.state === 'waiting') return [{ name: row.name, says: 'cut', finishesAt: null }];
    const finish = row.state === 'copying' && row.flows && row.round ? finishOf(row.round) : null;
    if (finish !== null) return [{ name: row.name, says: 'copied', finishesAt: finish }];
    return row.state === 'proving' && row.nextAt !== null
      ? [{ name: row.name, says: 'accepted', finishesAt: row.nextAt }]
      : [];
  });
  return [...jobs, ...moves].sort((a, b) => (a.finishesAt ?? 0) - (b.finishesAt ?? 0));
}

/** One storey; undefined where there is no such array. */
export function* storeyInSight(view: EstateView, id: string): InParts<PackedStorey | undefined> {
  const array = view.table('array').get(id);
  return array && packStorey(yield* storey(view, pathFinder(view), array));
}

/** Most hosts that are told with their ports in one answer. */
export const MOST_HOSTS = 200;

/** Hosts with their ports, of those ids that there are. */
export function hostsInSight(view: EstateView, ids: readonly string[]): SpanHost[] {
  const finder = pathFinder(view);
  const networksOf = networksByAddress(view);
  return ids.flatMap((id) => {
    const host = view.table('host').get(id);
    return host ? [hostModel(view, finder, networksOf, host)] : [];
  });
}
