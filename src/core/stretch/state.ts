/** The two sites of a stretched pair; W is the witness at a third place. */
export type SiteName = 'A' | 'B';
export const siteNames: readonly SiteName[] = ['A', 'B'];
export const otherSite = (site: SiteName): SiteName => (site === 'A' ? 'B' : 'A');

/** What can fail: the sites, the witness, and the links between them. */
export const parts = ['A', 'B', 'W', 'AB', 'AW', 'BW'] as const;
export type Part = (typeof parts)[number];

export interface Site {
  up: boolean;
  // Durable.
  /** Mirrors with the other, owns the data alone, or has an old copy. */
  mode: 'BOTH' | 'SOLO' | 'STALE';
  epoch: number;
  /** Who decides when the other is gone: the witness, or it is agreed that the preferred site goes on. */
  arb: 'W' | 'P';
  /** It holds writes that it acknowledged alone. */
  alone: boolean;
  // Volatile.
  /** Just restarted, waiting without an answer to hosts, ready to serve, at work. */
  phase: 'INIT' | 'HOLD' | 'RDY' | 'RUN';
  /** A copy that is being refreshed equals the owner's, and is written along. */
  synced: boolean;
  /** The other acknowledged a heartbeat lately: it may serve as one of both. */
  lease: boolean;
  /** A question to the witness on its way; `late` where the spell of holding that asked is over. */
  asked: { epoch: number; late: boolean } | null;
  /** The witness' answer on its way, to this spell. */
  granted: boolean;
}

export interface Witness {
  up: boolean;
  epoch: number;
  owner: SiteName | 'both';
  /** A message of both on its way, with the epoch at which they mirror. */
  told: number | null;
}

export interface Pair {
  preferred: SiteName;
  A: Site;
  B: Site;
  W: Witness;
  /** Links that are up. */
  AB: boolean;
  AW: boolean;
  BW: boolean;
}

const well: Site = {
  up: true,
  mode: 'BOTH',
  epoch: 1,
  arb: 'W',
  alone: false,
  phase: 'RUN',
  synced: false,
  lease: true,
  asked: null,
  granted: false,
};

/** A healthy pair at its beginning. */
export const healthyPair = (preferred: SiteName): Pair => ({
  preferred,
  A: well,
  B: well,
  W: { up: true, epoch: 1, owner: 'both', told: null },
  AB: true,
  AW: true,
  BW: true,
});

/** Both sites are up and see each other. */
export const seeEachOther = ({ A, B, AB }: Pair): boolean => A.up && B.up && AB;
export const seesWitness = (pair: Pair, site: SiteName): boolean =>
  pair[site].up && pair.W.up && (site === 'A' ? pair.AW : pair.BW);
/** It answers reads and writes: at work, alone or under a lease. */
export const serves = ({ up, phase, mode, lease }: Site): boolean =>
  up && phase === 'RUN' && (mode === 'SOLO' || (mode === 'BOTH' && lease));

/** A pair with fields of one site otherwise. */
export const withSite = (pair: Pair, site: SiteName, fields: Partial<Site>): Pair => ({
  ...pair,
  [site]: { ...pair[site], ...fields },
});

/** Fields of a site that begins another spell: answers to the last one are void. */
export const newSpell = ({ asked }: Site): Pick<Site, 'asked' | 'granted'> => ({
  asked: asked && { ...asked, late: true },
  granted: false,
});

/** Whether a part is up, as the pair has it. */
export const isUp = (pair: Pair, part: Part): boolean =>
  part === 'A' || part === 'B' || part === 'W' ? pair[part].up : pair[part];

/** A part that fails. A site loses what it does not keep on its media. */
export function failed(pair: Pair, part: Part): Pair {
  if (part === 'W') return { ...pair, W: { ...pair.W, up: false } };
  if (part !== 'A' && part !== 'B') return { ...pair, [part]: false };
  return withSite(pair, part, {
    up: false,
    phase: 'INIT',
    synced: false,
    lease: false,
    ...newSpell(pair[part]),
  });
}

/** A part that is mended. A site begins anew, and serves nothing before it has asked. */
export function repaired(pair: Pair, part: Part): Pair {
  if (part === 'W') return { ...pair, W: { ...pair.W, up: true } };
  if (part !== 'A' && part !== 'B') return { ...pair, [part]: true };
  return pair[part].up ? pair : withSite(pair, part, { up: true });
}
