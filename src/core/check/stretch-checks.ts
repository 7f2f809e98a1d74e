import { pathFinder, mappingOf } from '../attach/paths';
import { isStretched, type Leg } from '../copies/legs';
import type { Host } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf, hostOf } from '../estate/relations';
import { legVolumes, placeNames, placeOf } from '../replicate/stretched';
import { silentWords } from '../replicate/stretch-words';
import { decisionOf, resultOf, answersHosts } from '../stretch/decide';
import { otherSite, siteNames, type SiteName } from '../stretch/state';
import { capital } from '../units/counted';
import { MINUTE, SECOND, type Milliseconds } from '../units/duration';
import { traceOf } from './attach/context';
import { offer, type Check, type Found, type Severity } from './finding';
import { replicationCheck } from './replicate-checks';

const LONG = 5 * MINUTE;
const BEHIND = 30 * SECOND;

type Stretched = Leg['row'];
type Said = Omit<Found, 'subject'> | null;

const each = (
  id: string,
  severity: Severity,
  title: string,
  look: (view: EstateView, row: Stretched, now: Milliseconds) => Said,
): Check =>
  replicationCheck(id, severity, title, (view, row, { now }) => (isStretched(row) ? look(view, row, now) : null), true);

const running = (row: Stretched, site: SiteName): boolean => answersHosts(resultOf(row.stretch.pair[site]));

/** Hosts of a pair, with the volume of each leg that they see. */
function hostsOf(view: EstateView, row: Stretched): { host: Host; legs: Record<SiteName, string | null> }[] {
  const found = new Map<string, { host: Host; legs: Record<SiteName, string | null> }>();
  for (const site of siteNames)
    for (const volume of legVolumes(view, row, site))
      for (const mapping of view.table('mapping').by('volume', volume.id)) {
        const one = found.get(mapping.host) ?? { host: hostOf(view, mapping), legs: { A: null, B: null } };
        one.legs[site] ??= volume.id;
        found.set(mapping.host, one);
      }
  return [...found.values()];
}

/** A host that is to reach both sites, and has no path to one of them. */
function onOneSite(view: EstateView, row: Stretched): Said {
  const finder = pathFinder(view);
  for (const { host, legs } of hostsOf(view, row)) {
    if (legs.A === null || legs.B === null) continue;
    const ways = { A: mappingOf(view, host.id, legs.A)!, B: mappingOf(view, host.id, legs.B)! };
    const bare = siteNames.find((site) => finder.paths(ways[site]).found.length === 0);
    // A site that is lost is told by itself.
    if (!bare || !row.stretch.pair[bare].up) continue;
    return {
      says: `${host.name} has no path to ${row.name} at ${placeOf(view, row, bare).name}: it survives the loss of ${placeOf(view, row, otherSite(bare)).name} no more.`,
      advice: 'Add paths to that site.',
      mend: null,
      trace: traceOf(view, host, ways[bare]),
    };
  }
  return null;
}

/** A host that sees one leg alone where others see both. */
function mappedOnOne(view: EstateView, row: Stretched): Said {
  const hosts = hostsOf(view, row);
  if (!hosts.some(({ legs }) => legs.A !== null && legs.B !== null)) return null;
  const one = hosts.find(({ legs }) => legs.A === null || legs.B === null);
  if (!one) return null;
  const site: SiteName = one.legs.A === null ? 'A' : 'B';
  const seen = one.legs[otherSite(site)]!;
  const k = legVolumes(view, row, otherSite(site)).findIndex(({ id }) => id === seen);
  const volume = legVolumes(view, row, site)[k]!;
  return {
    says: `${one.host.name} sees ${row.name} at ${placeOf(view, row, otherSite(site)).name} alone, while others see it at both sites.`,
    advice: `Map ${volume.name} to it, too.`,
    mend: offer(`Map ${volume.name}`, 'mapping.create', {
      host: one.host.name,
      array: arrayOf(view, volume).name,
      volumes: [volume.name],
    }),
  };
}

export const stretchChecks: Check[] = [
  each('stretched-silent', 'error', 'Stretched volumes that stand still', (view, row) => {
    if (decisionOf(row.stretch.pair).serving.length > 0 || row.stretch.partedAt === null) return null;
    const names = placeNames(view, row);
    const up = siteNames.filter((site) => row.stretch.pair[site].up);
    // While they are still asking, nobody needs to do anything.
    if (up.length > 0 && !up.every((site) => row.stretch.expired[site])) return null;
    return {
      says: `${row.name} is stopped: ${siteNames.map((site) => silentWords(row, site, names)).join('; ')}.`,
      advice: 'Bring back what is down; if it never comes back, force the site that is left.',
      mend: up[0] ? offer('Force a site', 'stretch.force', { replication: row.name, site: names[up[0]] }, 'off') : null,
    };
  }),
  each('stretched-one-side', 'error', 'Stretched volumes that one site serves alone', (view, row, now) => {
    const alone = siteNames.find((site) => resultOf(row.stretch.pair[site]) === 'SOLO');
    // Until its second leg was whole once, it is being made.
    if (!alone || !row.image || now - row.since <= LONG) return null;
    const names = placeNames(view, row);
    return {
      says: `Only ${names[alone]} serves ${row.name}.`,
      advice: `Repair ${row.reason ? `what is down: ${row.reason}` : names[otherSite(alone)]}.`,
      mend: null,
    };
  }),
  each('stretched-no-witness', 'warning', 'Stretched volumes that cannot decide by themselves', (view, row) => {
    const { pair, sightlessAt } = row.stretch;
    const unseen = sightlessAt.A !== null && sightlessAt.B !== null;
    if (pair.A.arb === 'W' && pair.B.arb === 'W' && !unseen) return null;
    const names = placeNames(view, row);
    return {
      says: `${row.name} cannot decide by itself if ${names[pair.preferred]} fails: ${names.W} is not asked.`,
      advice: `Bring ${names.W} and the lines to it back.`,
      mend: null,
    };
  }),
  each('stretched-witness-blind-side', 'warning', 'Sites that do not see their witness', (view, row, now) => {
    const { sightlessAt, pair } = row.stretch;
    const blind = siteNames.filter((site) => sightlessAt[site] !== null && pair[site].up);
    if (blind.length !== 1 || now - sightlessAt[blind[0]!]! <= LONG || sightlessAt[otherSite(blind[0]!)] !== null)
      return null;
    const names = placeNames(view, row);
    return {
      says: `If ${names[otherSite(blind[0]!)]} fails, ${names[blind[0]!]} stops ${row.name} although it is healthy: it does not see ${names.W}.`,
      advice: `Repair the link from ${names[blind[0]!]} to ${names.W}.`,
      mend: null,
    };
  }),
  each('stretched-register-behind', 'warning', 'Witnesses that do not know of the last agreement', (view, row, now) => {
    const { pair } = row.stretch;
    const both = running(row, 'A') && running(row, 'B') && pair.AB;
    const known = pair.W.owner === 'both' && pair.W.epoch === pair.A.epoch;
    if (!both || known || now - row.since <= BEHIND) return null;
    const { W } = placeNames(view, row);
    return {
      says: `${capital(W)} does not know the state of ${row.name}: were a site lost now, nobody would go on.`,
      advice: `Bring ${W} back, so that it can be told.`,
      mend: null,
    };
  }),
  each('stretched-witness-domain', 'warning', 'Witnesses that fall with a site', (view, row) => {
    const witness = view.table('witness').get(row.witness!)!;
    const site = siteNames.find((one) => placeOf(view, row, one).id === witness.site);
    return site
      ? {
          says: `${witness.name} fails together with ${placeOf(view, row, site).name}, about which it decides for ${row.name}.`,
          advice: 'Move it to a third place, or let another witness decide.',
          mend: offer('Move it', 'witness.configure', { witness: witness.name }, 'site'),
        }
      : null;
  }),
  each('stretched-host-one-site', 'warning', 'Hosts that reach one site of a stretched volume', onOneSite),
  each('stretched-one-site-mapped', 'warning', 'Hosts to which one leg is shown', mappedOnOne),
];
