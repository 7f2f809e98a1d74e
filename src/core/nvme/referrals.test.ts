import { walkDiscovery, type DiscoveryService, type LogPage } from './referrals';

const at = (name: string): DiscoveryService => ({ address: name, service: 8009 });
/** Services by name, each with the names of those it refers to and one entry of its own. */
const world =
  (refers: Record<string, string>) =>
  ({ address }: DiscoveryService): LogPage<string> | null =>
    refers[address] === undefined
      ? null
      : { generation: 1, entries: [`nqn-${address}`], referrals: [...refers[address]].map(at) };

test('two that refer to each other: each asked once, the circle told', () => {
  const walk = walkDiscovery([at('A')], world({ A: 'B', B: 'A' }));
  expect(walk.entries).toEqual(['nqn-A', 'nqn-B']);
  expect(walk.loops.map(({ from, to }) => from.address + to.address)).toEqual(['AB', 'BA']);
  expect(walk.asked.map(({ by }) => by?.address)).toEqual([undefined, 'A']);
});

test('two ways to one service are no circle', () => {
  const walk = walkDiscovery([at('A')], world({ A: 'BC', B: 'D', C: 'D', D: '' }));
  expect(walk.asked.map((one) => `${one.at.address}${one.depth}`)).toEqual(['A0', 'B1', 'C1', 'D2']);
  expect(walk.loops).toEqual([]);
});

test('breadth first: what is near is asked before what is far', () => {
  const walk = walkDiscovery([at('A')], world({ A: 'BC', B: 'D', C: '', D: '' }));
  expect(walk.asked.map((one) => one.at.address).join('')).toBe('ABCD');
});

test('what is silent is told; what lies too deep is not asked, unless a shorter way leads there', () => {
  const chain = world({ A: 'B', B: 'C', C: 'D', D: '' });
  expect(walkDiscovery([at('X')], chain)).toMatchObject({ silent: [at('X')], entries: [] });
  const short = walkDiscovery([at('A')], chain, 2);
  expect(short.tooDeep).toEqual([{ from: at('C'), to: at('D') }]);
  expect(short.entries).toEqual(['nqn-A', 'nqn-B', 'nqn-C']);
  expect(walkDiscovery([at('A'), at('D')], chain, 2).tooDeep).toEqual([]);
});

test('a page that changes while it is read is read again', () => {
  let generation = 0;
  const read = (): LogPage<number> => {
    generation = Math.min(3, generation + 1);
    return { generation, entries: [generation], referrals: [] };
  };
  expect(walkDiscovery([at('A')], read).entries).toEqual([3]);
});
