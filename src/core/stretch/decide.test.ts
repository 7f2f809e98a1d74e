import { stretchedDecide, type Decision, type StretchEvent } from './decide';
import { pathStates } from './path-states';
import { parts, type Part, type SiteName } from './state';

const decided = (preferred: SiteName, ...events: StretchEvent[]): Decision => {
  const found = stretchedDecide({ preferred, events });
  if (!found.ok) throw new Error(found.reason);
  return found.value;
};
const refused = (...events: StretchEvent[]) => {
  const found = stretchedDecide({ preferred: 'A', events });
  return found.ok ? 'ok' : found.reason;
};
const letters = { DOWN: 'D', HOLD: 'H', STALE: 'h', SOLO: 'S', BOTH: 'M' } as const;
const cell = ({ A, B }: Decision) => `${letters[A]}/${letters[B]}`;
const swap: Record<Part, Part> = { A: 'B', B: 'A', W: 'W', AB: 'AB', AW: 'BW', BW: 'AW' };
const swapped = (text: string) => text.split('/').reverse().join('/');

const single: Record<Part, string> = { A: 'D/S', B: 'S/D', W: 'M/M', AB: 'S/H', AW: 'M/M', BW: 'M/M' };
/** Two failures: together, the first then the second, the second then the first. */
const pairs: [Part, Part, string, string, string][] = [
  ['A', 'B', 'D/D', 'D/D', 'D/D'],
  ['A', 'W', 'D/H', 'D/S', 'D/H'],
  ['A', 'AB', 'D/S', 'D/S', 'D/H'],
  ['A', 'AW', 'D/S', 'D/S', 'D/S'],
  ['A', 'BW', 'D/H', 'D/S', 'D/H'],
  ['B', 'W', 'H/D', 'S/D', 'S/D'],
  ['B', 'AB', 'S/D', 'S/D', 'S/D'],
  ['B', 'AW', 'H/D', 'S/D', 'H/D'],
  ['B', 'BW', 'S/D', 'S/D', 'S/D'],
  ['W', 'AB', 'H/H', 'S/H', 'S/H'],
  ['W', 'AW', 'M/M', 'M/M', 'M/M'],
  ['W', 'BW', 'M/M', 'M/M', 'M/M'],
  ['AB', 'AW', 'H/S', 'S/H', 'H/S'],
  ['AB', 'BW', 'S/H', 'S/H', 'S/H'],
  ['AW', 'BW', 'M/M', 'M/M', 'M/M'],
];

test.each(parts)('%s alone leaves a site at work, also where the other one is preferred', (part) => {
  expect(cell(decided('A', { fail: [part] }))).toBe(single[part]);
  expect(cell(decided('B', { fail: [swap[part]] }))).toBe(swapped(single[part]));
});

test.each(pairs)('%s and %s are decided as the table says', (x, y, atOnce, xy, yx) => {
  const told = (preferred: SiteName, of: (part: Part) => Part) =>
    [
      decided(preferred, { fail: [of(x), of(y)] }),
      decided(preferred, { fail: [of(x)] }, { fail: [of(y)] }),
      decided(preferred, { fail: [of(y)] }, { fail: [of(x)] }),
    ].map(cell);
  const expected = [atOnce, xy, yx];
  // Where the two are apart in time, an old copy that is up answers nothing: it counts as silent.
  expect(told('A', (part) => part)).toEqual(expected);
  expect(told('B', (part) => swap[part])).toEqual(expected.map(swapped));
});

test.each(pairs)('%s and %s mended, both are at work again', (x, y) => {
  for (const order of [
    [x, y],
    [y, x],
  ])
    for (const back of [[order], order.map((one) => [one])])
      expect(
        decided('A', ...order.map((part) => ({ fail: [part] })), ...back.map((repair) => ({ repair: repair }))),
      ).toMatchObject({ A: 'BOTH', B: 'BOTH', arbitration: { A: 'witness', B: 'witness' }, witnessOwner: 'both' });
});

test('the witness lost first, then the link: the preferred one goes on, as both agreed', () => {
  const events: StretchEvent[] = [{ fail: ['W'] }, { fail: ['AB'] }];
  expect(decided('A', ...events)).toEqual({
    A: 'SOLO',
    B: 'HOLD',
    serving: ['A'],
    why: { A: null, B: 'promised-to-stop' },
    arbitration: { A: 'preferred', B: 'preferred' },
    witnessOwner: 'both',
  });
  expect(decided('A', ...events, { repair: ['AB'] }, { repair: ['W'] })).toMatchObject({
    A: 'BOTH',
    B: 'BOTH',
    arbitration: { A: 'witness', B: 'witness' },
  });
});

test('a site that is forced stays the owner when the old one comes back', () => {
  const events: StretchEvent[] = [{ fail: ['AB'] }, { fail: ['A'] }];
  expect(decided('A', ...events)).toMatchObject({ A: 'DOWN', B: 'HOLD', why: { B: 'peer-owns' }, witnessOwner: 'A' });
  const force = { force: 'B' as const, confirmPeerOff: true };
  expect(decided('A', ...events, force)).toMatchObject({ B: 'SOLO', witnessOwner: 'B' });
  expect(decided('A', ...events, force, { repair: ['A'] })).toMatchObject({
    A: 'HOLD',
    B: 'SOLO',
    why: { A: 'unverified-owner' },
  });
  expect(decided('A', ...events, force, { repair: ['A'] }, { repair: ['AB'] })).toMatchObject({ A: 'BOTH', B: 'BOTH' });
});

test('forcing is refused where it would harm or has no point', () => {
  const cut: StretchEvent[] = [{ fail: ['AB'] }, { fail: ['A'] }];
  expect(refused(...cut, { force: 'A', confirmPeerOff: true })).toBe('stretched-force-site-down');
  expect(refused({ force: 'A', confirmPeerOff: true })).toBe('stretched-force-peer-reachable');
  expect(refused({ fail: ['AB'] }, { force: 'A', confirmPeerOff: true })).toBe('stretched-already-serving');
  expect(refused(...cut, { force: 'B' })).toBe('stretched-force-needs-peer-off');
  expect(refused(...cut, { fail: ['W'] }, { force: 'B', confirmPeerOff: true })).toBe('stretched-force-needs-witness');
});

test('what hosts see of their paths', () => {
  const cut = { siteStates: { A: 'HOLD', B: 'SOLO' }, hostSite: 'A', interSiteFabricUp: true } as const;
  expect(pathStates({ ...cut, access: 'uniform' })).toEqual({
    paths: { A: 'unavailable', B: 'non-optimized' },
    hostHasIo: true,
  });
  expect(pathStates({ ...cut, access: 'non-uniform', holdExpired: false })).toEqual({
    paths: { A: 'transitioning', B: 'none' },
    hostHasIo: false,
  });
  expect(pathStates({ ...cut, access: 'uniform', interSiteFabricUp: false }).paths.B).toBe('down');
  expect(pathStates({ ...cut, access: 'uniform', hostSite: 'B', siteStates: { A: 'STALE', B: 'BOTH' } }).paths).toEqual(
    {
      A: 'unavailable',
      B: 'optimized',
    },
  );
});
