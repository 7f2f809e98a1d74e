import { notParsed, parsed, type ParseFailure, type Parsed } from '../units/parsed';
import { arriving, noticed, ofSite, together, type Turn } from './protocol';
import {
  failed,
  healthyPair,
  newSpell,
  otherSite,
  repaired,
  seeEachOther,
  serves,
  seesWitness,
  siteNames,
  withSite,
  type Pair,
  type Part,
  type Site,
  type SiteName,
} from './state';

/** What befalls a pair at once; a forced site is named with the promise that the other is off. */
export interface StretchEvent {
  fail?: readonly Part[];
  repair?: readonly Part[];
  force?: SiteName;
  confirmPeerOff?: boolean;
}

export type SiteResult = 'DOWN' | 'HOLD' | 'STALE' | 'SOLO' | 'BOTH';
export type SilentWhy =
  'unverified-owner' | 'unverified' | 'promised-to-stop' | 'witness-unreachable' | 'peer-owns' | 'register-out-of-date';

/** Whether a site that is so answers reads and writes. */
export const answersHosts = (result: SiteResult): boolean => result === 'SOLO' || result === 'BOTH';

export interface Decision {
  A: SiteResult;
  B: SiteResult;
  serving: SiteName[];
  /** Why a site that is up serves nothing; null for any other. */
  why: Record<SiteName, SilentWhy | null>;
  arbitration: Record<SiteName, 'witness' | 'preferred'>;
  witnessOwner: 'both' | SiteName;
}

/** A question to the witness and what it would find: asked once more, it gets the same answer. */
const questionOf = (pair: Pair, site: SiteName): string =>
  `${site} ${pair[site].epoch} ${pair.W.epoch} ${pair.W.owner}`;

/**
 * The next turn where everything goes as it should: what is noticed and what arrives, what both do, what each does, the preferred site first.
 * Questions that were denied are not asked again while nothing has changed.
 */
function nextTurn(pair: Pair, denied: ReadonlySet<string>): Turn | undefined {
  const own = [pair.preferred, otherSite(pair.preferred)].flatMap((site) =>
    ofSite(pair, site).filter(({ rule }) => rule !== 'T2' || !denied.has(questionOf(pair, site))),
  );
  return noticed(pair)[0] ?? arriving(pair)[0] ?? together(pair)[0] ?? own[0];
}

/** More turns than any rest takes: a defect, not a long way. */
const MOST_TURNS = 1000;

/** The pair when the protocol has come to rest, and what it did on the way. */
export function atRest(pair: Pair): { pair: Pair; turns: Turn[] } {
  let now = pair;
  const turns: Turn[] = [];
  const denied = new Set<string>();
  for (let turn = nextTurn(now, denied); turn; turn = nextTurn(now, denied)) {
    const { rule, site, after } = turn;
    if (rule === 'T2 arrives' && site !== 'W' && !after[site].granted) denied.add(questionOf(now, site));
    now = after;
    turns.push(turn);
    if (turns.length > MOST_TURNS) throw new Error('The stretched protocol did not come to rest.');
  }
  return { pair: now, turns };
}

/** T14: why a person cannot force a site; null where that is possible. */
export function whyNotForced(pair: Pair, site: SiteName, confirmPeerOff: boolean): ParseFailure | null {
  const other = otherSite(site);
  if (!pair[site].up) return notParsed('stretched-force-site-down', `${site} itself is off.`);
  if (seeEachOther(pair))
    return notParsed('stretched-force-peer-reachable', 'The sites see each other; there is nothing to force.');
  if (serves(pair[site])) return notParsed('stretched-already-serving', `${site} serves already.`);
  if (!confirmPeerOff)
    return notParsed(
      'stretched-force-needs-peer-off',
      `If ${other} still runs, two versions of the data arise. Confirm that it is off or cut from all hosts.`,
    );
  return seesWitness(pair, site)
    ? null
    : notParsed(
        'stretched-force-needs-witness',
        `Without the witness ${other} could come back unaware; restore the witness or dissolve the pair.`,
      );
}

/** T14: a site goes on alone because a person says so, with an epoch that nobody can have taken unseen. */
export function forced(pair: Pair, site: SiteName): Pair {
  const epoch = Math.max(pair.W.epoch, pair[site].epoch) + 2;
  const after = withSite(pair, site, { mode: 'SOLO', phase: 'RUN', epoch, ...newSpell(pair[site]) });
  return { ...after, W: { ...after.W, epoch, owner: site } };
}

export const resultOf = ({ up, mode, phase }: Site): SiteResult => {
  if (!up) return 'DOWN';
  if (mode === 'STALE') return 'STALE';
  return phase === 'RUN' ? mode : 'HOLD';
};

/** Why a site that is up serves nothing. */
export function whySilent(pair: Pair, site: SiteName): SilentWhy | null {
  const own = pair[site];
  if (resultOf(own) !== 'HOLD') return null;
  if (own.mode === 'SOLO') return 'unverified-owner';
  if (own.arb === 'P') return site === pair.preferred ? 'unverified' : 'promised-to-stop';
  if (!seesWitness(pair, site)) return 'witness-unreachable';
  return pair.W.owner === otherSite(site) ? 'peer-owns' : 'register-out-of-date';
}

export function decisionOf(pair: Pair): Decision {
  const of = <T>(value: (site: SiteName) => T) => ({ A: value('A'), B: value('B') });
  const result = of((site) => resultOf(pair[site]));
  return {
    ...result,
    serving: siteNames.filter((site) => answersHosts(result[site])),
    why: of((site) => whySilent(pair, site)),
    arbitration: of((site) => (pair[site].arb === 'W' ? 'witness' : 'preferred')),
    witnessOwner: pair.W.owner,
  };
}

/** The pair after some events, each of which comes to rest before the next. A refused force is the answer of the whole call. */
export function pairAfter(pair: Pair, events: readonly StretchEvent[]): Parsed<Pair> {
  let now = pair;
  for (const { fail = [], repair = [], force, confirmPeerOff = false } of events) {
    for (const part of fail) now = failed(now, part);
    for (const part of repair) now = repaired(now, part);
    if (force) {
      const refusal = whyNotForced(now, force, confirmPeerOff);
      if (refusal) return refusal;
      now = forced(now, force);
    }
    now = atRest(now).pair;
  }
  return parsed(now);
}

/**
 * Who serves after some events, and why a site does not (protect.md L). Reasons: stretched-force-site-down, stretched-force-peer-reachable,
 * stretched-already-serving, stretched-force-needs-peer-off, stretched-force-needs-witness.
 */
export function stretchedDecide({
  preferred,
  events,
}: {
  preferred: SiteName;
  events: readonly StretchEvent[];
}): Parsed<Decision> {
  const after = pairAfter(healthyPair(preferred), events);
  return after.ok ? parsed(decisionOf(after.value)) : after;
}
