import { type Leg } from '../copies/legs';
import { changed, type Effect } from '../estate/effects';
import type { Kind, Replication, SiteLink, Volume } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, siteOf } from '../estate/relations';
import type { StretchCourse } from '../kinds/stretch';
import { advanced, nextMoment, type Happening, type Seen, type Surroundings } from '../stretch/course';
import { atRest, resultOf, answersHosts } from '../stretch/decide';
import {
  failed,
  isUp,
  otherSite,
  parts,
  repaired,
  seeEachOther,
  siteNames,
  type Pair,
  type SiteName,
} from '../stretch/state';
import { toldOf, type PlaceNames } from '../stretch/told';
import { SECOND, type Milliseconds } from '../units/duration';
import { pitOf } from './carry';
import { presentLine } from './line';
import { safetyCopy } from './safety-copy';
import { answersAt, lineState } from './sides';

type Stretched = Leg['row'];
type NewId = (kind: Kind) => string;

/** How many lines of its history a pair keeps. */
const HISTORY = 24;

export const legIds = (row: Replication, site: SiteName): readonly string[] =>
  site === 'A' ? row.primaries : row.secondaries;

export const legVolumes = (view: EstateView, row: Replication, site: SiteName): Volume[] =>
  legIds(row, site).map((id) => view.table('volume').get(id)!);

/** Where a side stands. */
export const placeOf = (view: EstateView, row: Replication, site: SiteName) =>
  siteOf(view, arrayOf(view, legVolumes(view, row, site)[0]!));

export function placeNames(view: EstateView, row: Replication): PlaceNames {
  const witness = row.witness === null ? undefined : view.table('witness').get(row.witness);
  return { A: placeOf(view, row, 'A').name, B: placeOf(view, row, 'B').name, W: witness?.name ?? 'the witness' };
}

/** Lines between two sites, the quickest first. */
export const linesBetween = (view: EstateView, a: string, b: string): SiteLink[] =>
  [...view.table('siteLink').values()]
    .filter(({ sites }) => sites.includes(a) && sites.includes(b) && a !== b)
    .sort((x, y) => x.rtt - y.rtt || (x.id < y.id ? -1 : 1));

/** The line by which a side asks the witness now; undefined where none is up. */
export function lineToWitness(view: EstateView, row: Replication, site: SiteName): SiteLink | undefined {
  const witness = row.witness === null ? undefined : view.table('witness').get(row.witness);
  if (!witness) return undefined;
  return linesBetween(view, placeOf(view, row, site).id, witness.site).find(({ state }) => state === 'up');
}

/** What there is to be seen of the parts of a pair. */
export const seenOf = (view: EstateView, row: Replication): Seen => ({
  A: answersAt(view, row, 'P'),
  B: answersAt(view, row, 'S'),
  W: row.witness !== null && view.table('witness').get(row.witness)!.state === 'up',
  AB: lineState(view, row) === 'up',
  AW: lineToWitness(view, row, 'A') !== undefined,
  BW: lineToWitness(view, row, 'B') !== undefined,
});

export function surroundings(view: EstateView, row: Replication, refreshed = false): Surroundings {
  const trip = (site: SiteName): Milliseconds => {
    const line = lineToWitness(view, row, site);
    return line ? Math.ceil(presentLine(line).rtt) : SECOND;
  };
  return { seen: seenOf(view, row), roundTrip: { A: trip('A'), B: trip('B') }, refreshed };
}

const serving = (pair: Pair, site: SiteName): boolean => answersHosts(resultOf(pair[site]));

/** The side that goes on alone, or is the last that did: where a person forced one, the other may not know yet. */
function ownerOf({ A, B }: Pair): SiteName | null {
  if (A.mode === 'SOLO' && B.mode === 'SOLO') return A.epoch > B.epoch ? 'A' : 'B';
  if (A.mode === 'SOLO') return 'A';
  return B.mode === 'SOLO' ? 'B' : null;
}

/** What a pair is as a replication: who leads, who serves, whether it is whole. */
function replicationOf(row: Stretched, pair: Pair): Partial<Replication> {
  const owner = ownerOf(pair);
  const owned = owner === 'A' ? 'P' : 'S';
  const source = owner === null ? row.source : owned;
  const lead: SiteName = source === 'P' ? 'A' : 'B';
  const whole = seeEachOther(pair) && serving(pair, 'A') && serving(pair, 'B');
  const refreshing =
    seeEachOther(pair) &&
    pair[lead].mode === 'SOLO' &&
    pair[lead].phase === 'RUN' &&
    pair[otherSite(lead)].mode === 'STALE';
  const apart = refreshing ? 'copying' : 'broken';
  const state = whole ? 'protected' : apart;
  const access = (side: 'P' | 'S') => (side === source && serving(pair, lead) ? ('yes' as const) : ('no' as const));
  const up = (is: boolean) => (is ? ('up' as const) : ('down' as const));
  return {
    state,
    source,
    linkState: up(pair.AB),
    siteP: up(pair.A.up),
    siteS: up(pair.B.up),
    image: row.image || whole,
    accessP: access('P'),
    accessS: access('S'),
  };
}

/** Why a pair is not whole, in words; empty where it is. */
function reasonOf(view: EstateView, row: Stretched, pair: Pair): string {
  const names = placeNames(view, row);
  if (!pair.A.up) return `${names.A} does not answer`;
  if (!pair.B.up) return `${names.B} does not answer`;
  return pair.AB ? '' : `${names.A} and ${names.B} do not see each other`;
}

const told = (view: EstateView, row: Stretched, happened: readonly Happening[]) => {
  const names = placeNames(view, row);
  return happened.flatMap((one) => {
    const says = toldOf(one, names);
    return says === null ? [] : [{ at: one.at, says }];
  });
};

const same = (a: StretchCourse, b: StretchCourse): boolean => JSON.stringify(a) === JSON.stringify(b);

/** Fields of a stretched row after whatever is due by now; null where nothing is. */
export function stretchedFields(
  view: EstateView,
  row: Stretched,
  now: Milliseconds,
  refreshed = false,
): { fields: Partial<Replication>; said: string[] } | null {
  const before = row.stretch;
  const { course, happened } = advanced(before, surroundings(view, row, refreshed), now);
  if (same(course, before)) return null;
  const lines = told(view, row, happened);
  const history = [...before.history, ...lines].slice(-HISTORY);
  const as = replicationOf(row, course.pair);
  const moved = as.state !== row.state;
  const reason = reasonOf(view, row, course.pair);
  const fields: Partial<Replication> = { ...as, stretch: { ...course, history } };
  if (moved) Object.assign(fields, { since: now, reason, nextAt: now });
  // Up to the parting every write went to both sides; while nobody serves, nothing is written.
  if (moved && row.state === 'protected') Object.assign(fields, { pit: pitOf(row, now), compare: 'union' });
  // What was on its way is broken off with the line, and what the other side becomes decides what is sent anew.
  if (as.state !== 'copying' && row.carrying) Object.assign(fields, { carrying: null });
  return { fields, said: lines.map(({ says }) => `${row.name}: ${says}`) };
}

/** What a stretched row does by now. */
export function stretchedOn(
  view: EstateView,
  row: Stretched,
  now: Milliseconds,
  newId: NewId,
  refreshed = false,
): { effects: Effect[]; said: string[] } {
  const next = stretchedFields(view, row, now, refreshed);
  if (!next) return { effects: [], said: [] };
  const was = row.stretch.pair;
  const is = next.fields.stretch!.pair;
  const kept = siteNames.filter((site) => is[site].mode === 'STALE' && was[site].mode !== 'STALE');
  return {
    effects: [
      ...kept.flatMap((site) => safetyCopy(view, legVolumes(view, row, site), row, now, newId)),
      changed('replication', row, next.fields),
    ],
    said: next.said,
  };
}

/** A row whose pair has come to rest, with whoever is silent having said so. */
export const atRestWith = (row: Stretched, pair: Pair): Effect =>
  changed('replication', row, {
    ...replicationOf(row, pair),
    stretch: { ...row.stretch, pair, expired: { A: true, B: true } },
  });

/** Stretched pairs as they come to rest with what is up and down in an estate: who would go on, without waiting for it. */
export function settled(view: EstateView): Effect[] {
  return view
    .table('replication')
    .by('stretched', '')
    .flatMap((one): Effect[] => {
      const row = one as Stretched;
      const seen = seenOf(view, row);
      let pair: Pair = row.stretch.pair;
      const moved = parts.filter((part) => isUp(pair, part) !== seen[part]);
      if (moved.length === 0) return [];
      for (const part of moved) pair = seen[part] ? repaired(pair, part) : failed(pair, part);
      pair = atRest(pair).pair;
      return [atRestWith(row, pair)];
    });
}

/** The next moment at which a stretched row does something by itself. */
export const nextOfStretched = (view: EstateView, row: Stretched, now: Milliseconds): Milliseconds | null =>
  nextMoment(row.stretch, surroundings(view, row), now);

/** Fields of a stretched row whose pair a person has brought to another state. */
export function forcedFields(view: EstateView, row: Stretched, pair: Pair, now: Milliseconds): Partial<Replication> {
  const lead = ownerOf(pair)!;
  const says = `${placeNames(view, row)[lead]} is forced to serve alone, epoch ${pair[lead].epoch}`;
  const silentAt = { ...row.stretch.silentAt, [lead]: null };
  const expired = { ...row.stretch.expired, [lead]: false };
  const history = [...row.stretch.history, { at: now, says }].slice(-HISTORY);
  const forced: Stretched = { ...row, stretch: { ...row.stretch, pair, silentAt, expired, history } };
  return {
    ...replicationOf({ ...forced, source: lead === 'A' ? 'P' : 'S' }, pair),
    stretch: forced.stretch,
    carrying: null,
  };
}
