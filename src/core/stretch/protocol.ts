import { newSpell, otherSite, seeEachOther, seesWitness, siteNames, withSite, type Pair, type SiteName } from './state';

/**
 * The protocol of a stretched pair (protect.md L): each rule says whether it may act, and what it leaves. One rule is one durable step of one
 * site or of the witness, so that anything may fail between any two of them; messages to and from the witness may be late or lost.
 */
export interface Turn {
  /** The rule of the table, and whose turn it is. */
  rule: string;
  site: SiteName | 'W';
  after: Pair;
}

const isOtherOf = (pair: Pair, site: SiteName): boolean => site !== pair.preferred;

/** What a site notices by itself: the other is gone, or a lease is over. */
export function noticed(pair: Pair): Turn[] {
  const turns: Turn[] = [];
  const together = seeEachOther(pair);
  for (const site of siteNames) {
    const own = pair[site];
    const put = (rule: string, fields: Partial<typeof own>) =>
      turns.push({ rule, site, after: withSite(pair, site, fields) });
    if (!own.up) continue;
    if (!together && own.lease) put('lease over', { lease: false });
    if (!together && !own.lease && own.mode === 'BOTH' && (own.phase === 'RUN' || own.phase === 'RDY'))
      put('T1', { phase: 'HOLD', ...newSpell(own) });
    if (!together && own.synced) put('T9', { synced: false });
    const other = otherSite(site);
    const mirrored = together && pair[other].synced;
    if (own.mode === 'SOLO' && own.phase === 'RUN' && !mirrored && !own.alone)
      turns.push({
        rule: 'T9',
        site,
        after: withSite(withSite(pair, site, { alone: true }), other, { synced: false }),
      });
  }
  return turns;
}

/** What both do when they see each other, and what they do about the witness. */
export function together(pair: Pair): Turn[] {
  if (!seeEachOther(pair)) return [];
  const preferred = pair.preferred;
  const other = otherSite(preferred);
  const [p, o] = [pair[preferred], pair[other]];
  if (p.mode !== 'BOTH' || o.mode !== 'BOTH') return [];
  return p.phase === 'RUN' && o.phase === 'RUN' ? bothRun(pair, preferred, other) : reconciled(pair, preferred, other);
}

/** T10: whoever restarted or held goes on with the other; the new epoch outdates grants that nobody used. */
function reconciled(pair: Pair, preferred: SiteName, other: SiteName): Turn[] {
  const [p, o] = [pair[preferred], pair[other]];
  const turns: Turn[] = [];
  // The last step of T8 as well: the copy that was refreshed goes to work beside its owner.
  if (p.epoch === o.epoch && ((p.phase === 'RUN' && o.phase === 'RDY') || (p.phase === 'RDY' && o.phase === 'RUN'))) {
    const site = p.phase === 'RDY' ? preferred : other;
    turns.push({ rule: 'T10', site, after: withSite(pair, site, { phase: 'RUN', lease: true, synced: false }) });
    return turns;
  }
  if (o.phase === 'RDY' && o.epoch > p.epoch)
    turns.push({
      rule: 'T10',
      site: preferred,
      after: withSite(pair, preferred, { epoch: o.epoch, phase: 'RUN', lease: true, ...newSpell(p) }),
    });
  else
    turns.push({
      rule: 'T10',
      site: other,
      after: withSite(pair, other, {
        epoch: Math.max(o.epoch, p.epoch + 1),
        phase: 'RDY',
        lease: true,
        synced: false,
        ...newSpell(o),
      }),
    });
  return turns;
}

/** T11 to T13, and heartbeats: both are at work. */
function bothRun(pair: Pair, preferred: SiteName, other: SiteName): Turn[] {
  const [p, o] = [pair[preferred], pair[other]];
  const { W } = pair;
  const turns: Turn[] = [];
  const put = (rule: string, site: Turn['site'], after: Pair) => turns.push({ rule, site, after });
  if (!p.lease || !o.lease)
    put('heartbeat', preferred, withSite(withSite(pair, preferred, { lease: true }), other, { lease: true }));
  const seen = siteNames.some((site) => seesWitness(pair, site));
  if (!seen) {
    if (o.arb === 'W') put('T11', other, withSite(pair, other, { arb: 'P' }));
    else if (p.arb === 'W') put('T11', preferred, withSite(pair, preferred, { arb: 'P' }));
    return turns;
  }
  if (p.epoch !== o.epoch) return turns;
  const behind = W.epoch < p.epoch || (W.epoch === p.epoch && W.owner !== 'both');
  if (behind && W.told === null) put('T12', preferred, { ...pair, W: { ...W, told: p.epoch } });
  if (W.epoch === p.epoch && W.owner === 'both') {
    if (p.arb === 'P') put('T13', preferred, withSite(pair, preferred, { arb: 'W' }));
    else if (o.arb === 'P') put('T13', other, withSite(pair, other, { arb: 'W' }));
  }
  return turns;
}

/** Whether the other surely serves no more as one of both. */
const leaseOver = (pair: Pair, site: SiteName): boolean => !pair[otherSite(site)].up || !pair[otherSite(site)].lease;

/** What a site does by itself about going on alone, and as the owner about the other. */
export function ofSite(pair: Pair, site: SiteName): Turn[] {
  const own = pair[site];
  if (!own.up) return [];
  const turns: Turn[] = [];
  const put = (rule: string, after: Pair) => turns.push({ rule, site, after });
  const apart = !seeEachOther(pair);
  const witness = seesWitness(pair, site);
  const { W } = pair;
  const silent = own.phase === 'HOLD' || own.phase === 'INIT';
  const peerOwns = W.epoch > own.epoch && W.owner === otherSite(site);
  const goesAlone = { mode: 'SOLO', phase: 'RUN', ...newSpell(own) } as const;
  const registered = (after: Pair, epoch: number): Pair =>
    after.W.epoch < epoch ? { ...after, W: { ...after.W, epoch, owner: site } } : after;
  if (own.mode === 'BOTH' && silent && apart) {
    if (own.arb === 'W' && witness && own.asked === null && !own.granted)
      put('T2', withSite(pair, site, { asked: { epoch: own.epoch, late: false } }));
    if (own.granted && leaseOver(pair, site)) put('T3', withSite(pair, site, { ...goesAlone, epoch: own.epoch + 1 }));
    if (own.arb === 'P' && !isOtherOf(pair, site) && leaseOver(pair, site)) {
      const alone = withSite(pair, site, { ...goesAlone, epoch: own.epoch + 1 });
      if (own.phase === 'HOLD') put('T4', alone);
      else if (witness && !peerOwns) put('T5', registered(alone, own.epoch + 1));
    }
  }
  if (own.mode !== 'SOLO') return turns;
  if (own.phase === 'INIT') {
    const peer = pair[otherSite(site)];
    const again = withSite(pair, site, { phase: 'RUN' });
    if (!apart) {
      if (!(peer.mode === 'SOLO' && peer.epoch > own.epoch)) put('T6', again);
    } else if (witness && !peerOwns) put('T6', registered(again, own.epoch));
    return turns;
  }
  if (witness && W.epoch < own.epoch) put('T7', registered(pair, own.epoch));
  return [...turns, ...(apart ? [] : refreshed(pair, site))];
}

/** T8: an owner brings the other back, step by step; whoever is last to store that they mirror again is the owner. */
function refreshed(pair: Pair, owner: SiteName): Turn[] {
  const other = otherSite(owner);
  const [x, y] = [pair[owner], pair[other]];
  const turn = (site: SiteName, after: Pair): Turn[] => [{ rule: 'T8', site, after }];
  const stored = y.mode === 'BOTH' && y.phase === 'RDY' && y.synced && y.epoch > x.epoch;
  if (stored)
    return turn(
      owner,
      withSite(withSite(pair, owner, { mode: 'BOTH', epoch: y.epoch, arb: 'W', lease: true }), other, {
        synced: false,
      }),
    );
  if (y.mode === 'BOTH' || (y.mode === 'SOLO' && y.epoch < x.epoch))
    return turn(
      other,
      withSite(pair, other, {
        mode: 'STALE',
        phase: 'HOLD',
        synced: false,
        alone: false,
        lease: false,
        ...newSpell(y),
      }),
    );
  if (y.mode !== 'STALE') return [];
  if (!y.synced) return turn(other, withSite(withSite(pair, other, { synced: true }), owner, { alone: false }));
  return turn(
    other,
    withSite(pair, other, {
      mode: 'BOTH',
      epoch: Math.max(x.epoch, y.epoch) + 1,
      arb: 'W',
      phase: 'RDY',
      lease: true,
      ...newSpell(y),
    }),
  );
}

/** Messages that arrive at the witness, however late. */
export function arriving(pair: Pair): Turn[] {
  const { W } = pair;
  if (!W.up) return [];
  const turns: Turn[] = [];
  if (W.told !== null) {
    const news = W.told > W.epoch || (W.told === W.epoch && W.owner !== 'both');
    turns.push({
      rule: 'T12 arrives',
      site: 'W',
      after: { ...pair, W: news ? { ...W, epoch: W.told, owner: 'both', told: null } : { ...W, told: null } },
    });
  }
  for (const site of siteNames) {
    const { asked } = pair[site];
    if (!asked) continue;
    const fresh = W.owner === 'both' && W.epoch === asked.epoch;
    const again = W.owner === site && W.epoch === asked.epoch + 1;
    const answered = withSite(pair, site, { asked: null, granted: (fresh || again) && !asked.late });
    turns.push({
      rule: 'T2 arrives',
      site,
      after: fresh ? { ...answered, W: { ...W, epoch: asked.epoch + 1, owner: site } } : answered,
    });
  }
  return turns;
}

/** Messages that are lost. */
export function losing(pair: Pair): Turn[] {
  const turns: Turn[] = [];
  if (pair.W.told !== null)
    turns.push({ rule: 'T12 lost', site: 'W', after: { ...pair, W: { ...pair.W, told: null } } });
  for (const site of siteNames) {
    if (pair[site].asked) turns.push({ rule: 'T2 lost', site, after: withSite(pair, site, { asked: null }) });
    if (pair[site].granted) turns.push({ rule: 'T3 lost', site, after: withSite(pair, site, { granted: false }) });
  }
  return turns;
}

/** Every step that could be next, without anything failing. */
export const turnsOf = (pair: Pair): Turn[] => [
  ...noticed(pair),
  ...together(pair),
  ...siteNames.flatMap((site) => ofSite(pair, site)),
  ...arriving(pair),
];
