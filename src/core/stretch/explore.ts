import { atRest, forced, whyNotForced } from './decide';
import { losing, turnsOf, type Turn } from './protocol';
import { failed, isUp, otherSite, parts, repaired, serves, siteNames, type Pair, type Site } from './state';

const modes = ['BOTH', 'SOLO', 'STALE'] as const;
const phases = ['INIT', 'HOLD', 'RDY', 'RUN'] as const;
const owners = ['both', 'A', 'B'] as const;
/** Epochs count up for ever; only how far they are apart matters, and it is never more than this within sight. */
const EPOCHS = 8;

/** Numbers below a radix, one after the other, in one number: far below 2^53 for a pair. */
class Digits {
  constructor(private value = 0) {}

  put(digit: number, radix: number): void {
    this.value = this.value * radix + digit;
  }

  take(radix: number): number {
    const digit = this.value % radix;
    this.value = (this.value - digit) / radix;
    return digit;
  }

  get whole(): number {
    return this.value;
  }
}

const flag = (yes: boolean): number => (yes ? 1 : 0);

/** Messages that can do nothing any more are as good as lost. */
function live(pair: Pair): Pair {
  const { W } = pair;
  const stale = (site: Site): Site => (site.asked && site.asked.epoch + 1 < W.epoch ? { ...site, asked: null } : site);
  const dead = W.told !== null && (W.told < W.epoch || (W.told === W.epoch && W.owner === 'both'));
  return { ...pair, A: stale(pair.A), B: stale(pair.B), W: dead ? { ...W, told: null } : W };
}

/** A pair as one number, with epochs counted from the lowest; null where they are further apart than is looked at. */
export function packed(given: Pair): number | null {
  const pair = live(given);
  const { W } = pair;
  const low = Math.min(pair.A.epoch, pair.B.epoch, W.epoch);
  const high = Math.max(pair.A.epoch, pair.B.epoch, W.epoch, W.told ?? 0);
  if (high - low >= EPOCHS - 1) return null;
  const digits = new Digits();
  for (const name of siteNames) {
    const site = pair[name];
    digits.put(flag(site.up), 2);
    digits.put(modes.indexOf(site.mode), 3);
    digits.put(site.epoch - low, EPOCHS);
    digits.put(flag(site.arb === 'P'), 2);
    digits.put(flag(site.alone), 2);
    digits.put(phases.indexOf(site.phase), 4);
    digits.put(flag(site.synced), 2);
    digits.put(flag(site.lease), 2);
    digits.put(site.asked ? 1 + (site.asked.epoch - low + 1) * 2 + flag(site.asked.late) : 0, 2 * EPOCHS + 1);
    digits.put(flag(site.granted), 2);
  }
  digits.put(flag(W.up), 2);
  digits.put(W.epoch - low, EPOCHS);
  digits.put(owners.indexOf(W.owner), 3);
  digits.put(W.told === null ? 0 : 1 + W.told - low, EPOCHS + 1);
  digits.put(flag(pair.AB) + 2 * flag(pair.AW) + 4 * flag(pair.BW), 8);
  return digits.whole;
}

/** The pair that a number stands for; the lowest epoch is 2, so that older messages still have one. */
export function unpacked(key: number, preferred: Pair['preferred']): Pair {
  const low = 2;
  const digits = new Digits(key);
  const links = digits.take(8);
  const told = digits.take(EPOCHS + 1);
  const owner = owners[digits.take(3)]!;
  const epoch = digits.take(EPOCHS) + low;
  const W = { up: digits.take(2) === 1, epoch, owner, told: told === 0 ? null : told - 1 + low };
  const site = (): Site => {
    const granted = digits.take(2) === 1;
    const asked = digits.take(2 * EPOCHS + 1);
    const lease = digits.take(2) === 1;
    const synced = digits.take(2) === 1;
    const phase = phases[digits.take(4)]!;
    const alone = digits.take(2) === 1;
    const arb = digits.take(2) === 1 ? 'P' : 'W';
    const own = digits.take(EPOCHS) + low;
    const mode = modes[digits.take(3)]!;
    const question = asked === 0 ? null : { epoch: Math.floor((asked - 1) / 2) - 1 + low, late: (asked - 1) % 2 === 1 };
    return { up: digits.take(2) === 1, mode, epoch: own, arb, alone, phase, synced, lease, asked: question, granted };
  };
  const B = site();
  const A = site();
  return { preferred, A, B, W, AB: links % 2 === 1, AW: (links >> 1) % 2 === 1, BW: links >> 2 === 1 };
}

/** What can happen next: a step of the protocol, a message lost, a part that fails or is mended, a person who forces a site. */
export function happenings(pair: Pair): Turn[] {
  return [
    ...turnsOf(pair),
    ...losing(pair),
    ...parts.map((part): Turn =>
      isUp(pair, part)
        ? { rule: `${part} fails`, site: 'W', after: failed(pair, part) }
        : { rule: `${part} back`, site: 'W', after: repaired(pair, part) },
    ),
    // Who confirms that the other is off is right.
    ...siteNames.flatMap((site): Turn[] =>
      !pair[otherSite(site)].up && whyNotForced(pair, site, true) === null
        ? [{ rule: 'T14', site, after: forced(pair, site) }]
        : [],
    ),
  ];
}

/** Which promise of protect.md L a step breaks; null where it keeps all of them. */
export function promiseBroken(before: Pair, { rule, after }: Turn): string | null {
  const { A, B } = after;
  const solo = (site: Site) => serves(site) && site.mode === 'SOLO';
  const both = (site: Site) => serves(site) && site.mode === 'BOTH';
  if (solo(A) && solo(B)) return 'I1: both serve alone';
  for (const name of siteNames) {
    const [own, other] = [after[name], after[otherSite(name)]];
    const goesAlone = own.mode === 'SOLO' && before[name].mode !== 'SOLO';
    if (goesAlone && rule !== 'T14' && before[otherSite(name)].alone)
      return 'I2: one goes alone while the other has writes it acknowledged alone';
    if (both(own) && other.mode === 'SOLO') return 'I3: one serves as of both while the other is the owner';
  }
  if (both(A) && both(B) && (A.alone || B.alone)) return 'I4: both serve and are not equal';
  const [p, o] = [after[after.preferred], after[otherSite(after.preferred)]];
  if (p.mode === 'BOTH' && o.mode === 'BOTH' && p.arb === 'P' && o.arb === 'W')
    return 'I5: the preferred one goes on without asking, and the other may ask';
  return null;
}

/** All that failed is mended, and nothing is on its way: does the pair come back by itself? */
export function comesBack(pair: Pair): boolean {
  let whole = parts.reduce(repaired, pair);
  for (let [lost] = losing(whole); lost; [lost] = losing(whole)) whole = lost.after;
  const { A, B } = atRest(whole).pair;
  return A.mode === 'BOTH' && B.mode === 'BOTH' && serves(A) && serves(B);
}

export interface Explored {
  /** Different states that were seen. */
  states: number;
  steps: number;
  /** How many are new at each depth. */
  byDepth: number[];
  /** States whose epochs are further apart than is looked at. */
  beyond: number;
  /** The first promise that is broken, with the way there. */
  broken: { promise: string; way: string[] } | null;
}

/**
 * Walks every order of steps, faults, lost and late messages from a pair on, to a depth, each state once. `next` gives what can happen, so that a
 * rule can be left out to see what it is for.
 */
export function explored(
  from: Pair,
  depth: number,
  { next = happenings, mended = true }: { next?: (pair: Pair) => Turn[]; mended?: boolean } = {},
): Explored {
  const first = packed(from)!;
  const seen = new Map<number, number>([[first, -1]]);
  let frontier = [first];
  const found: Explored = { states: 1, steps: 0, byDepth: [1], beyond: 0, broken: null };
  const wayTo = (key: number): string[] => {
    const keys: number[] = [];
    for (let at = key; at !== -1; at = seen.get(at)!) keys.unshift(at);
    return keys.slice(1).map((at, k) => {
      const turn = next(unpacked(keys[k]!, from.preferred)).find(({ after }) => packed(after) === at);
      return turn ? `${turn.site} ${turn.rule}` : '?';
    });
  };
  for (let level = 0; level < depth && frontier.length > 0; level++) {
    const after: number[] = [];
    for (const key of frontier) {
      const pair = unpacked(key, from.preferred);
      for (const turn of next(pair)) {
        found.steps += 1;
        const promise = promiseBroken(pair, turn);
        if (promise) {
          found.broken = { promise, way: [...wayTo(key), `${turn.site} ${turn.rule}`] };
          return found;
        }
        const reached = packed(turn.after);
        if (reached === null) found.beyond += 1;
        else if (!seen.has(reached)) {
          seen.set(reached, key);
          after.push(reached);
          if (mended && !comesBack(turn.after)) {
            found.broken = { promise: 'full repair leads back to both', way: wayTo(reached) };
            return found;
          }
        }
      }
    }
    frontier = after;
    found.byDepth.push(after.length);
    found.states += after.length;
  }
  return found;
}
