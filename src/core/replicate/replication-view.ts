import { hostsOver, sentOver } from './line-load';
import { writingOf } from '../copies/writing';
import { lagCourse, LAG_KEPT, type LagPoint } from './lag-course';
import { CYCLES_KEPT } from './choices';
import { DAY } from '../units/duration';
import { type ListedCheck, twoSiteChecks } from './check-list';
import { type StretchView, stretchView } from './stretch-view';
import { replicaOf } from '../copies/replica';
import type { Replication } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, poolOf, siteOf } from '../estate/relations';
import { byName } from '../operation/draft';
import type { SubjectView } from '../protect/subject-view';
import type { Bytes } from '../units/bytes';
import type { Milliseconds } from '../units/duration';
import type { BytesPerSecond } from '../units/rate';
import { isFenced } from '../copies/replica';
import { bytesAtRisk, finishOf, lagOf, pitOf, sentBy } from './carry';
import { addedBy, logState, mirrorNeed, resyncTime, type LogState } from './mirror';
import { formatBits } from './bits';
import { needOfLine, shareOf } from './planner';
import { hourWords } from '../units/week';
import type { DrillView } from './drill-view';
import type { PartnerRow } from './partner-view';
import type { SiteLoss } from './site-lost';
import { lineRate, presentLine } from './line';
import { sidesOf, siteOfSide, unreachedWhy } from './sides';

/** A replication as its table shows it. */
export interface ReplicationRow {
  id: string;
  name: string;
  /** The workload or volume that is copied, as the Protection view knows it. */
  of: string;
  source: string;
  target: string;
  state: Replication['state'];
  since: Milliseconds;
  reason: string;
  mode: Replication['mode'];
  /** Both sides show one identity. */
  stretched: boolean;
  /** Milliseconds that its mirror adds to a write; null where none waits for it. */
  added: number | null;
  /** What the target holds is as of then; null before the first copy is whole. */
  pit: Milliseconds | null;
  lag: Milliseconds;
  rpo: Milliseconds | null;
  interval: Milliseconds;
  /** The plan with which it is cut; null for its own rhythm. */
  plan: string | null;
  /** Bytes that a loss of the source would cost now. */
  risk: Bytes;
  link: string;
  /** What it needs in its busiest hour to hold its recovery point, and what it may have; null where nothing would do. */
  need: BytesPerSecond | null;
  needHour: string;
  share: BytesPerSecond;
  /** The array whose groups leave it no more than that; null where it is the line. */
  heldBy: string | null;
  /** The cycle under way. */
  sending: {
    pit: Milliseconds;
    changed: Bytes;
    wire: Bytes;
    sent: Bytes;
    rate: BytesPerSecond;
    endsAt: Milliseconds | null;
  } | null;
}

/** One replication whole: its sides and its past. */
export interface ReplicationView extends ReplicationRow {
  images: number;
  imagesDaily: number;
  weight: number;
  cap: BytesPerSecond | null;
  unreached: string | null;
  onLoss: Replication['onLoss'];
  order: Replication['order'];
  budget: number | null;
  /** Its hosts wait, since the other side is lost. */
  fenced: boolean;
  log: LogState | null;
  /** How long it would take to be whole again; null where it never would, or is. */
  resync: Milliseconds | null;
  fence: string;
  stretch: StretchView | null;
  /** What must hold of storage over two sites. */
  checks: ListedCheck[];
  sides: {
    side: 'P' | 'S';
    site: string;
    role: 'source' | 'target';
    access: 'yes' | 'no' | 'unknown';
    up: boolean;
    volumes: { id: string; name: string; array: string; pool: string; written: Bytes }[];
  }[];
  /** How far it was behind over the last day, and over thirty. */
  course: { day: LagPoint[]; month: LagPoint[] };
  /** The newest first. */
  cycles: {
    id: string;
    pit: Milliseconds;
    took: Milliseconds;
    finishedAt: Milliseconds;
    changed: Bytes;
    wire: Bytes;
    lagBefore: Milliseconds;
    lagAfter: Milliseconds;
    result: 'done' | 'failed';
    reason: string | null;
  }[];
}

/** A line between sites, and what goes over it. */
export interface SiteLinkRow {
  id: string;
  name: string;
  sites: string[];
  speed: string;
  rtt: number;
  km: number;
  loss: number;
  state: 'up' | 'down';
  through: BytesPerSecond;
  boundBy: string;
  /** What replication may take by day and by night; null for all of it. */
  dayCap: BytesPerSecond | null;
  nightCap: BytesPerSecond | null;
  slow: boolean;
  lossy: boolean;
  /** What is sent over it now, and what of it hosts send by the inter-switch links and networks that it carries. */
  now: BytesPerSecond;
  hosts: BytesPerSecond;
  isls: string[];
  networks: string[];
  replications: number;
}

const rowOfReplication = (view: EstateView, row: Replication, now: Milliseconds): ReplicationRow => {
  const { source, sourceSite, targetSite } = sidesOf(view, row);
  const link = view.table('siteLink').get(row.link)!;
  const writing = writingOf(view, source);
  const need = row.mode === 'sync' ? mirrorNeed(writing, row.wireRatio) : needOfLine(writing, row);
  const share =
    row.mode === 'sync' ? { bytesPerS: lineRate(link).bytesPerS, array: null } : shareOf(view, link, row.weight, row);
  const { carrying } = row;
  return {
    id: row.id,
    name: row.name,
    of: row.workload ?? row.primaries[0]!,
    source: sourceSite,
    target: targetSite,
    state: row.state,
    since: row.since,
    reason: row.reason,
    pit: row.image ? pitOf(row, now) : null,
    mode: row.mode,
    stretched: row.stretch !== null,
    added: row.mode === 'sync' ? addedBy(link, source).ms : null,
    lag: lagOf(row, now),
    rpo: row.rpo,
    interval: row.interval,
    plan: row.plan === null ? null : view.table('plan').get(row.plan)!.name,
    risk: bytesAtRisk(view, row, now),
    link: link.name,
    need: need.bytesPerS,
    needHour: hourWords(need.hour),
    share: share.bytesPerS,
    heldBy: share.array === null ? null : view.table('array').get(share.array)!.name,
    sending: carrying && {
      pit: carrying.pit,
      changed: carrying.changed,
      wire: carrying.wire,
      sent: sentBy(carrying, now),
      rate: carrying.rate,
      endsAt: finishOf(carrying),
    },
  };
};

/** A witness, and who asks it. */
export interface WitnessRow {
  id: string;
  name: string;
  site: string;
  state: 'up' | 'down';
  notes: string;
  /** Stretched volumes that ask it. */
  asked: string[];
}

export const witnessRows = (view: EstateView): WitnessRow[] =>
  [...view.table('witness').values()].sort(byName).map((witness) => ({
    id: witness.id,
    name: witness.name,
    site: siteOf(view, witness).name,
    state: witness.state,
    notes: witness.notes,
    asked: view
      .table('replication')
      .by('witness', witness.id)
      .map(({ name }) => name)
      .sort(),
  }));

/** All replications by name. */
export const replicationRows = (view: EstateView, now: Milliseconds): ReplicationRow[] =>
  [...view.table('replication').values()].sort(byName).map((row) => rowOfReplication(view, row, now));

export const siteLinkRows = (view: EstateView, now: Milliseconds): SiteLinkRow[] =>
  [...view.table('siteLink').values()].sort(byName).map((link) => {
    const users = view.table('replication').by('link', link.id);
    const { bytesPerS, boundBy } = lineRate(link);
    return {
      id: link.id,
      name: link.name,
      sites: link.sites.map((id) => view.table('site').get(id)!.name),
      speed: formatBits(link.bitsPerS),
      rtt: presentLine(link).rtt,
      km: link.km,
      loss: presentLine(link).loss,
      state: link.state,
      through: link.state === 'up' ? bytesPerS : 0,
      boundBy,
      dayCap: link.dayCap,
      nightCap: link.nightCap,
      slow: link.slow,
      lossy: link.lossy,
      now: sentOver(view, link, now),
      hosts: hostsOver(view, link),
      isls: link.isls.map((id) => view.table('isl').get(id)!.name),
      networks: link.networks.map((id) => view.table('network').get(id)!.name),
      replications: users.length,
    };
  });

/** One replication, whole; null where there is none. */
export function replicationView(view: EstateView, id: string, now: Milliseconds): ReplicationView | null {
  const row = view.table('replication').get(id);
  if (!row) return null;
  const ended = view.table('cycle').by('replication', row.id);
  const side = (one: 'P' | 'S') => ({
    side: one,
    site: siteOfSide(view, row, one),
    role: row.source === one ? ('source' as const) : ('target' as const),
    access: one === 'P' ? row.accessP : row.accessS,
    up: (one === 'P' ? row.siteP : row.siteS) === 'up',
    volumes: (one === 'P' ? row.primaries : row.secondaries).map((volumeId) => {
      const volume = view.table('volume').get(volumeId)!;
      return {
        id: volume.id,
        name: volume.name,
        array: arrayOf(view, volume).name,
        pool: poolOf(view, volume).name,
        written: volume.written,
      };
    }),
  });
  return {
    ...rowOfReplication(view, row, now),
    images: row.images,
    imagesDaily: row.imagesDaily,
    weight: row.weight,
    cap: row.cap,
    unreached: unreachedWhy(view, row),
    onLoss: row.onLoss,
    order: row.order,
    budget: row.budget,
    fenced: isFenced(row),
    log: logState(view, row, now),
    resync: row.mode === 'sync' && row.state === 'broken' ? resyncTime(view, row, now) : null,
    fence: row.fence,
    stretch: row.stretch === null ? null : stretchView(view, row.id),
    checks: twoSiteChecks(view, row),
    sides: [side('P'), side('S')],
    course: {
      day: lagCourse(ended, { from: now - DAY, now, lag: lagOf(row, now) }),
      month: lagCourse(ended, { from: now - LAG_KEPT, now, lag: lagOf(row, now) }),
    },
    cycles: [...ended]
      .sort((a, b) => b.finishedAt - a.finishedAt || b.pit - a.pit)
      .slice(0, CYCLES_KEPT)
      .map(({ replication: _replication, startedAt, ...one }) => ({ ...one, took: one.finishedAt - startedAt })),
  };
}

/** What the Protection view shows of other sites. */
export interface ElsewhereAnswer {
  now: Milliseconds;
  replications: ReplicationRow[];
  links: SiteLinkRow[];
  partners: PartnerRow[];
  witnesses: WitnessRow[];
  drills: DrillView[];
  loss: SiteLoss;
}

/** A workload or volume with what stands of it at another site. */
export interface SubjectAnswer extends SubjectView {
  elsewhere: ReplicationRow | null;
  /** Moments at the other site to which one can go back, beside the newest. */
  images: number;
}

/** The replication of what the Protection view shows, if it has one. */
export function elsewhereOf(
  view: EstateView,
  { id, volumes }: SubjectView,
  now: Milliseconds,
): Pick<SubjectAnswer, 'elsewhere' | 'images'> {
  const [of] = view.table('replication').by('workload', id);
  const row = of ?? replicaOf(view, volumes[0]?.id ?? '')?.row;
  return row ? { elsewhere: rowOfReplication(view, row, now), images: row.images } : { elsewhere: null, images: 0 };
}
