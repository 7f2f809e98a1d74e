import { slots } from '../../../demo/names';
import { bareEstate, carryOut } from '../../../demo/workbench';
import { demoEstate } from '../../../demo/scenario';
import { serverWwpn } from '../../../demo/hardware';
import { changed } from '../estate/effects';
import type { Estate } from '../estate/estate';
import { formatWwn } from '../naming/wwn';
import { componentsOf, findComponent, type Component } from './components';
import { outage } from './outage';
import { pairFinder, spofFinder } from './spof';

const { estate: demo } = demoEstate();

function fcHost(): Estate {
  const estate = bareEstate();
  carryOut(estate, [
    { do: 'raid-group.create', array: 'lintel-1', name: 'rg-1', level: 'raid6', drives: slots(0, 0, 9) },
    { do: 'pool.create', array: 'lintel-1', name: 'quay', raidGroups: ['rg-1'] },
    { do: 'volume.create', array: 'lintel-1', pool: 'quay', name: 'cargo', size: '100 GiB' },
    {
      do: 'host.create',
      name: 'cargo-db-1',
      os: 'linux',
      site: 'Nordkai',
      initiators: ['hba0', 'hba1'].map((port) => formatWwn(serverWwpn('cargo-db-1', port))),
    },
    { do: 'zoning.join', fabric: 'A', host: 'cargo-db-1', array: 'lintel-1', ports: ['a0', 'b0'] },
    { do: 'zoning.join', fabric: 'B', host: 'cargo-db-1', array: 'lintel-1', ports: ['a1', 'b1'] },
    { do: 'mapping.create', host: 'cargo-db-1', array: 'lintel-1', volumes: ['cargo'] },
  ]);
  return estate;
}
const names = (estate: Estate, ids: readonly string[]) => {
  const components = componentsOf(estate);
  return ids.map((id) => components.get(id)!.name).sort();
};
const onlyMapping = (estate: Estate) => [...estate.table('mapping').values()][0]!;

test('two cards, two fabrics, two controllers: only the array, its enclosure and the site stand alone', () => {
  const estate = fcHost();
  const found = spofFinder(estate)(onlyMapping(estate));
  expect(names(estate, found.inherent)).toEqual(['Nordkai', 'lintel-1']);
  expect(names(estate, found.design)).toEqual(['lintel-1 enclosure 0']);
});

test('a card with two ports is a single point of failure by design', () => {
  const estate = fcHost();
  for (const row of estate.table('interface').values())
    if (row.host) estate.apply([changed('interface', row, { adapter: 'card 0' })]);
  const found = spofFinder(estate)(onlyMapping(estate));
  expect(names(estate, found.design)).toEqual(['cargo-db-1 card 0', 'lintel-1 enclosure 0']);
});

test('pairs name the smallest parts that do: cards rather than nothing, controllers, switches of both fabrics', () => {
  const estate = fcHost();
  const pairs = pairFinder(estate)(onlyMapping(estate)).map((pair) => names(estate, pair).join(' + '));
  expect(pairs).toContain('a1 + b1');
  expect(pairs).toContain('lintel-1 controller a + lintel-1 controller b');
  expect(pairs).toContain('cargo-db-1 hba0 + cargo-db-1 hba1');
  expect(pairs).toContain('b1 + cargo-db-1 hba0');
  expect(pairs.some((pair) => pair.includes('card'))).toBe(false);
  expect(pairs.some((pair) => pair.includes('enclosure'))).toBe(false);
});

test('a volume without paths has no points of failure left', () => {
  const estate = fcHost();
  for (const row of estate.table('switch').values()) estate.apply([changed('switch', row, { state: 'down' })]);
  expect(spofFinder(estate)(onlyMapping(estate))).toEqual({ state: 'no-path', design: [], inherent: [] });
  expect(pairFinder(estate)(onlyMapping(estate))).toEqual([]);
});

test('single points of failure are just those components whose outage loses the pair', () => {
  const components = componentsOf(demo);
  const spofs = spofFinder(demo);
  const mappings = [...demo.table('mapping').values()];
  const byComponent = new Map<string, Set<string>>();
  for (const id of components.keys())
    byComponent.set(
      id,
      new Set(
        outage(demo, [id], components)
          .hurt.filter((hurt) => hurt.verdict === 'lost')
          .map((hurt) => hurt.mapping),
      ),
    );
  for (const mapping of mappings) {
    const found = spofs(mapping);
    if (found.state === 'no-path') continue;
    const alone = [...components.keys()].filter((id) => byComponent.get(id)!.has(mapping.id)).sort();
    expect([...found.design, ...found.inherent].sort()).toEqual(alone);
  }
});

test('pairs are just the twos that cut and cannot be made smaller', () => {
  const components = componentsOf(demo);
  const host = [...demo.table('host').values()].find((row) => row.name === 'deck-3')!;
  const mapping = demo.table('mapping').by('host', host.id)[0]!;
  const found = spofFinder(demo)(mapping);
  const single = new Set([...found.design, ...found.inherent]);
  // Only what could matter is tried: parts of its own host, the array, the fabrics.
  const relevant = [...components.values()].filter(
    (one) =>
      !single.has(one.id) &&
      (one.name.startsWith('deck-3') ||
        one.name.startsWith('lintel-1') ||
        ['switch', 'isl', 'site'].includes(one.class)),
  );
  const lost = (ids: string[]) =>
    outage(demo, ids, components).hurt.some((hurt) => hurt.mapping === mapping.id && hurt.verdict === 'lost');
  const children = (id: string): Component[] => relevant.filter((one) => one.within.includes(id));
  const cuts = new Map<string, boolean>();
  const cut = (a: string, b: string): boolean => {
    const key = [a, b].sort().join(' ');
    if (!cuts.has(key)) cuts.set(key, lost([a, b]));
    return cuts.get(key)!;
  };
  const wanted: string[] = [];
  relevant.forEach((a, k) => {
    for (const b of relevant.slice(k + 1)) {
      if (!cut(a.id, b.id)) continue;
      const smaller =
        children(a.id).some((part) => part.id !== b.id && cut(part.id, b.id)) ||
        children(b.id).some((part) => part.id !== a.id && cut(part.id, a.id));
      if (!smaller) wanted.push([a.id, b.id].sort().join(' '));
    }
  });
  // Enclosures that only together lose the group are the group's matter.
  const ofPaths = wanted.filter((pair) => !pair.split(' ').some((id) => components.get(id)!.class === 'enclosure'));
  expect(
    pairFinder(demo)(mapping)
      .map((pair) => pair.join(' '))
      .sort(),
  ).toEqual(ofPaths.sort());
  expect(ofPaths.length).toBeGreaterThan(8);
});

test('planned work on a switch: those on one fabric lose, the others go on with fewer paths', () => {
  const components = componentsOf(demo);
  const a2 = findComponent(components, 'A2')!;
  const report = outage(demo, [a2.id], components);
  expect(report.hurt.filter((hurt) => hurt.verdict === 'lost').map((hurt) => hurt.host)).toEqual(['ledger-1']);
  const deck = report.hurt.filter((hurt) => hurt.host === 'deck-3');
  expect(deck.length).toBeGreaterThan(0);
  for (const hurt of deck) expect(hurt).toMatchObject({ verdict: 'degraded', before: 4, after: 2 });
  expect(report.hurt.some((hurt) => hurt.host === 'deck-1')).toBe(false);
  expect(report.counts.lost + report.counts.degraded + report.counts.unchanged).toBe(
    demo.table('mapping').size - report.without - report.counts['non-optimized-only'],
  );
  expect([...demo.table('switch').values()].every((row) => row.state === 'up')).toBe(true);
});

test('a controller down leaves paths that the other takes over; its partner too, and the array is lost', () => {
  const components = componentsOf(demo);
  const one = outage(demo, [findComponent(components, 'lintel-1 controller a')!.id], components);
  expect(one.counts.lost).toBe(0);
  expect(one.hurt.every((hurt) => hurt.verdict === 'degraded')).toBe(true);
  const both = outage(
    demo,
    ['a', 'b'].map((name) => findComponent(components, `lintel-1 controller ${name}`)!.id),
    components,
  );
  expect(both.hurt.every((hurt) => hurt.array === 'lintel-1' && hurt.verdict === 'lost')).toBe(true);
});

test('a site takes its arrays, switches and networks along', () => {
  const components = componentsOf(demo);
  const report = outage(demo, [findComponent(components, 'Molenhaven')!.id], components);
  expect(report.hurt.filter((hurt) => hurt.verdict === 'lost').map((hurt) => hurt.host)).toEqual([
    // In use, hence first.
    'ledger-1',
    ...Array<string>(3).fill('deck-3'),
    ...Array<string>(3).fill('deck-4'),
  ]);
});
