import { placeOf } from './stretched';
import { siteNames } from '../stretch/state';
import { decisionOf, pairAfter } from '../stretch/decide';
import { type Leg, isStretched } from '../copies/legs';
import { replicaOf } from '../copies/replica';
import type { Replication, Site } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import { byName } from '../operation/draft';
import { allSubjects } from '../protect/coverage';
import type { Protected } from '../protect/subject';
import type { Bytes } from '../units/bytes';
import type { Milliseconds } from '../units/duration';
import { bytesAtRisk, lagOf, pitOf } from './carry';

/** What becomes of a workload when a site is lost: it goes on, comes back elsewhere to a moment, or nothing of it is left. */
export type LossVerdict =
  | { verdict: 'goes-on' }
  | { verdict: 'back-to'; site: string; pit: Milliseconds; lag: Milliseconds; risk: Bytes; replication: string }
  | { verdict: 'nothing'; why: string };

export interface LossRow {
  id: string;
  name: string;
  /** Where it is at work. */
  at: string[];
  /** By site, in the order of `sites`. */
  lost: LossVerdict[];
}

export interface SiteLoss {
  sites: string[];
  rows: LossRow[];
}

/** Sites at which arrays stand, by name. */
const sitesWithArrays = (view: EstateView): Site[] =>
  [...view.table('site').values()].filter((site) => view.table('array').countBy('site', site.id) > 0).sort(byName);

const siteAt = (view: EstateView, volume: string): string => arrayOf(view, view.table('volume').get(volume)!).site;

/** A replication of a subject, and the side at which hosts work with it. */
interface Placed {
  row: Replication | null;
  /** Sites at which its data is at work, and the volumes there. */
  working: { site: string; volumes: number }[];
}

function placed(view: EstateView, subject: Protected): Placed {
  const row = replicaOf(view, subject.volumes[0]!.id)?.row ?? null;
  const serving = row && row.accessS === 'yes' ? row.secondaries : null;
  const counts = new Map<string, number>();
  for (const volume of subject.volumes) {
    const pair = serving ? row!.primaries.indexOf(volume.id) : -1;
    const site = siteAt(view, pair >= 0 ? serving![pair]! : volume.id);
    counts.set(site, (counts.get(site) ?? 0) + 1);
  }
  return { row, working: [...counts].map(([site, volumes]) => ({ site, volumes })) };
}

/** What becomes of a stretched pair whose one site is lost. */
function pairVerdict(view: EstateView, row: Leg['row'], lost: Site): LossVerdict {
  const gone = siteNames.filter((site) => placeOf(view, row, site).id === lost.id);
  const after = pairAfter(row.stretch.pair, [{ fail: gone }]);
  if (after.ok && decisionOf(after.value).serving.length > 0) return { verdict: 'goes-on' };
  return { verdict: 'nothing', why: 'the other site holds no whole copy, or may not go on' };
}

function verdictOf(
  view: EstateView,
  subject: Protected,
  { row, working }: Placed,
  lost: Site,
  now: Milliseconds,
): LossVerdict {
  if (!working.some(({ site }) => site === lost.id)) return { verdict: 'goes-on' };
  if (row && isStretched(row)) return pairVerdict(view, row, lost);
  if (!row) return { verdict: 'nothing', why: 'it stands nowhere else' };
  const left = subject.volumes.filter(
    (volume) => !row.primaries.includes(volume.id) && siteAt(view, volume.id) === lost.id,
  );
  if (left.length > 0) return { verdict: 'nothing', why: `${left[0]!.name} is not copied with the others` };
  const targets = row.accessS === 'yes' ? row.primaries : row.secondaries;
  const site = siteAt(view, targets[0]!);
  if (site === lost.id) return { verdict: 'nothing', why: 'its copies stand at the same site' };
  if (row.state === 'failed-over') return { verdict: 'nothing', why: 'it has failed over, and nothing is sent back' };
  const pit = pitOf(row, now);
  if (pit === null || !row.image) return { verdict: 'nothing', why: 'its first copy is not whole yet' };
  return {
    verdict: 'back-to',
    site: view.table('site').get(site)!.name,
    pit,
    lag: lagOf(row, now),
    risk: bytesAtRisk(view, row, now),
    replication: row.id,
  };
}

/** Were a site lost now: of every workload, and of every volume by itself that somebody protects, what would be left. */
export function siteLost(view: EstateView, now: Milliseconds): SiteLoss {
  const sites = sitesWithArrays(view);
  const rows = allSubjects(view).flatMap((subject): LossRow[] => {
    const place = placed(view, subject);
    if (!subject.workload && !place.row && subject.volumes[0]!.plan === null) return [];
    return [
      {
        id: subject.workload?.id ?? subject.volumes[0]!.id,
        name: subject.name,
        at: place.working.map(({ site }) => view.table('site').get(site)!.name),
        lost: sites.map((site) => verdictOf(view, subject, place, site, now)),
      },
    ];
  });
  return { sites: sites.map(({ name }) => name), rows: rows.sort(byName) };
}
