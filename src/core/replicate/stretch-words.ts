import { type Leg } from '../copies/legs';
import type { EstateView } from '../estate/estate';
import { LEASE_SURELY_OVER, PREFERENCE_DELAY } from '../stretch/choices';
import { resultOf, whySilent, type SilentWhy } from '../stretch/decide';
import type { SiteName } from '../stretch/state';
import type { PlaceNames } from '../stretch/told';
import { type Milliseconds } from '../units/duration';
import { surroundings } from './stretched';

/** Beside what the protocol waits for: writing down, and hosts that try again (protect.md L). */
const AT_HAND: Milliseconds = 100;

/** How long hosts get no answer until a site goes on alone after both have lost each other. */
export function pauseOf(view: EstateView, row: Leg['row'], site: SiteName): Milliseconds {
  const { pair } = row.stretch;
  const asks = pair[site].arb === 'W' ? surroundings(view, row).roundTrip[site] : 0;
  return LEASE_SURELY_OVER + (site === pair.preferred ? 0 : PREFERENCE_DELAY) + asks + AT_HAND;
}

const silence: Record<SilentWhy, (own: string, names: PlaceNames) => string> = {
  'unverified-owner': (own) => `${own} served alone last, and can ask nobody whether it still may`,
  unverified: (own) => `${own} has restarted, and can ask nobody`,
  'promised-to-stop': (own, { W }) => `${own} has promised to stop while ${W} is not asked`,
  'witness-unreachable': (own, { W }) => `${own} cannot ask ${W}`,
  'peer-owns': (own, { W }) => `${W} says that the other site goes on, so that ${own} is silent`,
  'register-out-of-date': (own, { W }) => `${W} does not know of the last agreement, so that ${own} is silent`,
};

/** Why a site answers nothing, in words. */
export function silentWords({ stretch }: Leg['row'], site: SiteName, names: PlaceNames): string {
  const why = whySilent(stretch.pair, site);
  if (why) return silence[why](names[site], names);
  return resultOf(stretch.pair[site]) === 'STALE' ? `${names[site]} holds an older image` : `${names[site]} is off`;
}
