import type { ArrayRow, Move, Pool, SiteLink, WavePlan } from '../estate/entities';
import type { EstateView } from '../estate/estate';
import { arrayOf } from '../estate/relations';
import { poolState } from '../pool/usage';
import { arraysOf } from '../replicate/line-shares';
import { openAt, type OpenStretch } from '../schedule/hours';
import { momentText } from '../units/date';
import type { Milliseconds } from '../units/duration';
import { arrayAnswers } from '../volume/health';
import { USUAL_SLOTS } from './choices';

/** Moves that are not over. */
export const openMoves = (view: EstateView): readonly Move[] => view.table('move').by('open', '');

/** The move by which a volume goes now, whether it is the one hosts work with or what is copied to; null for none. */
export const moveOf = (view: EstateView, volume: string): Move | null =>
  view.table('move').by('going', volume)[0] ?? view.table('move').by('twin', volume)[0] ?? null;

export const planOf = (view: EstateView, row: Pick<Move, 'wavePlan'>): WavePlan | null =>
  row.wavePlan === null ? null : (view.table('wavePlan').get(row.wavePlan) ?? null);

export const poolById = (view: EstateView, id: string): Pool => view.table('pool').get(id)!;
export const sourceOf = (view: EstateView, row: Pick<Move, 'fromPool'>): ArrayRow =>
  arrayOf(view, poolById(view, row.fromPool));
export const targetOf = (view: EstateView, row: Pick<Move, 'toPool'>): ArrayRow =>
  arrayOf(view, poolById(view, row.toPool));
export const staysWithin = (view: EstateView, row: Pick<Move, 'fromPool' | 'toPool'>): boolean =>
  arraysOf(view, row).length === 1;

/** The window of a move that is open at a moment, else the next; without a plan it is always open. */
export function windowOf(plan: WavePlan | null, now: Milliseconds): OpenStretch {
  if (plan === null) return { from: now, to: null };
  return openAt({ from: plan.fromHour, until: plan.untilHour, days: plan.days }, now);
}

/** Why nothing of a move gets over now, in words; null where it does. What several moves share is looked at once. */
export function standstills(view: EstateView, now: Milliseconds): (row: Move) => string | null {
  const known = new Map<string, string | null>();
  const once = (key: string, of: () => string | null): string | null => {
    let answer = known.get(key);
    if (answer === undefined) known.set(key, (answer = of()));
    return answer;
  };
  const ofArray = (array: ArrayRow) =>
    once(array.id, () => (arrayAnswers(view, array.id) ? null : `${array.name} does not answer`));
  const ofPool = (id: string) =>
    once(id, () => (poolState(view, id) === 'lost' ? `${poolById(view, id).name} is lost` : null));
  const ofLink = (id: string) =>
    once(id, () => {
      const link = view.table('siteLink').get(id)!;
      return link.state === 'down' ? `${link.name} is down` : null;
    });
  const ofPlan = (plan: WavePlan) =>
    once(plan.id, () => {
      if (plan.held) return `${plan.name} is held`;
      const { from } = windowOf(plan, now);
      return from > now ? `its window opens ${momentText(from)}` : null;
    });
  return (row) => {
    if (row.held) return 'a person holds it';
    const plan = planOf(view, row);
    return (
      ofArray(sourceOf(view, row)) ??
      ofArray(targetOf(view, row)) ??
      ofPool(row.fromPool) ??
      ofPool(row.toPool) ??
      (row.link === null ? null : ofLink(row.link)) ??
      (plan === null ? null : ofPlan(plan))
    );
  };
}

export const standsStill = (view: EstateView, row: Move, now: Milliseconds): string | null =>
  standstills(view, now)(row);

/** When what stands still may go on by itself: at the next window. */
export const opensAt = (view: EstateView, row: Move, now: Milliseconds): Milliseconds =>
  windowOf(planOf(view, row), now).from;

/** The first array on whose slots a move still waits; undefined where one is free on all. A move holds its slots while it is copied. */
export function slotBook(view: EstateView): (row: Move) => string | undefined {
  const busy = new Map<string, number>();
  for (const row of openMoves(view))
    if (row.state === 'copying') for (const array of arraysOf(view, row)) busy.set(array, (busy.get(array) ?? 0) + 1);
  return (row) => {
    const slots = planOf(view, row)?.slots ?? USUAL_SLOTS;
    return arraysOf(view, row).find((array) => (busy.get(array) ?? 0) >= slots);
  };
}

/** Moves that one waits for and whose copy is not whole yet. */
export const waitedFor = (view: EstateView, row: Move): Move[] =>
  row.waitsFor
    .flatMap((id) => view.table('move').get(id) ?? [])
    .filter(({ state }) => state === 'planned' || state === 'ready' || state === 'copying');

/** The line that a move between two arrays takes: none within a site, else the quickest that is up. */
export function lineFor(view: EstateView, a: ArrayRow, b: ArrayRow): SiteLink | null | undefined {
  if (a.site === b.site) return null;
  return [...view.table('siteLink').values()]
    .filter(({ sites }) => sites.includes(a.site) && sites.includes(b.site))
    .sort((x, y) => (x.state === y.state ? x.rtt - y.rtt || (x.id < y.id ? -1 : 1) : x.state === 'up' ? -1 : 1))[0];
}
