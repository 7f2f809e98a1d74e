import fc from 'fast-check';
import { atRest, decisionOf } from './decide';
import { explored, happenings, packed, promiseBroken, unpacked } from './explore';
import { turnsOf, type Turn } from './protocol';
import {
  failed,
  healthyPair,
  newSpell,
  otherSite,
  repaired,
  seeEachOther,
  seesWitness,
  siteNames,
  withSite,
  type Pair,
} from './state';

/** States of this many steps are walked; each is one durable step, fault, loss or late message. */
const DEPTH = 13;

test.each(siteNames)('no order of faults, lost and late messages breaks a promise; %s preferred', (preferred) => {
  const found = explored(healthyPair(preferred), DEPTH);
  expect(found.broken).toBeNull();
  process.stdout.write(
    `${found.states} states, ${found.steps} steps to depth ${DEPTH}; ${found.beyond} beyond sight\n`,
  );
  expect(found.states).toBeGreaterThan(30_000);
});

/** Far walks that are not exhaustive. */
test('long random walks keep every promise', () =>
  fc.assert(
    fc.property(fc.array(fc.nat(1000), { minLength: 50, maxLength: 400 }), (choices) => {
      let pair = healthyPair('A');
      for (const choice of choices) {
        const next = happenings(pair);
        const turn = next[choice % next.length]!;
        expect(promiseBroken(pair, turn)).toBeNull();
        pair = turn.after;
      }
      const whole = (['A', 'B', 'W', 'AB', 'AW', 'BW'] as const).reduce(repaired, pair);
      expect(decisionOf(atRest(whole).pair)).toMatchObject({ A: 'BOTH', B: 'BOTH', witnessOwner: 'both' });
    }),
    { numRuns: 200 },
  ));

test('a state is the number it is packed into', () =>
  fc.assert(
    fc.property(fc.array(fc.nat(1000), { maxLength: 60 }), (choices) => {
      let pair = healthyPair('B');
      for (const choice of choices) {
        const next = happenings(pair);
        pair = next[choice % next.length]!.after;
      }
      const key = packed(pair);
      if (key !== null) expect(packed(unpacked(key, 'B'))).toBe(key);
    }),
  ));

/** The protocol with one rule otherwise. */
const but = (change: (pair: Pair, turn: Turn) => Turn[], more: (pair: Pair) => Turn[] = () => []) => ({
  next: (pair: Pair) => [...happenings(pair).flatMap((turn) => change(pair, turn)), ...more(pair)],
  mended: false,
});
const same = (_pair: Pair, turn: Turn) => [turn];
const bothRun = (pair: Pair) =>
  seeEachOther(pair) && siteNames.every((site) => pair[site].mode === 'BOTH' && pair[site].phase === 'RUN');
const witnessSeen = (pair: Pair) => siteNames.some((site) => seesWitness(pair, site));

const leftOut: [string, number, ReturnType<typeof but>][] = [
  [
    'the witness is told before the owner has stored that they mirror',
    18,
    but((_pair, turn) => {
      const { rule, site, after } = turn;
      if (rule !== 'T8' || site === 'W' || after[site].mode !== 'BOTH' || after[site].phase !== 'RDY') return [turn];
      return [{ ...turn, after: { ...after, W: { ...after.W, epoch: after[site].epoch, owner: 'both' } } }];
    }),
  ],
  [
    'the preferred site stops asking first',
    12,
    but(
      (_pair, turn) => (turn.rule === 'T11' ? [] : [turn]),
      (pair) => {
        if (!bothRun(pair) || witnessSeen(pair)) return [];
        const other = otherSite(pair.preferred);
        const site = pair[pair.preferred].arb === 'W' ? pair.preferred : other;
        return pair[site].arb === 'P' ? [] : [{ rule: 'T11', site, after: withSite(pair, site, { arb: 'P' }) }];
      },
    ),
  ],
  [
    'the other site asks again first',
    16,
    but(
      (_pair, turn) => (turn.rule === 'T13' ? [] : [turn]),
      (pair) => {
        const other = otherSite(pair.preferred);
        if (!bothRun(pair) || !witnessSeen(pair) || pair.W.owner !== 'both' || pair.W.epoch !== pair[other].epoch)
          return [];
        const site = pair[other].arb === 'P' ? other : pair.preferred;
        return pair[site].arb === 'W' ? [] : [{ rule: 'T13', site, after: withSite(pair, site, { arb: 'W' }) }];
      },
    ),
  ],
  [
    'an owner that restarts serves without asking',
    14,
    but(same, (pair) =>
      siteNames.flatMap((site) =>
        pair[site].up && pair[site].mode === 'SOLO' && pair[site].phase === 'INIT'
          ? [{ rule: 'T6', site, after: withSite(pair, site, { phase: 'RUN' }) }]
          : [],
      ),
    ),
  ],
  [
    'a grant is used in another spell than asked for it',
    16,
    but((pair, turn) => {
      const { rule, site, after } = turn;
      if (rule !== 'T2 arrives' || site === 'W') return [turn];
      const { asked } = pair[site];
      const granted = asked !== null && (pair.W.owner === 'both' || pair.W.owner === site) && after.W.owner === site;
      return [{ ...turn, after: withSite(after, site, { granted }) }];
    }),
  ],
  [
    'who is forced takes the next epoch only',
    17,
    but((pair, turn) => {
      const { rule, site, after } = turn;
      if (rule !== 'T14' || site === 'W') return [turn];
      const epoch = Math.max(pair.W.epoch, pair[site].epoch) + 1;
      return [{ ...turn, after: { ...withSite(after, site, { epoch }), W: { ...after.W, epoch } } }];
    }),
  ],
  [
    'nobody waits for the lease of the other',
    12,
    but(same, (pair) =>
      siteNames.flatMap((site) =>
        pair[site].up && pair[site].granted
          ? [
              {
                rule: 'T3',
                site,
                after: withSite(pair, site, {
                  mode: 'SOLO',
                  phase: 'RUN',
                  epoch: pair[site].epoch + 1,
                  ...newSpell(pair[site]),
                }),
              },
            ]
          : [],
      ),
    ),
  ],
];

test.each(leftOut)('%s: a promise breaks', (_what, depth, otherwise) => {
  const found = explored(healthyPair('A'), depth, otherwise);
  expect(found.broken).not.toBeNull();
});

test('after both went on together an unused grant is outdated, so that the pair can decide again', () => {
  // A asks, the witness grants, and the link is back before A has used it.
  let pair = failed(healthyPair('A'), 'AB');
  const turn = (rule: string) => {
    pair = turnsOf(pair).find((one) => one.rule === rule && one.site === 'A')!.after;
  };
  ['lease over', 'T1', 'T2', 'T2 arrives'].forEach(turn);
  expect(pair.W).toMatchObject({ epoch: 2, owner: 'A' });
  pair = atRest(repaired(pair, 'AB')).pair;
  expect(pair.W).toMatchObject({ owner: 'both', epoch: pair.A.epoch });
  expect(decisionOf(atRest(failed(pair, 'B')).pair)).toMatchObject({ A: 'SOLO' });
});
