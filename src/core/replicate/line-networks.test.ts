import { pathFinder } from '../attach/paths';
import { changed } from '../estate/effects';
import { named } from '../../../demo/workbench';
import { stage, type Stage } from '../../../demo/protected';
import { MIB } from '../units/bytes';
import { hostsOver } from './line-load';
import { topology } from '../trace/topology';

const line = (at: Stage, name: string) => named(at.estate, 'siteLink', name);
const set = (at: Stage, name: string, state: 'up' | 'down') =>
  at.estate.apply([changed('siteLink', line(at, name), { state })]);
const first = (at: Stage) => [...at.estate.table('mapping').values()][0]!;
const usable = (at: Stage): number => pathFinder(at.estate).count(first(at)).usable;
const whyNot = (at: Stage): string[] => [
  ...new Set(
    pathFinder(at.estate)
      .paths(first(at))
      .missing.map(({ reason }) => reason),
  ),
];
const second = { do: 'site-link.create', name: 'second way', from: 'Nordkai', to: 'Molenhaven', speed: '1 Gb/s' };

/** The host of the stage at the other harbour, in a network that the fibre carries there. */
function afar(): Stage {
  const at = stage();
  at.run({ ...second, name: 'dark fibre', networks: ['iscsi-a', 'iscsi-b'] });
  at.estate.apply([
    changed('host', named(at.estate, 'host', 'gate-1'), { site: named(at.estate, 'site', 'Molenhaven').id }),
  ]);
  return at;
}

test('a host afar loses its paths with the last line that carries its network, and is told so', () => {
  const at = afar();
  const before = usable(at);
  expect(before).toBeGreaterThan(0);
  set(at, 'dark fibre', 'down');
  expect(usable(at)).toBe(0);
  expect(whyNot(at)).toEqual(['line-down']);
  expect(pathFinder(at.estate).paths(first(at)).missing[0]!.message).toMatch(
    /: dark fibre, which carries the network between the sites, is down$/,
  );
  set(at, 'dark fibre', 'up');
  at.run({ ...second, networks: ['iscsi-a', 'iscsi-b'] });
  set(at, 'dark fibre', 'down');
  expect(usable(at)).toBe(before);
});

test('the topology tells which line a network runs over', () => {
  const { nodes } = topology(afar().estate, 0);
  expect(nodes.find(({ name }) => name === 'iscsi-a')!.detail).toMatch(/ over dark fibre$/);
});

test('a host at the site of its array needs no line', () => {
  const at = afar();
  at.estate.apply([
    changed('host', named(at.estate, 'host', 'gate-1'), { site: named(at.estate, 'site', 'Nordkai').id }),
  ]);
  const before = usable(at);
  set(at, 'dark fibre', 'down');
  expect(usable(at)).toBe(before);
});

test('what a host afar sends goes over the lines that carry its network, in equal parts', () => {
  const at = afar();
  const device = [...at.estate.table('hostDevice').values()].find((row) => row.mountPoint !== null)!;
  at.estate.apply([changed('hostDevice', device, { writeRate: 8 * MIB })]);
  expect(hostsOver(at.estate, line(at, 'dark fibre'))).toBe(8 * MIB);
  at.run({ ...second, networks: ['iscsi-a', 'iscsi-b'] });
  expect(hostsOver(at.estate, line(at, 'dark fibre'))).toBe(4 * MIB);
  expect(hostsOver(at.estate, line(at, 'second way'))).toBe(4 * MIB);
  set(at, 'second way', 'down');
  expect(hostsOver(at.estate, line(at, 'dark fibre'))).toBe(8 * MIB);
  set(at, 'second way', 'up');
  at.run({ do: 'site-link.configure', link: 'dark fibre', networks: [] });
  expect(hostsOver(at.estate, line(at, 'dark fibre'))).toBe(0);
  expect(hostsOver(at.estate, line(at, 'second way'))).toBe(8 * MIB);
});

test('a network of neither site is refused, and so is what takes the last path to a mounted volume', () => {
  const at = afar();
  const oever = { do: 'site-link.create', name: 'to Oever', from: 'Molenhaven', to: 'Oever', speed: '200 Mb/s' };
  expect(at.codes({ ...oever, networks: ['iscsi-a'] })).toEqual(['network-elsewhere']);
  expect(at.codes({ ...oever, networks: ['iscsi-c'] })).toEqual([]);
  at.run({ ...second, networks: [] });
  set(at, 'second way', 'down');
  const fromFibre = { do: 'site-link.configure', link: 'dark fibre', networks: [] };
  expect(
    at.codes(fromFibre, { do: 'site-link.configure', link: 'second way', networks: ['iscsi-a', 'iscsi-b'] }),
  ).toEqual(['in-use']);
  at.run({ do: 'site-link.configure', link: 'second way', networks: ['iscsi-a', 'iscsi-b'] });
  // The fibre alone keeps the host going while the second way is down.
  expect(at.codes({ do: 'site-link.delete', link: 'dark fibre' })).toContain('in-use');
  set(at, 'second way', 'up');
  expect(at.codes({ do: 'site-link.delete', link: 'dark fibre' })).toEqual([]);
});
